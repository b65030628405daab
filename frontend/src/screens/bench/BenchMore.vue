<script setup lang="ts">
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

const looking = ref(false)
const scaledDown = computed(() => {
  const framing = video.value?.framing.value
  return !!framing && framing.picture.width < framing.crop.width
})

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
    <p v-if="!copied" class="switches">
      <label v-if="plan.fast_start.because.code !== 'no_index'"><input type="checkbox" :checked="plan.fast_start.value" @change="emit('change', { fast_start: !plan.fast_start.value })" /> index first</label>
      <label><input type="checkbox" :checked="choices.sound !== false" @change="emit('change', { sound: choices.sound === false })" /> sound</label>
      <label v-if="view.summary.destination.placement.picture !== false"><input type="checkbox" :checked="choices.picture !== false" @change="emit('change', { picture: choices.picture === false })" /> picture</label>
      <label v-if="video && !copied"><input type="checkbox" :checked="choices.sharpen === true" @change="emit('change', { sharpen: choices.sharpen !== true })" /> sharpen lightly</label>
      <button v-if="video && !copied" type="button" class="link" :disabled="!scaledDown" :title="scaledDown ? '' : 'Nothing is scaled down here'" @click="looking = true">
        {{ scaledDown ? 'see what it does' : 'nothing is scaled down to sharpen' }}
      </button>
    </p>
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
  gap: 18px;
  margin-top: 6px;
}

input[type='checkbox'] {
  accent-color: var(--ink);
}
</style>
