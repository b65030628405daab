<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useUploads } from '../data/uploads'
import { useHandoff } from '../data/useHandoff'

/** Films may be dropped anywhere on the page; while they are held over it, it says so. */
const uploads = useUploads()
const router = useRouter()
const route = useRoute()
const handoff = useHandoff()
/** On Receipts a film is one that came back. */
const back = computed(() => route.name === 'receipts')
const over = ref(false)
const carries = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false

useEventListener(window, 'dragover', (event: DragEvent) => {
  if (!carries(event)) return
  event.preventDefault()
  over.value = true
})
useEventListener(window, 'dragleave', (event: DragEvent) => {
  if (!event.relatedTarget) over.value = false
})
useEventListener(window, 'drop', (event: DragEvent) => {
  if (!carries(event)) return
  event.preventDefault()
  over.value = false
  const files = [...(event.dataTransfer?.files ?? [])]
  if (files.length && back.value) void handoff.check(files[0])
  else if (files.length) {
    uploads.add(files)
    void router.push({ name: 'shelf' })
  }
})
</script>

<template>
  <div v-if="over" class="over" role="status">
    <p>{{ back ? 'Let go to hold it against what was packed' : 'Let go to put it on the shelf' }}</p>
  </div>
</template>

<style scoped>
.over {
  position: fixed;
  inset: 0;
  z-index: 30;
  display: grid;
  place-items: center;
  background: color-mix(in srgb, var(--paper) 82%, transparent);
  outline: 4px dashed var(--twine);
  outline-offset: -18px;
  pointer-events: none;
}

p {
  font: 600 26px var(--slab);
}
</style>
