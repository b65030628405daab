import { ref, shallowRef } from 'vue'

import { api, type HandoffFound } from './api'

/** A file that came back, dropped anywhere on Receipts: what became of it. */
const name = ref('')
const file = shallowRef<File | null>(null)
const found = ref<HandoffFound | null>(null)
const trouble = ref('')
const busy = ref(false)

async function check(dropped: File): Promise<void> {
  name.value = dropped.name
  file.value = dropped
  found.value = null
  trouble.value = ''
  busy.value = true
  try {
    found.value = await api.handoff(dropped)
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
function clear(): void {
  found.value = file.value = null
  name.value = trouble.value = ''
}

export const useHandoff = () => ({ name, file, found, trouble, busy, check, clear })
