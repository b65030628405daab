<script setup lang="ts">
import { computed } from 'vue'

import type { ParcelSummary } from '../data/api'
import { mbps } from '../data/words'

/** Where the guidance for this output comes from: the sheet's rows, the line between or beyond them, and the choice. */
const props = defineProps<{ summary: ParcelSummary }>()
const guidance = computed(() => props.summary.plan.guidance!)
const target = computed(() => props.summary.plan.video!.target_bps.value)
const WIDE = 340
const HIGH = 92

const rows = computed(() => {
  const { frame_rate_class: kind, rows: used } = guidance.value
  const own = used[0]
  return props.summary.destination.placement.guidance!.filter(
    (row) => row.codec === own.codec && row.dynamic_range === own.dynamic_range && row.frame_rate_class === (guidance.value.borrowed_class ? own.frame_rate_class : kind),
  )
})
const factor = computed(() => guidance.value.factor ?? 1)
const sides = computed(() => [...rows.value.map((row) => row.short_side_px), guidance.value.short_side_px])
const rates = computed(() => [...rows.value.flatMap((row) => [row.low_bps * factor.value, row.high_bps * factor.value]), guidance.value.low_bps, guidance.value.high_bps, target.value])
function scale(value: number, all: number[], from: number, to: number): number {
  const [low, high] = [Math.log(Math.min(...all)) - 0.12, Math.log(Math.max(...all)) + 0.12]
  return from + ((Math.log(value) - low) / (high - low)) * (to - from)
}
const x = (side: number) => scale(side, sides.value, 40, WIDE - 12)
const y = (bps: number) => scale(bps, rates.value, HIGH - 18, 6)
const sorted = computed(() => [...rows.value].sort((a, b) => a.short_side_px - b.short_side_px))
const line = (end: 'low_bps' | 'high_bps') => sorted.value.map((row) => `${x(row.short_side_px)},${y(row[end] * factor.value)}`).join(' ')
const used = computed(() => new Set(guidance.value.rows.map((row) => row.short_side_px)))
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="`Guidance: ${guidance.sentence}. Chosen: ${mbps(target)}`">
      <line :x1="x(guidance.short_side_px)" :x2="x(guidance.short_side_px)" y1="4" :y2="HIGH - 18" class="here" />
      <polyline :points="line('low_bps')" class="rule" />
      <polyline :points="line('high_bps')" class="rule" />
      <g v-for="row in sorted" :key="row.short_side_px">
        <line :x1="x(row.short_side_px)" :x2="x(row.short_side_px)" :y1="y(row.low_bps * factor)" :y2="y(row.high_bps * factor)" class="row" :class="{ used: used.has(row.short_side_px) }" />
        <text :x="x(row.short_side_px)" :y="HIGH - 5" text-anchor="middle" :class="{ used: used.has(row.short_side_px) }">{{ row.short_side_px }}</text>
      </g>
      <line :x1="x(guidance.short_side_px) - 5" :x2="x(guidance.short_side_px) - 5" :y1="y(guidance.low_bps)" :y2="y(guidance.high_bps)" class="found" />
      <text x="2" :y="y(guidance.high_bps) + 1">{{ (guidance.high_bps / 1e6).toPrecision(3) }}</text>
      <text x="2" :y="y(guidance.low_bps) + 9">{{ (guidance.low_bps / 1e6).toPrecision(3) }}</text>
      <path :d="`M${x(guidance.short_side_px) + 4},${y(target)} l9,-5 v10 z`" class="chosen" />
    </svg>
    <figcaption class="tiny quiet">{{ guidance.sentence }}. Yours is {{ summary.guidance_words }}.</figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 8px 0 2px;
}

svg {
  display: block;
  width: 100%;
}

text {
  font: 10.5px var(--mono);
  fill: var(--second-ink);
}

text.used {
  fill: var(--ink);
  font-weight: 700;
}

.rule {
  fill: none;
  stroke: var(--twine);
  stroke-width: 1;
}

.row {
  stroke: var(--twine);
  stroke-width: 3;
}

.row.used {
  stroke: var(--ink);
  stroke-width: 4;
}

.found {
  stroke: var(--airmail);
  stroke-width: 4;
}

.here {
  stroke: var(--declaration-line);
  stroke-width: 1;
  stroke-dasharray: 2 3;
}

.chosen {
  fill: var(--ink);
}
</style>
