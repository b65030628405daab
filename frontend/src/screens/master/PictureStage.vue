<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'

import { api, type Master } from '../../data/api'
import type { useStepping } from '../../data/useStepping'
import { place, ratio } from '../../data/words'

/** One picture on neutral ground, stepped through; or the film itself, played where the browser can. */
const props = defineProps<{ master: Master; stepping: ReturnType<typeof useStepping>; last: number }>()
const video = computed(() => props.master.facts!.video)
const rate = computed(() => ratio(video.value.frame_rate))
const second = computed(() => Math.round(rate.value))
const upright = computed(() => video.value.display_height > video.value.display_width)

const player = ref<HTMLVideoElement>()
const playing = ref(false)
const cannotPlay = ref(false)
let following = 0

function play(): void {
  if (playing.value) {
    player.value?.pause()
    return
  }
  cannotPlay.value = false
  playing.value = true
}
watch(player, (element) => {
  if (!element) return
  element.currentTime = props.stepping.wanted.value / rate.value
  element.play().catch(() => stop(true))
  following = window.setInterval(() => {
    if (!element.paused) props.stepping.follow(Math.floor(element.currentTime * rate.value + 0.01))
  }, 80)
})
function stop(failed: boolean): void {
  window.clearInterval(following)
  if (!playing.value) return
  playing.value = false
  cannotPlay.value = failed
  props.stepping.goTo(props.stepping.wanted.value)
}
onBeforeUnmount(() => window.clearInterval(following))

function key(event: KeyboardEvent): void {
  const moves: Record<string, number> = {
    ArrowLeft: -1, ArrowRight: 1, PageUp: -second.value, PageDown: second.value, Home: -1e9, End: 1e9,
  }
  if (event.key === ' ') play()
  else if (event.key in moves) {
    if (playing.value) stop(false)
    props.stepping.step(moves[event.key])
  } else return
  event.preventDefault()
}
</script>

<template>
  <section class="stage" aria-label="Picture">
    <div class="ground" tabindex="0" role="group" aria-label="Step with the arrow keys, a second with page up and down, play with the space bar" @keydown="key">
      <video v-if="playing" ref="player" :src="api.film(master.id)" @pause="stop(false)" @ended="stop(false)" @error="stop(true)" />
      <img v-else-if="stepping.shown.value" :class="{ upright }" :src="stepping.shown.value.picture" :alt="`Picture ${stepping.shown.value.number}`" />
      <p v-else-if="!stepping.problem.value" class="fetching">Fetching the picture…</p>
      <p v-if="stepping.problem.value" role="alert" class="note">{{ stepping.problem.value }}</p>
      <p v-else-if="cannotPlay" role="status" class="note">This browser cannot play this file. Step through it instead.</p>
    </div>
    <div class="controls">
      <button type="button" class="key" title="A second back (page up)" @click="stepping.step(-second)">−1 s</button>
      <button type="button" class="key" title="A picture back (arrow left)" @click="stepping.step(-1)">−1</button>
      <button type="button" class="key wide" @click="play">{{ playing ? 'stop' : 'play' }}</button>
      <button type="button" class="key" title="A picture on (arrow right)" @click="stepping.step(1)">+1</button>
      <button type="button" class="key" title="A second on (page down)" @click="stepping.step(second)">+1 s</button>
      <span class="mono where" aria-live="polite">
        <b>{{ stepping.shown.value && !playing ? stepping.shown.value.timecode : '' }}</b>
        <span>picture {{ stepping.wanted.value }} of {{ last }}</span>
        <span class="quiet">{{ playing ? 'playing' : stepping.exact.value ? place(stepping.shown.value!.at_s) : 'near it' }}</span>
      </span>
    </div>
  </section>
</template>

<style scoped>
.fetching {
  color: #0c1420;
}

.ground {
  position: relative;
  display: grid;
  place-items: center;
  height: 315px;
  background: var(--neutral);
  overflow: hidden;
}

.ground img,
.ground video {
  max-width: 100%;
  max-height: 315px;
  display: block;
}

.note {
  position: absolute;
  bottom: 10px;
  padding: 3px 12px;
  background: var(--sheet);
  border: 1px solid var(--ink);
}

.controls {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-top: 6px;
}

.key {
  min-width: 36px;
  height: 28px;
  padding: 0 6px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: 600 14px var(--slab);
  cursor: pointer;
}

.key.wide {
  min-width: 58px;
}

.key:hover {
  border-color: var(--ink);
  background: var(--paper);
}

.where {
  display: flex;
  gap: 10px;
  margin-left: 6px;
  font-size: 12.5px;
  white-space: nowrap;
}
</style>
