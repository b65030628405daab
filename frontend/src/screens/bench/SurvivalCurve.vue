<script setup lang="ts">
import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, MarkLineComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import VChart from 'vue-echarts'

import type { ParcelSummary, Seen } from '../../data/api'
import { useLook } from '../../data/useLook'
import { mbps } from '../../data/words'
import type { OtherWay } from './besides'
import { curveOption, floorOf, GRID, type CurveColours } from './curveOption'

use([LineChart, ScatterChart, GridComponent, MarkAreaComponent, MarkLineComponent, CanvasRenderer])

/** The survival curve is the control: its round handle is the upload bit rate. */
const props = defineProps<{ summary: ParcelSummary; seen: Seen; bitrate: number; asItIs: number | null; ways: OtherWay[]; recommended?: number | null }>()
const emit = defineEmits<{ drag: [bps: number]; drop: [bps: number]; nudge: [bps: number] }>()

const holder = ref<HTMLElement>()
const { width, height } = useElementSize(holder)
const { tokens } = useLook()
const colours = computed<CurveColours>(() => ({
  ink: tokens.value('--ink'), second: tokens.value('--second-ink'), line: tokens.value('--line'), airmail: tokens.value('--airmail'),
  band: tokens.value('--band'), guidance: tokens.value('--guidance'), twine: tokens.value('--twine-ink'), cleared: tokens.value('--cleared'),
  sheet: tokens.value('--sheet'),
}))
const option = computed(() => curveOption(props.summary, props.seen, colours.value, props.asItIs, props.ways))

const lowest = computed(() => props.summary.lowest_bps ?? props.bitrate / 2)
const highest = computed(() => props.summary.highest_bps ?? props.bitrate * 2)
const span = computed(() => Math.log(highest.value / lowest.value))
const plotWidth = computed(() => Math.max(1, width.value - GRID.left - GRID.right))
const plotHeight = computed(() => Math.max(1, height.value - GRID.top - GRID.bottom))
const handle = computed(() => {
  const share = Math.log(props.bitrate / lowest.value) / span.value
  const floor = floorOf(props.seen)
  const value = props.seen.at?.condition ?? floor
  return {
    x: GRID.left + Math.min(1, Math.max(0, share)) * plotWidth.value,
    y: GRID.top + (1 - (value - floor) / (100 - floor)) * plotHeight.value,
  }
})

/** The rate under a place on the chart, in steps fine enough for the eye and plain enough to read. */
function rateAt(x: number): number {
  const share = Math.min(1, Math.max(0, (x - GRID.left) / plotWidth.value))
  return tidy(lowest.value * Math.exp(share * span.value))
}

function tidy(bps: number): number {
  const step = bps < 2e6 ? 1e4 : 1e5
  const bounded = Math.min(highest.value, Math.max(lowest.value, bps))
  return Math.max(50_000, Math.round(bounded / step) * step)
}

function grab(event: PointerEvent): void {
  const box = holder.value!.getBoundingClientRect()
  const target = event.currentTarget as HTMLElement
  target.setPointerCapture(event.pointerId)
  const at = (moved: PointerEvent) => rateAt(moved.clientX - box.left)
  emit('drag', at(event))
  target.onpointermove = (moved) => emit('drag', at(moved))
  target.onpointerup = (moved) => {
    target.onpointermove = target.onpointerup = null
    emit('drop', at(moved))
  }
}

function nudge(event: KeyboardEvent): void {
  const factors: Record<string, number> = { ArrowLeft: 1 / 1.02, ArrowRight: 1.02, ArrowDown: 1 / 1.02, ArrowUp: 1.02, PageDown: 1 / 1.2, PageUp: 1.2 }
  const next =
    event.key === 'Home' ? lowest.value
    : event.key === 'End' ? highest.value
    : event.key.toLowerCase() === 'e' ? (props.recommended ?? undefined)
    : event.key in factors ? props.bitrate * factors[event.key]
    : undefined
  if (next === undefined) return
  event.preventDefault()
  const tidied = tidy(next)
  const step = props.bitrate < 2e6 ? 1e4 : 1e5
  const moved = tidied === props.bitrate && event.key in factors ? props.bitrate + Math.sign(factors[event.key] - 1) * step : tidied
  emit('nudge', tidy(moved))
}
</script>

<template>
  <div ref="holder" class="curve sheet">
    <VChart class="chart" :option="option" :update-options="{ notMerge: true }" autoresize aria-hidden="true" />
    <div class="surface" @pointerdown.prevent="grab" />
    <span class="stem" :style="{ left: `${handle.x}px`, top: `${handle.y}px`, height: `${GRID.top + plotHeight - handle.y}px` }" />
    <span
      class="handle"
      role="slider"
      tabindex="0"
      aria-label="Upload bit rate"
      :aria-valuemin="lowest"
      :aria-valuemax="highest"
      :aria-valuenow="bitrate"
      :aria-valuetext="mbps(bitrate)"
      :style="{ left: `${handle.x}px`, top: `${handle.y}px` }"
      @pointerdown.prevent="grab"
      @keydown="nudge"
    />
    <div v-if="!seen.curve.points.length && (!seen.curve.line.length || seen.curve.evidence === 'sheet')" class="over"><slot name="empty" /></div>
  </div>
</template>

<style scoped>
.curve {
  position: relative;
  height: 100%;
  touch-action: none;
}

.chart,
.surface {
  position: absolute;
  inset: 0;
}

.surface {
  cursor: ew-resize;
}

.stem {
  position: absolute;
  width: 1.5px;
  background: var(--ink);
  pointer-events: none;
}

.handle {
  position: absolute;
  width: 20px;
  height: 20px;
  margin: -10px 0 0 -10px;
  border: 3.5px solid var(--ink);
  border-radius: 50%;
  background: var(--sheet);
  cursor: ew-resize;
}

.over {
  position: absolute;
  inset: 22% 20% auto;
  padding: 18px 22px;
  text-align: center;
  background: color-mix(in srgb, var(--sheet) 92%, transparent);
  border: 1px solid var(--line);
}
</style>
