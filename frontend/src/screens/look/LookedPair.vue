<script setup lang="ts">
import { ElCheckbox, ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { onKeyStroke } from '@vueuse/core'

import type { SuffersView } from '../../data/api'
import DifferencePicture from './DifferencePicture.vue'
import SuffersVeil from './SuffersVeil.vue'
import { useLoupe, ZOOMS } from './useLoupe'

/**
 * Two pictures of the same moment on the same raster, on neutral grey: wiped, flipped, or their difference; with a loupe over both. A
 * map veils what suffers less. Where they play, `films` are two films instead, and `hold` takes their elements. `over` leaves out the way
 * that shows them beside each other.
 */
const props = defineProps<{
  left: string; right: string; leftName: string; rightName: string; raster?: [number, number]
  map?: SuffersView; over?: boolean; films?: [string, string]; hold?: (place: 0 | 1, element: unknown) => void
}>()
const mapped = defineModel<boolean>('mapped')
type Way = 'wipe' | 'flip' | 'beside' | 'difference'
const chosen = ref<Way>('wipe')
/** What plays is not subtracted from one another. */
const way = computed({ get: () => (props.films && chosen.value === 'difference' ? 'wipe' : chosen.value), set: (now) => (chosen.value = now) })
const second = ref(true)
const factor = ref(8)
const at = ref(50)
const stage = ref<HTMLElement>()
const loaded = ref(new Set<string>())
const broken = ref(new Set<string>())
const drawn = ref(false)
const loupe = useLoupe(stage, () => props.raster)
const { zoom, style } = loupe
watch(() => [props.left, props.right].join(), () => (broken.value.clear(), (drawn.value = false)))
/** What could not be made, by name; a picture that came at another try did not fail. */
const failed = computed(() => {
  if (broken.value.has('difference')) return 'difference'
  const url = [props.left, props.right].find((one) => broken.value.has(one) && !loaded.value.has(one))
  return url === undefined ? '' : url === props.left ? props.leftName : props.rightName
})
const waiting = computed(() => !props.films && (way.value === 'difference' ? !drawn.value : !loaded.value.has(props.left) || !loaded.value.has(props.right)))

/** Two beside each other are as wide as there is room for both. */
const fitted = computed(() => {
  if (!props.raster || zoom.value) return {}
  const [width, height] = [props.raster[0] * (way.value === 'beside' ? 2 : 1), props.raster[1]]
  const shape = { aspectRatio: `${width} / ${height}` }
  return way.value === 'beside' ? { ...shape, height: 'auto', minHeight: '0', width: `min(100%, calc((100vh - 370px) * ${width / height}))` } : shape
})
const shownHalf = computed(() => (way.value === 'flip' ? (second.value ? 'inset(0 100% 0 0)' : 'none') : `inset(0 ${100 - at.value}% 0 0)`))

function drag(event: PointerEvent): void {
  const target = event.currentTarget as HTMLElement
  const onEdge = (event.target as HTMLElement).classList.contains('edge')
  target.setPointerCapture(event.pointerId)
  let [x, y] = [event.clientX, event.clientY]
  const to = (moved: PointerEvent) => {
    if (zoom.value && !onEdge) loupe.pan(moved.clientX - x, moved.clientY - y)
    else if (way.value === 'wipe') {
      const box = stage.value!.getBoundingClientRect()
      at.value = Math.min(100, Math.max(0, ((moved.clientX - box.left) / box.width) * 100))
    }
    ;[x, y] = [moved.clientX, moved.clientY]
  }
  if (!zoom.value || onEdge) to(event)
  target.onpointermove = to
  target.onpointerup = () => (target.onpointermove = target.onpointerup = null)
}
function nudge(event: KeyboardEvent): void {
  const steps: Record<string, number> = { ArrowLeft: -2, ArrowRight: 2, Home: -100, End: 100 }
  if (!(event.key in steps)) return
  event.preventDefault()
  at.value = Math.min(100, Math.max(0, at.value + steps[event.key]))
}
const typing = () => ['INPUT', 'TEXTAREA', 'SELECT'].includes(document.activeElement?.tagName ?? '') && (document.activeElement as HTMLInputElement).type !== 'radio'
onKeyStroke(['f', 'F'], () => {
  if (typing()) return
  if (way.value === 'flip') second.value = !second.value
  else way.value = 'flip'
})
onKeyStroke(['m', 'M'], () => typing() || mapped.value === undefined || (mapped.value = !mapped.value))
onKeyStroke(['d', 'D'], () => typing() || (way.value = way.value === 'difference' ? 'wipe' : 'difference'))
onKeyStroke('+', () => typing() || loupe.step(1))
onKeyStroke('-', () => typing() || loupe.step(-1))
</script>

<template>
  <div>
    <div class="row ways">
      <ElRadioGroup v-model="way" size="small" aria-label="How the two lie over each other">
        <ElRadioButton value="wipe">Wipe</ElRadioButton><ElRadioButton value="flip" title="Key F">Flip</ElRadioButton><ElRadioButton v-if="!over" value="beside">Beside</ElRadioButton><ElRadioButton value="difference" title="Key D" :disabled="!!films">Difference</ElRadioButton>
      </ElRadioGroup>
      <ElRadioGroup v-if="way === 'difference'" v-model="factor" size="small" aria-label="How much the difference is amplified">
        <ElRadioButton v-for="one in [4, 8, 16]" :key="one" :value="one">× {{ one }}</ElRadioButton>
      </ElRadioGroup>
      <ElRadioGroup :model-value="zoom" size="small" aria-label="Loupe" @update:model-value="loupe.to($event as 0 | 1 | 2 | 4)">
        <ElRadioButton v-for="one in ZOOMS" :key="one" :value="one">{{ one ? `${one}:1` : 'Fit' }}</ElRadioButton>
      </ElRadioGroup>
      <ElCheckbox v-if="mapped !== undefined" v-model="mapped" size="small" :disabled="!!films" title="Key M">Where it suffers</ElCheckbox>
      <span class="grow" />
      <span class="quiet tiny">{{ mapped && map && !films ? 'each block judged by itself, what suffers less is veiled' : way === 'flip' ? 'F shows the other one' : way === 'difference' ? `${rightName} minus ${leftName}, ${factor} times, about grey` : way === 'beside' ? 'the same part of both' : 'drag the edge' }}; wheel or double-click for the loupe{{ zoom ? ', drag to move' : '' }}</span>
    </div>
    <div class="ground">
      <div
        ref="stage" class="stage" :class="{ close: zoom, flips: way !== 'wipe' }" :style="fitted"
        @pointerdown.prevent="drag" @wheel.prevent="loupe.wheel" @dblclick="loupe.twice"
      >
        <DifferencePicture v-if="way === 'difference'" :left="left" :right="right" :factor="factor" :style="style" class="picture" @ready="drawn = true" @failed="broken.add('difference')" />
        <template v-else-if="way === 'beside'">
          <span v-for="(one, place) in [left, right]" :key="place" class="pane" data-pane>
            <video v-if="films" :ref="(element) => hold?.(place as 0 | 1, element)" class="picture" :src="films[place]" :poster="one" :muted="!place" playsinline preload="auto" :aria-label="`the film as ${place ? rightName : leftName}`" :style="style" />
            <img v-else class="picture" :src="one" :alt="`the picture as ${place ? rightName : leftName}`" draggable="false" :style="style" @load="loaded.add(one)" @error="one && broken.add(one)" />
            <SuffersVeil v-if="place && mapped && map && !films" :map="map" :style="style" class="picture" />
          </span>
        </template>
        <template v-else-if="films">
          <video :ref="(element) => hold?.(1, element)" class="picture" :src="films[1]" :poster="right" playsinline preload="auto" :aria-label="`the film as ${rightName}`" :style="style" />
          <span class="half" :style="{ clipPath: shownHalf }">
            <video :ref="(element) => hold?.(0, element)" class="picture" :src="films[0]" :poster="left" muted playsinline preload="auto" :aria-label="`the film as ${leftName}`" :style="style" />
          </span>
        </template>
        <template v-else>
          <img class="picture" :src="right" :alt="`the picture as ${rightName}`" draggable="false" :style="style" @load="loaded.add(right)" @error="right && broken.add(right)" />
          <span class="half" :style="{ clipPath: shownHalf }">
            <img class="picture" :src="left" :alt="`the picture as ${leftName}`" draggable="false" :style="style" @load="loaded.add(left)" @error="left && broken.add(left)" />
          </span>
        </template>
        <SuffersVeil v-if="mapped && map && !films && (way === 'wipe' || way === 'flip')" :map="map" :style="style" class="picture" />
        <span v-if="way === 'wipe' || way === 'beside' || (way === 'flip' && !second)" class="name left">{{ leftName }}</span>
        <span v-if="way === 'wipe' || way === 'beside' || (way === 'flip' && second)" class="name right">{{ rightName }}</span>
        <span v-if="way === 'wipe'" class="edge" role="slider" tabindex="0" aria-label="Wipe" aria-valuemin="0" aria-valuemax="100" :aria-valuenow="Math.round(at)" :style="{ left: `${at}%` }" @keydown="nudge" />
        <p v-if="failed" role="alert" class="over">The {{ failed }} picture could not be made. Choose another moment.</p>
        <p v-else-if="waiting" class="over late">Fetching the pictures…</p>
      </div>
    </div>
  </div>
</template>

<style scoped>
.ways {
  flex-wrap: wrap;
  gap: 12px;
  margin: 8px 0 6px;
}

.ground {
  display: flex;
  justify-content: center;
  padding: 10px;
  background: var(--neutral);
}

.stage {
  position: relative;
  height: calc(100vh - 370px);
  min-height: 240px;
  max-width: 100%;
  overflow: hidden;
  user-select: none;
  touch-action: none;
  cursor: ew-resize;
}

.stage.close {
  width: 100%;
  cursor: grab;
}

.stage.flips:not(.close) {
  cursor: default;
}

.pane {
  position: absolute;
  inset: 0 50% 0 0;
  overflow: hidden;
}

.pane + .pane {
  inset: 0 0 0 50%;
  border-left: 4px solid var(--neutral);
}

.half,
.picture {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.edge {
  position: absolute;
  inset-block: 0;
  width: 4px;
  margin-left: -2px;
  background: #fff;
  outline-offset: 3px;
  cursor: ew-resize;
}

.name {
  position: absolute;
  top: 8px;
  padding: 0 8px;
  background: #14233bd9;
  color: #fff;
  font: 600 14px/22px var(--slab);
  max-width: 46%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.name.left {
  left: 8px;
}

.name.right {
  right: 8px;
}

/* A picture that comes soon is not announced. */
.late {
  animation: late 0.4s step-end;
}

@keyframes late {
  from {
    visibility: hidden;
  }
}

.over {
  position: absolute;
  inset: auto 0 0;
  padding: 6px 12px;
  background: #14233bd9;
  color: #fff;
}
</style>
