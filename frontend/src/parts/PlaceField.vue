<script setup lang="ts">
import { place } from '../data/words'
import DraftInput from './DraftInput.vue'

/** A place in the film as a field. */
defineProps<{ at: number; label: string }>()
const emit = defineEmits<{ typed: [text: string] }>()
</script>

<template>
  <label class="place mono">
    <span class="quiet">{{ label }}</span>
    <DraftInput :text="place(at)" size="8" @typed="emit('typed', $event)" />
    <slot />
  </label>
</template>

<style scoped>
.place {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
