<script setup lang="ts">
import { ref } from 'vue'

import { place } from '../data/words'

/** A place in the film as a field: what is being typed stays until it is entered, whatever else changes on the page. */
defineProps<{ at: number; label: string }>()
const emit = defineEmits<{ typed: [text: string] }>()
const draft = ref<string>()

function enter(): void {
  const text = draft.value
  draft.value = undefined
  if (text !== undefined) emit('typed', text)
}
</script>

<template>
  <label class="place mono">
    <span class="quiet">{{ label }}</span>
    <input :value="draft ?? place(at)" size="8" @input="draft = ($event.target as HTMLInputElement).value" @change="enter" @blur="enter" @keydown.esc="draft = undefined" />
    <slot />
  </label>
</template>

<style scoped>
.place {
  display: flex;
  gap: 6px;
  align-items: center;
}

input {
  padding: 0 4px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
}
</style>
