<script setup lang="ts">
import { ElRadioButton, ElRadioGroup } from 'element-plus'

import type { FramingMode } from '../data/api'

/** How frames of another shape are filled; null where nothing was chosen, which `inherits` offers as a choice of its own. */
defineProps<{ mode: FramingMode | null; label: string; inherits?: boolean }>()
const emit = defineEmits<{ choose: [mode: FramingMode | null] }>()
const MODES: { mode: FramingMode; words: string }[] = [
  { mode: 'fill', words: 'Crop' }, { mode: 'blur', words: 'Blurred background' }, { mode: 'fit', words: 'Bars' },
]
const NONE = ''
</script>

<template>
  <div class="row shape-modes">
    <slot />
    <ElRadioGroup
      :model-value="mode ?? NONE" :aria-label="label"
      @update:model-value="emit('choose', $event === NONE ? null : ($event as FramingMode))"
    >
      <ElRadioButton v-if="inherits" :value="NONE">As all shapes</ElRadioButton>
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
