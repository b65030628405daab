<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { api, type Master } from '../data/api'
import { place, ratio } from '../data/words'

/** The poster strip with the in and the out point: dragged, nudged with arrow keys, or typed in seconds. */
const props = defineProps<{ master: Master }>()
const emit = defineEmits<{ change: [value: { in_s: string; out_s: string } | null] }>()

const duration = computed(() => ratio(props.master.facts!.duration_s))
const picture = computed(() => 1 / ratio(props.master.facts!.video.frame_rate))
const kept = computed(() => ({
  in: props.master.excerpt ? ratio(props.master.excerpt.in_s) : 0,
  out: props.master.excerpt ? ratio(props.master.excerpt.out_s) : duration.value,
}))
const at = ref({ ...kept.value })
watch(kept, (value) => (at.value = { ...value }))

const track = ref<HTMLElement>()
type End = 'in' | 'out'
const ends: { end: End; name: string }[] = [
  { end: 'in', name: 'In point' },
  { end: 'out', name: 'Out point' },
]

function move(end: End, seconds: number): void {
  const least = Math.max(picture.value, 0.1)
  const onPicture = Math.round(seconds / picture.value) * picture.value
  if (end === 'in') at.value.in = Math.min(Math.max(0, onPicture), at.value.out - least)
  else at.value.out = Math.max(Math.min(duration.value, onPicture), at.value.in + least)
}

function drag(end: End, event: PointerEvent): void {
  const handle = event.currentTarget as HTMLElement
  handle.setPointerCapture(event.pointerId)
  handle.onpointermove = (moved) => {
    const box = track.value!.getBoundingClientRect()
    move(end, ((moved.clientX - box.left) / box.width) * duration.value)
  }
  handle.onpointerup = () => {
    handle.onpointermove = handle.onpointerup = null
    send()
  }
}

function nudge(end: End, event: KeyboardEvent): void {
  const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, PageDown: -25, PageUp: 25 }
  if (event.key === 'Home') move(end, 0)
  else if (event.key === 'End') move(end, duration.value)
  else if (event.key in steps) move(end, at.value[end] + steps[event.key] * picture.value)
  else return
  event.preventDefault()
  send()
}

function type(end: End, text: string): void {
  const parts = text.trim().replace(',', '.').split(':').map(Number)
  if (parts.length && parts.every(Number.isFinite)) move(end, parts.reduce((sum, part) => sum * 60 + part, 0))
  send()
}

function send(): void {
  const whole = at.value.in <= 0 && at.value.out >= duration.value - 1e-6
  emit('change', whole ? null : { in_s: at.value.in.toFixed(6), out_s: at.value.out.toFixed(6) })
}

const left = computed(() => `${(at.value.in / duration.value) * 100}%`)
const right = computed(() => `${100 - (at.value.out / duration.value) * 100}%`)
</script>

<template>
  <div class="excerpt">
    <div ref="track" class="strip">
      <img v-for="number in master.strip_pictures" :key="number" :src="api.stripPicture(master, number - 1)" alt="" />
      <span class="veil" :style="{ left: '0', width: left }" />
      <span class="veil" :style="{ right: '0', width: right }" />
      <span
        v-for="{ end, name } in ends"
        :key="end"
        class="point"
        :class="end"
        role="slider"
        tabindex="0"
        :aria-label="name"
        :aria-valuemin="0"
        :aria-valuemax="duration"
        :aria-valuenow="at[end]"
        :aria-valuetext="place(at[end])"
        :style="end === 'in' ? { left } : { right }"
        @pointerdown.prevent="drag(end, $event)"
        @keydown="nudge(end, $event)"
      />
    </div>
    <div class="typed mono">
      <label v-for="{ end, name } in ends" :key="end">
        <span class="quiet">{{ name.toLowerCase() }}</span>
        <input :value="place(at[end])" size="8" @change="type(end, ($event.target as HTMLInputElement).value)" />
      </label>
      <span>{{ place(at.out - at.in) }} will be packed</span>
      <button v-if="master.excerpt" type="button" class="link" @click="emit('change', null)">take the whole master</button>
    </div>
  </div>
</template>

<style scoped>
.excerpt {
  flex: 1;
  min-width: 0;
}

.strip {
  position: relative;
  display: flex;
  height: 44px;
  margin: 0 7px;
  user-select: none;
  touch-action: none;
  background: var(--neutral);
}

.strip img {
  flex: 1;
  min-width: 0;
  height: 100%;
  object-fit: cover;
  pointer-events: none;
}

.veil {
  position: absolute;
  inset-block: 0;
  background: color-mix(in srgb, var(--sheet) 78%, transparent);
}

.point {
  position: absolute;
  inset-block: -3px;
  width: 7px;
  border: 2px solid var(--ink);
  background: var(--sheet);
  cursor: ew-resize;
}

.point.in {
  margin-left: -7px;
  border-right-width: 3px;
}

.point.out {
  margin-right: -7px;
  border-left-width: 3px;
}

.point::before {
  content: '';
  position: absolute;
  inset: -6px -9px;
}

.typed {
  display: flex;
  align-items: center;
  gap: 18px;
  margin-top: 5px;
}

.typed label {
  display: flex;
  gap: 6px;
  align-items: center;
}

input {
  padding: 0 4px;
  border: 1px solid var(--line);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
}

.link {
  padding: 0;
  border: none;
  background: none;
  color: inherit;
  font: inherit;
  text-decoration: underline;
  cursor: pointer;
}
</style>
