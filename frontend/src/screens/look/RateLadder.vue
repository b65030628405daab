<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, watch } from 'vue'

import { api, type LadderView } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import { useViewer } from '../../data/viewer'
import { mbps } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'

/** One crop of a picture as it arrives at several rates, pixel for pixel as the screen shows it. */
const props = defineProps<{ parcelId: string; index: number | null; stamp: string }>()
const viewer = useViewer()
/** The middle of the crop in shares of the picture; null where the rates differ most. */
const at = ref<[number, number] | null>(null)
const ladder = useAnswer<LadderView>(
  (signal) => api.ladder(props.parcelId, viewer.screen, viewer.line, props.index, at.value, signal),
  [() => [props.parcelId, props.index, props.stamp, viewer.screen, viewer.line, at.value?.join()].join('/')],
)
const found = computed(() => ladder.value.value)
const emit = defineEmits<{ picture: [index: number] }>()
watch(() => found.value?.index, (index) => index !== undefined && emit('picture', index))
const rungs = computed(() => found.value?.ladder.rungs ?? [])
const framed = computed(() => {
  if (!found.value) return {}
  const [wide, high] = found.value.raster
  const [x, y, width, height] = found.value.crop
  return { left: `${(100 * x) / wide}%`, top: `${(100 * y) / high}%`, width: `${(100 * width) / wide}%`, height: `${(100 * height) / high}%` }
})
const middle = computed<[number, number]>(() => {
  const [x, y, width, height] = found.value!.crop
  return [(x + width / 2) / found.value!.raster[0], (y + height / 2) / found.value!.raster[1]]
})

function click(event: MouseEvent): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  at.value = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height]
}
function nudge(event: KeyboardEvent): void {
  const steps: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }
  const step = steps[event.key]
  if (!step || !found.value) return
  event.preventDefault()
  const inside = (share: number) => Math.min(1, Math.max(0, share))
  at.value = [0, 1].map((i) => inside(middle.value[i] + (step[i] * found.value!.crop[2 + i]) / 4 / found.value!.raster[i])) as [number, number]
}
</script>

<template>
  <div class="ladder">
    <TroubleNote v-if="ladder.trouble.value" :trouble="ladder.trouble.value" @again="ladder.again()" />
    <template v-if="found">
      <p class="first-sentence" aria-live="polite">{{ found.ladder.sentence }}</p>
      <div class="ground" :class="{ waiting: ladder.waiting.value }">
        <ol aria-label="The same crop at every rate">
          <li>
            <img :src="`${found.pictures}/master.png`" :width="found.crop[2]" :height="found.crop[3]" alt="the crop of the master" draggable="false" />
            <span class="slab">Master</span>
          </li>
          <li v-for="rung in rungs" :key="rung.target_bps" :class="{ visible: rung.first_visible }">
            <img :src="`${found.pictures}/${rung.target_bps}.png`" :width="found.crop[2]" :height="found.crop[3]" :alt="`the crop at ${mbps(rung.target_bps)}`" draggable="false" />
            <span class="slab">{{ mbps(rung.target_bps) }}</span>
            <span>{{ rung.condition.toFixed(0) }}, {{ rung.words }}</span>
            <strong v-if="rung.first_visible" class="mark">First visible step</strong>
          </li>
        </ol>
        <div class="where">
          <div
            class="whole" role="slider" tabindex="0" aria-label="Place of the crop: arrow keys move it" aria-valuemin="0" aria-valuemax="100"
            :aria-valuenow="Math.round(middle[0] * 100)" :aria-valuetext="`${Math.round(middle[0] * 100)} % across, ${Math.round(middle[1] * 100)} % down`"
            :style="{ aspectRatio: `${found.raster[0]} / ${found.raster[1]}` }" @click="click" @keydown="nudge"
          >
            <img :src="`${found.pictures}/whole.png`" alt="the whole picture of the master" draggable="false" />
            <span class="frame" :style="framed" />
          </div>
          <p class="note">Click the picture, or move with the arrow keys, to look elsewhere.</p>
          <ElButton v-if="at" size="small" @click="at = null">Back to where rates differ most</ElButton>
        </div>
      </div>
    </template>
    <p v-else-if="!ladder.trouble.value" class="quiet">Cutting the same piece out of every rate…</p>
  </div>
</template>

<style scoped>
.ground {
  margin: 8px 0;
  padding: 10px;
  background: var(--neutral);
  color: #fff;
}

.ground.waiting img {
  opacity: 0.6;
}

.where {
  display: flex;
  flex-wrap: wrap;
  align-items: flex-end;
  gap: 10px;
  margin-top: 10px;
  padding: 0 3px;
}

.whole {
  position: relative;
  height: clamp(150px, calc(100vh - 600px), 420px);
  cursor: crosshair;
}

.whole img {
  width: 100%;
  height: 100%;
}

.frame {
  position: absolute;
  border: 2px solid #fff;
  outline: 2px solid #14233b;
}

.note,
li > span,
.mark {
  padding: 1px 6px;
  background: #14233bd9;
}

/* On the neutral ground a button of either look is too pale. */
.where .el-button,
.where .el-button:hover {
  border-color: #fff;
  background: #14233b;
  color: #fff;
}

ol {
  display: flex;
  flex-wrap: wrap;
  align-items: flex-start;
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  flex-direction: column;
  gap: 2px;
  width: min-content;
  padding: 3px;
}

li.visible {
  outline: 3px solid #fff;
}

.mark {
  background: #fff;
  color: #14233b;
}
</style>
