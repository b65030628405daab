<script setup lang="ts">
import { ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'

import type { Choices, ParcelView, TypedChoice } from '../../data/api'
import DraftInput from '../../parts/DraftInput.vue'
import SharpeningDialog from './SharpeningDialog.vue'

/** Every value that the pickers do not show, typed. An empty field is left to the plan, whose value stands in it, pale. */
const props = defineProps<{ view: ParcelView }>()
const emit = defineEmits<{ change: [part: Partial<Choices>] }>()
const plan = computed(() => props.view.summary.plan)
const choices = computed(() => props.view.summary.choices)
const video = computed(() => plan.value.video)
const copied = computed(() => plan.value.method.value !== 'encoded')

const WHERE = ['inside', 'beside, as SRT', 'beside, as WebVTT', 'left out'] as const
const captions = computed(() => {
  const planned = plan.value.captions
  return planned?.value ? { ...planned, value: planned.value } : undefined
})
const looking = ref(false)

const fields = computed(() => props.view.typed ?? [])
function typed({ key, times }: TypedChoice, text: string): void {
  const clean = text.trim().replace(',', '.').replace('−', '-')
  const value = clean === '' ? null : times === 0 ? clean : times > 1 ? Math.round(Number(clean) * times) : Number(clean)
  emit('change', { [key]: value } as Partial<Choices>)
}
</script>

<template>
  <details class="more">
    <summary>every other value</summary>
    <div class="fields">
      <label v-for="field in fields" :key="field.key">
        <span>{{ field.name }}<template v-if="field.unit">, {{ field.unit }}</template></span>
        <DraftInput class="value" :text="field.text" :placeholder="field.planned" @typed="typed(field, $event)" />
      </label>
    </div>
    <div class="switches">
      <template v-if="!copied">
        <ElCheckbox v-if="plan.fast_start.value !== null" size="small" :model-value="plan.fast_start.value" @change="emit('change', { fast_start: !plan.fast_start.value })">index first</ElCheckbox>
        <ElCheckbox v-if="plan.chapters.value !== null" size="small" :model-value="plan.chapters.value" @change="emit('change', { chapters: !plan.chapters.value })">chapters</ElCheckbox>
        <ElCheckbox size="small" :model-value="choices.sound !== false" @change="emit('change', { sound: choices.sound === false })">sound</ElCheckbox>
        <ElCheckbox v-if="view.summary.destination.placement.picture !== false" size="small" :model-value="choices.picture !== false" @change="emit('change', { picture: choices.picture === false })">picture</ElCheckbox>
        <ElCheckbox v-if="video" size="small" :model-value="choices.sharpen === true" @change="emit('change', { sharpen: choices.sharpen !== true })">sharpen lightly</ElCheckbox>
        <button v-if="video" type="button" class="link" @click="looking = true">see what it does</button>
      </template>
      <label v-if="captions" class="captions" :title="captions.because.sentence">
        captions
        <ElSelect size="small" aria-label="Captions" :model-value="captions.value" @change="emit('change', { captions: $event })">
          <ElOption v-for="where in WHERE" :key="where" :value="where" :label="where" />
        </ElSelect>
      </label>
    </div>
    <SharpeningDialog
      v-if="looking" v-model="looking" :parcel-id="view.summary.parcel.id" :on="choices.sharpen === true"
      @choose="emit('change', { sharpen: $event })"
    />
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
}

.fields {
  display: grid;
  grid-template-columns: repeat(6, minmax(0, 1fr));
  gap: 6px 14px;
  margin-top: 6px;
}

.fields label {
  font-size: 12.5px;
  color: var(--second-ink);
}

.value {
  width: 100%;
  padding: 2px 6px;
  color: var(--ink);
  font: 13px var(--mono);
}

.value::placeholder {
  color: var(--second-ink);
  opacity: 1;
}

.switches {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 18px;
  margin-top: 6px;
  font-size: 12.5px;
}

.switches :deep(.el-checkbox) {
  margin-right: 0;
}

.captions {
  display: flex;
  align-items: center;
  gap: 8px;
}

.captions :deep(.el-select) {
  width: 150px;
}
</style>
