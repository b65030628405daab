<script setup lang="ts">
import { useElementSize, useWindowSize } from '@vueuse/core'
import { computed, ref } from 'vue'

import type { FramingView, ShapeHere } from '../../data/api'
import { centreOf } from './useFraming'

/** The master's picture with every shape's outline at once. The focus is for all shapes; the chosen outline moves alone. */
const props = defineProps<{ view: FramingView; chosen: string; source?: string; label: string }>()
const emit = defineEmits<{
  choose: [id: string]
  focus: [at: { x: number; y: number }, done: boolean]
  move: [at: { x: number; y: number }, done: boolean]
  key: [kind: 'focus' | 'move', right: number, down: number]
  zoom: [factor: number]
}>()

const holder = ref<HTMLElement>()
const { width: room } = useElementSize(holder)
/** On larger screens the picture grows; the words do not. */
const { height: screen } = useWindowSize()
const most = computed(() => Math.min(560, Math.max(300, screen.value - 462)))
const scale = computed(
  () => Math.min(room.value / props.view.display_width, most.value / props.view.display_height) || 0.1,
)
const stage = computed(() => ({
  width: props.view.display_width * scale.value,
  height: props.view.display_height * scale.value,
}))
const px = (value: number) => `${value * scale.value}px`

const selected = computed(() => props.view.shapes.find((shape) => shape.parcel_id === props.chosen))
const focus = computed(() => props.view.focus ?? { x: 0.5, y: 0.5 })
const focusAt = computed(() => ({
  left: px(props.view.active.x + focus.value.x * props.view.active.width),
  top: px(props.view.active.y + focus.value.y * props.view.active.height),
}))
const DASHES = ['', '9 4', '3 3', '14 4 3 4', '1 5', '9 3 3 3 3 3']
/** Destinations whose outlines are the same share one label. */
const outlines = computed(() => {
  const found = new Map<string, { shape: ShapeHere; ids: string[]; names: string }>()
  for (const shape of props.view.shapes) {
    const { x, y, width, height } = shape.framing.crop
    const same = found.get(`${x} ${y} ${width} ${height}`)
    if (same) {
      same.ids.push(shape.parcel_id)
      if (!same.names.split(' · ').includes(shape.shape)) same.names += ` · ${shape.shape}`
    } else found.set(`${x} ${y} ${width} ${height}`, { shape, ids: [shape.parcel_id], names: shape.shape })
  }
  return [...found.values()].map((one, index) => {
    const { x, y, width, height } = one.shape.framing.crop
    return {
      ...one,
      dash: DASHES[index % DASHES.length],
      chosen: one.ids.includes(props.chosen),
      box: { x: x * scale.value, y: y * scale.value, width: width * scale.value, height: height * scale.value },
      label: { left: px(x), top: `${Math.min(y * scale.value + 3 + index * 19, stage.value.height - 20)}px` },
    }
  })
})
/** What the destination's own page covers of the chosen frame, in the master's pixels. */
const covered = computed(() => {
  const shape = selected.value
  if (!shape?.covered) return []
  const { x, y, width, height } = shape.window
  const { left = 0, top = 0, right = 0, bottom = 0 } = shape.covered
  return [
    { x, y, width: width * left, height },
    { x: x + width * (1 - right), y, width: width * right, height },
    { x, y, width, height: height * top },
    { x, y: y + height * (1 - bottom), width, height: height * bottom },
  ].filter((band) => band.width > 0 && band.height > 0)
})
const bars = computed(() => {
  const { display_width: width, display_height: height, active } = props.view
  return [
    { x: 0, y: 0, width: active.x, height },
    { x: active.x + active.width, y: 0, width: width - active.x - active.width, height },
    { x: 0, y: 0, width, height: active.y },
    { x: 0, y: active.y + active.height, width, height: height - active.y - active.height },
  ].filter((band) => band.width > 1 && band.height > 1)
})
const centre = computed(() => centreOf(props.view, selected.value!))

const bounded = (at: { x: number; y: number }) => ({
  x: Math.min(1, Math.max(0, at.x)),
  y: Math.min(1, Math.max(0, at.y)),
})
function drag(kind: 'focus' | 'move', event: PointerEvent): void {
  const target = event.currentTarget as HTMLElement
  target.focus()
  target.setPointerCapture(event.pointerId)
  const from = kind === 'focus' ? focus.value : centre.value
  const { clientX, clientY } = event
  const { active } = props.view
  const at = (moved: PointerEvent) =>
    bounded({
      x: from.x + (moved.clientX - clientX) / scale.value / active.width,
      y: from.y + (moved.clientY - clientY) / scale.value / active.height,
    })
  const tell = (moved: PointerEvent, done: boolean) =>
    kind === 'focus' ? emit('focus', at(moved), done) : emit('move', at(moved), done)
  let went = false
  target.onpointermove = (moved) => {
    went = true
    tell(moved, false)
  }
  target.onpointerup = (moved) => {
    target.onpointermove = target.onpointerup = null
    if (went) tell(moved, true)
  }
}

function nudge(kind: 'focus' | 'move', event: KeyboardEvent): void {
  if (kind === 'move' && (event.key === '+' || event.key === '-')) {
    event.preventDefault()
    emit('zoom', event.key === '+' ? 1.05 : 1 / 1.05)
    return
  }
  const steps: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  }
  const step = steps[event.key]
  if (!step) return
  event.preventDefault()
  const pixels = event.shiftKey ? 20 : 2
  emit('key', kind, (step[0] * pixels) / props.view.active.width, (step[1] * pixels) / props.view.active.height)
}
const percent = (share: number) => `${Math.round(share * 1000) / 10} %`
</script>

<template>
  <div ref="holder" class="holder" :style="{ height: `${most}px` }">
    <div class="stage" :style="{ width: `${stage.width}px`, height: `${stage.height}px` }">
      <img v-if="source" :src="source" :alt="label" draggable="false" />
      <p v-else class="quiet fetching">Fetching the picture…</p>
      <svg :width="stage.width" :height="stage.height" aria-hidden="true">
        <defs>
          <pattern id="cut-away" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" class="veil" />
            <rect width="1.4" height="6" class="line" />
          </pattern>
        </defs>
        <rect
          v-for="(band, index) in bars"
          :key="`bar${index}`"
          :x="band.x * scale"
          :y="band.y * scale"
          :width="band.width * scale"
          :height="band.height * scale"
          fill="url(#cut-away)"
        />
        <rect
          v-for="(band, index) in covered"
          :key="`cover${index}`"
          :x="band.x * scale"
          :y="band.y * scale"
          :width="band.width * scale"
          :height="band.height * scale"
          class="cover"
        />
        <template v-for="one in outlines" :key="one.ids.join()">
          <rect v-bind="one.box" class="under" :class="{ chosen: one.chosen }" />
          <rect v-bind="one.box" class="outline" :class="{ chosen: one.chosen }" :stroke-dasharray="one.dash" />
        </template>
      </svg>
      <button
        v-for="one in outlines"
        :key="one.ids.join()"
        type="button"
        class="name"
        :class="{ chosen: one.chosen }"
        :style="one.label"
        :aria-label="`Choose the shape ${one.names}`"
        @click="emit('choose', one.ids[0])"
      >
        {{ one.names }}
      </button>
      <div
        v-if="selected"
        class="moves"
        role="group"
        tabindex="0"
        :aria-label="`Frame ${selected.shape} of ${selected.name}: arrow keys move it, plus and minus zoom`"
        :style="{
          left: px(selected.framing.crop.x),
          top: px(selected.framing.crop.y),
          width: px(selected.framing.crop.width),
          height: px(selected.framing.crop.height),
        }"
        @pointerdown.prevent="drag('move', $event)"
        @keydown="nudge('move', $event)"
      />
      <button
        type="button"
        class="focus"
        :style="focusAt"
        title="What every crop keeps: drag it, or use the arrow keys"
        :aria-label="`Focus of all shapes, at ${percent(focus.x)} and ${percent(focus.y)}; arrow keys move it`"
        @pointerdown.prevent="drag('focus', $event)"
        @keydown="nudge('focus', $event)"
      />
    </div>
  </div>
</template>

<style scoped>
.holder {
  display: grid;
  place-items: center;
  background: var(--neutral);
}

.stage {
  position: relative;
  overflow: hidden;
  touch-action: none;
  user-select: none;
}

img {
  display: block;
  width: 100%;
  height: 100%;
}

.fetching {
  padding: 20px;
  color: #0c1420;
}

svg {
  position: absolute;
  inset: 0;
  pointer-events: none;
}

.veil {
  fill: #000a;
}

.line {
  fill: #fff8;
}

.cover {
  fill: #14233b66;
  stroke: #fff;
  stroke-width: 1;
  stroke-dasharray: 2 3;
}

.under {
  fill: none;
  stroke: #fffc;
  stroke-width: 3.5;
}

.outline {
  fill: none;
  stroke: #14233b;
  stroke-width: 1.5;
}

.under.chosen {
  stroke: #fff;
  stroke-width: 7;
}

.outline.chosen {
  stroke-width: 4;
}

.name {
  position: absolute;
  padding: 0 6px;
  border: 1px solid #14233b;
  background: #fff;
  color: #14233b;
  font: 600 12.5px/17px var(--slab);
  cursor: pointer;
  z-index: 2;
}

.name.chosen {
  background: #14233b;
  color: #fff;
}

.moves {
  position: absolute;
  cursor: move;
  outline-offset: -3px;
}

.focus {
  position: absolute;
  width: 44px;
  height: 44px;
  margin: -22px 0 0 -22px;
  padding: 0;
  border: none;
  background:
    linear-gradient(#14233b, #14233b) center / 10px 10px no-repeat,
    linear-gradient(#14233b, #14233b) center / 3px 100% no-repeat,
    linear-gradient(#14233b, #14233b) center / 100% 3px no-repeat,
    linear-gradient(#fff, #fff) center / 16px 16px no-repeat,
    linear-gradient(#fff, #fff) center / 7px 100% no-repeat,
    linear-gradient(#fff, #fff) center / 100% 7px no-repeat;
  cursor: grab;
  z-index: 3;
}

.focus:focus-visible {
  outline: 4px solid var(--airmail);
}
</style>
