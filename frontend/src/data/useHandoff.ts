import { ref } from 'vue'

import { api, type HandoffFound } from './api'

/** A file that came back, dropped anywhere on Receipts: what became of it. */
const name = ref('')
const found = ref<HandoffFound | null>(null)
const trouble = ref('')
const busy = ref(false)

async function check(file: File): Promise<void> {
  name.value = file.name
  found.value = null
  trouble.value = ''
  busy.value = true
  try {
    found.value = await api.handoff(file)
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
function clear(): void {
  found.value = null
  name.value = trouble.value = ''
}

export const useHandoff = () => ({ name, found, trouble, busy, check, clear })
