<script setup lang="ts">
import { ref } from 'vue'

/** A field whose text stays as it is being typed until it is entered, whatever else changes on the page. */
defineProps<{ text: string }>()
const emit = defineEmits<{ typed: [text: string] }>()
const draft = ref<string>()

function enter(): void {
  const text = draft.value
  draft.value = undefined
  if (text !== undefined) emit('typed', text)
}
</script>

<template>
  <input :value="draft ?? text" @input="draft = ($event.target as HTMLInputElement).value" @change="enter" @blur="enter" @keydown.esc="draft = undefined" />
</template>

<style scoped>
input {
  padding: 0 4px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
}
</style>
