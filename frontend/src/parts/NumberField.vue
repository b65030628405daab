<script setup lang="ts" generic="T extends number | null | undefined">
import { ElInput } from 'element-plus'
import { computed, ref } from 'vue'

import { numberIn } from '../data/words'

/**
 * A number in a field: in the unit that is shown, which is `scale` of the model's own. Text that is no number changes nothing: the field
 * says so, and shows the last number again when it is left. An empty field is null where that is `optional`.
 */
const model = defineModel<T>()
const props = withDefaults(defineProps<{ label?: string; scale?: number; optional?: boolean; placeholder?: string }>(), {
  label: undefined, scale: 1, placeholder: undefined,
})
const emit = defineEmits<{ change: [] }>()
const draft = ref<string>()
const stored = computed(() => (model.value == null ? '' : String(Math.round((model.value / props.scale) * 1e6) / 1e6)))
const number = computed(() => (draft.value === undefined ? undefined : numberIn(draft.value)))
const empty = computed(() => props.optional && !draft.value?.trim())
const wrong = computed(() => draft.value !== undefined && number.value === undefined && !empty.value)

function type(text: string): void {
  draft.value = text
  if (wrong.value) return
  model.value = (number.value === undefined ? null : Math.round(number.value * props.scale * 1000) / 1000) as T
  emit('change')
}
</script>

<template>
  <span class="number-field"><ElInput
    class="number" size="small" inputmode="decimal" :model-value="draft ?? stored" :placeholder="placeholder" :aria-label="label"
    :aria-invalid="wrong || undefined" :class="{ wrong }" @update:model-value="type" @blur="draft = undefined"
  />
  <span v-if="wrong" class="fault" role="status">Type a number.</span></span>
</template>

<style scoped>
.number-field {
  display: inline-flex;
  flex-direction: column;
  gap: 2px;
}

.number {
  --el-input-inner-height: 24px;
}

.number.wrong :deep(.el-input__wrapper) {
  box-shadow: 0 0 0 2px var(--care) inset;
}
</style>
