<script setup lang="ts">
import { ElRadioButton, ElRadioGroup } from 'element-plus'

import type { FramingMode } from '../data/api'

/** How frames of another shape are filled. Nothing is marked before the creator was asked. */
defineProps<{ mode: FramingMode | null; label: string }>()
const emit = defineEmits<{ choose: [mode: FramingMode] }>()
const MODES: { mode: FramingMode; words: string }[] = [
  { mode: 'fill', words: 'Crop' }, { mode: 'blur', words: 'Blurred background' }, { mode: 'fit', words: 'Bars' },
]
</script>

<template>
  <div class="row shape-modes">
    <slot><span>{{ label }}</span></slot>
    <ElRadioGroup :model-value="mode ?? undefined" :aria-label="label" @update:model-value="emit('choose', $event as FramingMode)">
      <ElRadioButton v-for="one in MODES" :key="one.mode" :value="one.mode">{{ one.words }}</ElRadioButton>
    </ElRadioGroup>
  </div>
</template>

<style scoped>
.shape-modes {
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
</style>
