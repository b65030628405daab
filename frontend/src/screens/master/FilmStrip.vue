<script setup lang="ts">
import { computed, ref } from 'vue'

import { api, type CheckView, type Master } from '../../data/api'
import { place, ratio } from '../../data/words'
import type { End, ExcerptPoints } from '../../data/useExcerptPoints'

/** The whole film along one line: posters, loudness, difficulty, what was found where, the excerpt and the place looked at. */
const props = defineProps<{ master: Master; points: ExcerptPoints; checks: CheckView | undefined; at: number }>()
const emit = defineEmits<{ look: [seconds: number] }>()

const facts = computed(() => props.master.facts!)
const duration = computed(() => ratio(facts.value.duration_s))
const share = (seconds: number) => `${Math.min(100, Math.max(0, (seconds / duration.value) * 100))}%`

const track = ref<HTMLElement>()
function secondsAt(event: PointerEvent): number {
  const box = track.value!.getBoundingClientRect()
  return Math.min(duration.value, Math.max(0, ((event.clientX - box.left) / box.width) * duration.value))
}
function scrub(event: PointerEvent): void {
  const handle = event.currentTarget as HTMLElement
  handle.setPointerCapture(event.pointerId)
  emit('look', secondsAt(event))
  handle.onpointermove = (moved) => emit('look', secondsAt(moved))
  handle.onpointerup = () => (handle.onpointermove = handle.onpointerup = null)
}
function drag(end: End, event: PointerEvent): void {
  const handle = event.currentTarget as HTMLElement
  handle.setPointerCapture(event.pointerId)
  handle.onpointermove = (moved) => props.points.move(end, secondsAt(moved))
  handle.onpointerup = () => {
    handle.onpointermove = handle.onpointerup = null
    void props.points.settle()
  }
}

const QUIETEST = -60
/** The envelope as one closed shape, mirrored about its middle; silence is a hair line. */
const envelope = computed(() => {
  const levels = props.checks?.envelope_lufs ?? []
  if (levels.length < 2) return ''
  const step = (props.checks!.step_s / duration.value) * 1000
  const half = levels.map((level) => (level == null ? 0.4 : Math.max(0.4, (1 - Math.max(QUIETEST, Math.min(0, level)) / QUIETEST) * 20)))
  const up = half.map((h, i) => `${(i * step).toFixed(2)},${(20 - h).toFixed(2)}`)
  const down = half.map((h, i) => `${(i * step).toFixed(2)},${(20 + h).toFixed(2)}`).reverse()
  return `M${up.join('L')}L${down.join('L')}Z`
})
const marks = computed(() => props.master.stamps.filter((stamp) => stamp.outcome !== 'cleared' && stamp.at_s != null && stamp.at_s > 0))
const pictures = computed(() => [...props.master.strip].sort((a, b) => a - b))
</script>

<template>
  <section class="film" aria-label="Film strip">
    <div ref="track" class="track">
      <div class="posters" @pointerdown.prevent="scrub">
        <img v-for="number in pictures" :key="number" :src="api.stripPicture(master, number)" alt="" draggable="false" />
        <span v-if="!pictures.length" class="quiet">the strip is being made…</span>
      </div>
      <svg class="sound" viewBox="0 0 1000 40" preserveAspectRatio="none" role="img" aria-label="Loudness along the film" @pointerdown.prevent="scrub">
        <line x1="0" x2="1000" y1="20" y2="20" />
        <path :d="envelope" />
      </svg>
      <div class="profile" role="img" aria-label="How hard each second is to encode" @pointerdown.prevent="scrub">
        <span
          v-for="one in checks?.difficulty" :key="one.at_s" class="bar" :style="{ left: share(one.at_s), width: share(one.lasts_s * 0.94), height: `${one.height * 100}%` }"
          :title="`${place(one.at_s)}: detail ${one.spatial}, movement ${one.temporal}, grain ${one.grain}`"
        />
      </div>
      <span class="veil" :style="{ left: 0, width: share(points.at.value.in) }" />
      <span class="veil" :style="{ left: share(points.at.value.out), right: 0 }" />
      <button
        v-for="mark in marks" :key="mark.code" type="button" class="mark" :style="{ left: share(mark.at_s!) }"
        :aria-label="`${mark.matter} at ${place(mark.at_s!)}`" :title="`${mark.matter}: ${mark.seen}`" @click="emit('look', mark.at_s!)"
      />
      <span class="here" :style="{ left: share(at) }" aria-hidden="true" />
      <span
        v-for="{ end, name } in points.ends" :key="end" class="point" :class="end" role="slider" tabindex="0" :aria-label="name"
        :aria-valuemin="0" :aria-valuemax="duration" :aria-valuenow="points.at.value[end]" :aria-valuetext="place(points.at.value[end])"
        :style="{ left: share(points.at.value[end]) }" @pointerdown.prevent.stop="drag(end, $event)" @keydown="points.type(end, $event)"
      />
    </div>
    <p class="legend tiny quiet">
      <span>posters</span><span>loudness, momentary</span><span>difficulty: detail and movement by the second</span>
    </p>
  </section>
</template>

<style scoped>
.track {
  position: relative;
  margin: 0 8px;
  user-select: none;
  touch-action: none;
}

.posters {
  display: flex;
  height: 64px;
  background: var(--neutral);
  cursor: crosshair;
  align-items: center;
}

.posters img {
  flex: 1;
  min-width: 0;
  height: 100%;
  object-fit: cover;
  pointer-events: none;
}

.posters .quiet {
  margin: auto;
  color: #fff;
}

.sound {
  display: block;
  width: 100%;
  height: 44px;
  background: var(--sheet);
  cursor: crosshair;
}

.sound path {
  fill: var(--airmail);
}

.sound line {
  stroke: var(--line);
}

.profile {
  position: relative;
  height: 32px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  cursor: crosshair;
}

.bar {
  position: absolute;
  bottom: 0;
  min-width: 4px;
  background: var(--twine);
}

.veil {
  position: absolute;
  inset-block: 0;
  background: color-mix(in srgb, var(--paper) 76%, transparent);
  pointer-events: none;
}

.here {
  position: absolute;
  inset-block: -4px;
  width: 2px;
  margin-left: -1px;
  background: var(--ink);
  box-shadow: 0 0 0 1px var(--sheet);
  pointer-events: none;
}

.mark {
  position: absolute;
  top: -9px;
  width: 14px;
  height: 14px;
  margin-left: -7px;
  padding: 0;
  border: 2px solid var(--care);
  background: var(--care-ground);
  transform: rotate(45deg);
  cursor: pointer;
}

.point {
  position: absolute;
  inset-block: -3px;
  width: 8px;
  border: 2px solid var(--ink);
  background: var(--sheet);
  cursor: ew-resize;
}

.point.in {
  margin-left: -8px;
}

.point::before {
  content: '';
  position: absolute;
  inset: -4px -9px;
}

.legend {
  display: flex;
  gap: 22px;
  margin: 4px 8px 0;
}
</style>
