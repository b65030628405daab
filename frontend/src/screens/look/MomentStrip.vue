<script setup lang="ts">
import { computed } from 'vue'

import { place, ratio } from '../../data/words'

export interface MomentShown {
  key: string
  master_s: string
  /** Condition on arrival, of one way or of two; null where it was not measured. */
  values: (number | null)[]
}

/** Every rehearsed picture as a bar, or as two of two ways: the shorter, the more it suffers. Click or use the arrow keys to step. */
const props = defineProps<{ moments: MomentShown[]; legend: string }>()
const index = defineModel<number>({ required: true })

const known = computed(() => props.moments.flatMap((moment) => moment.values).filter((value) => value !== null))
const low = computed(() => Math.min(...known.value) - 1)
const high = computed(() => Math.max(...known.value))
const tall = (value: number) => 20 + (80 * (value - low.value)) / Math.max(2, high.value - low.value)
const told = (moment: MomentShown) => `${place(ratio(moment.master_s))}, ${moment.values.map((value) => (value === null ? 'not measured' : value.toFixed(0))).join(' and ')}`
/** Pictures that do not follow one another have a gap between them. */
const jumps = computed(() => {
  const times = props.moments.map((moment) => ratio(moment.master_s))
  const steps = times.slice(1).map((at, i) => at - times[i])
  const usual = Math.min(...steps.filter((step) => step > 0))
  return [false, ...steps.map((step) => step > usual * 1.5)]
})

function step(event: KeyboardEvent): void {
  const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, Home: -1e6, End: 1e6 }
  if (!(event.key in steps)) return
  event.preventDefault()
  index.value = Math.min(props.moments.length - 1, Math.max(0, index.value + steps[event.key]))
}
</script>

<template>
  <div class="moments">
    <span class="quiet tiny">{{ legend }}</span>
    <div
      class="bars"
      role="slider"
      tabindex="0"
      aria-label="Measured picture"
      aria-valuemin="1"
      :aria-valuemax="moments.length"
      :aria-valuenow="index + 1"
      :aria-valuetext="told(moments[index])"
      @keydown="step"
    >
      <span v-for="(moment, i) in moments" :key="moment.key" class="slot" :class="{ here: i === index, jump: jumps[i] }" :title="told(moment)" @click="index = i">
        <template v-for="(value, way) in moment.values" :key="way">
          <span v-if="value !== null" class="bar" :class="{ other: way }" :style="{ height: `${tall(value)}%` }" />
          <span v-else class="bar none" />
        </template>
      </span>
    </div>
  </div>
</template>

<style scoped>
.bars {
  display: flex;
  align-items: flex-end;
  height: 52px;
  background: var(--sheet);
  border: 1px solid var(--line);
}

.slot {
  display: flex;
  align-items: flex-end;
  flex: 1;
  gap: 1px;
  height: 100%;
  padding: 0 0.5px;
  cursor: pointer;
}

.slot.jump {
  border-left: 3px solid var(--paper);
}

.bar {
  flex: 1;
  background: var(--airmail);
}

.bar.other {
  background: none;
  border: 1px solid var(--ink);
  border-bottom: 0;
}

.bar.none {
  background: none;
}

.slot:hover .bar:not(.other, .none) {
  background: var(--second-ink);
}

.slot.here {
  background: var(--kraft);
}

.slot.here .bar:not(.other, .none) {
  background: var(--ink);
}
</style>
