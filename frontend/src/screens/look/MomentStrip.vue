<script setup lang="ts">
import { computed } from 'vue'

import type { Rehearsal } from '../../data/api'
import { place, ratio } from '../../data/words'

/** Every measured picture as a bar: the shorter, the more it suffers. Click or use the arrow keys to step. */
const props = defineProps<{ moments: Rehearsal['moments'] }>()
const index = defineModel<number>({ required: true })

const low = computed(() => Math.min(...props.moments.map((m) => m.arrived)) - 1)
const high = computed(() => Math.max(...props.moments.map((m) => m.arrived)))
const tall = (value: number) => 20 + (80 * (value - low.value)) / Math.max(2, high.value - low.value)

function step(event: KeyboardEvent): void {
  const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, Home: -1e6, End: 1e6 }
  if (!(event.key in steps)) return
  event.preventDefault()
  index.value = Math.min(props.moments.length - 1, Math.max(0, index.value + steps[event.key]))
}
</script>

<template>
  <div class="moments">
    <span class="quiet tiny">Measured pictures, worst lowest</span>
    <div
      class="bars"
      role="slider"
      tabindex="0"
      aria-label="Measured picture"
      aria-valuemin="1"
      :aria-valuemax="moments.length"
      :aria-valuenow="index + 1"
      :aria-valuetext="place(ratio(moments[index].master_s))"
      @keydown="step"
    >
      <span
        v-for="(moment, i) in moments"
        :key="moment.reel_index"
        class="slot"
        :class="{ here: i === index, jump: i > 0 && moment.reel_index !== moments[i - 1].reel_index + 1 }"
        :title="`${place(ratio(moment.master_s))}, arrived at ${moment.arrived.toFixed(0)}`"
        @click="index = i"
        ><span class="bar" :style="{ height: `${tall(moment.arrived)}%` }"
      /></span>
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
  height: 100%;
  padding: 0 0.5px;
  cursor: pointer;
}

.slot.jump {
  border-left: 3px solid var(--paper);
}

.bar {
  width: 100%;
  background: var(--airmail);
}

.slot:hover .bar {
  background: var(--second-ink);
}

.slot.here {
  background: var(--kraft);
}

.slot.here .bar {
  background: var(--ink);
}
</style>
