<script setup lang="ts">
import { ElButton, ElOption, ElRadioButton, ElRadioGroup, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { onKeyStroke, refDebounced } from '@vueuse/core'

import { api, type StationView, type SuffersView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useViewer } from '../../data/viewer'
import { place, ratio } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'
import LookedPair from './LookedPair.vue'
import MomentStrip from './MomentStrip.vue'
import { useInStep } from './useInStep'

/** Any picture of a packed film beside the master and what came back of it: stepped through, played in step, and where it suffers. */
const props = defineProps<{ receiptId: string }>()
const events = useEvents()
const viewer = useViewer()
const route = useRoute()
const { value: film, trouble, again } = useAnswer((signal) => api.filmLook(props.receiptId, signal), [() => props.receiptId], [events.of('sending'), events.of('returned')])
const rate = computed(() => ratio(film.value?.frame_rate ?? '25'))
const last = computed(() => (film.value?.pictures ?? 1) - 1)
const number = ref(-1)
const stations = computed(() => film.value?.stations ?? [])
const leftKey = ref('')
const rightKey = ref('')
const named = (key: string) => stations.value.find((one) => one.key === key)
watch(stations, (found) => {
  if (!found.length) return
  if (number.value < 0) number.value = Math.min(last.value, Number(route.query.picture ?? film.value!.worst) || 0)
  const asked = String(route.query.file ?? '')
  if (!named(leftKey.value)) leftKey.value = found[0].key
  if (!named(rightKey.value)) rightKey.value = (named(asked) ?? found.find((one) => one.key !== 'master' && one.key !== 'packed') ?? found.at(-1)!).key
}, { immediate: true })
const left = computed(() => named(leftKey.value))
const right = computed(() => named(rightKey.value))

const inStep = useInStep(() => (left.value && right.value ? [left.value, right.value] : undefined), () => last.value / rate.value)
const { playing, trouble: unplayed } = inStep
/** A jump shows what can be had at once, and the very picture as soon as nothing moves; a step shows that itself. */
const settled = refDebounced(number, 90)
const near = ref(false)
watch(number, (now, before) => (near.value = Math.abs(now - before) > 2 && before >= 0))
watch(settled, (now, before) => {
  near.value = false
  const next = now + Math.sign(now - before)
  if (playing.value || Math.abs(now - before) > 2 || next < 0 || next > last.value) return
  for (const one of [left.value, right.value]) if (one) new Image().src = api.filmPicture(props.receiptId, next, viewer.screen, one, false)
})
/** While it plays the picture that it began with stands, until the films have come. */
const began = ref(0)
const still = computed(() => (playing.value ? began.value : number.value))
const url = (station: StationView) => api.filmPicture(props.receiptId, still.value, viewer.screen, station, near.value && !playing.value)

function step(by: number): void {
  inStep.stop()
  number.value = Math.min(last.value, Math.max(0, number.value + by))
}
const typing = () => ['INPUT', 'TEXTAREA'].includes(document.activeElement?.tagName ?? '') && (document.activeElement as HTMLInputElement).type === 'text'
const within = (event: KeyboardEvent) => !typing() && !(event.target as HTMLElement).closest('[role=slider], [role=radiogroup], input, .el-select')
onKeyStroke('ArrowLeft', (event) => within(event) && (event.preventDefault(), step(event.shiftKey ? -10 : -1)))
onKeyStroke('ArrowRight', (event) => within(event) && (event.preventDefault(), step(event.shiftKey ? 10 : 1)))
onKeyStroke(' ', (event) => within(event) && (event.target as HTMLElement).tagName !== 'BUTTON' && (event.preventDefault(), toggle()))

function toggle(): void {
  if (playing.value) inStep.stop()
  else {
    began.value = number.value >= last.value ? 0 : number.value
    inStep.play(began.value / rate.value)
  }
}
watch(inStep.at, (now) => playing.value && (number.value = Math.min(last.value, Math.max(0, Math.round(now * rate.value)))))

const mapped = ref(false)
const map = shallowRef<SuffersView>()
const mapTrouble = ref('')
/** Of the right one where that can have a map, else of the left. */
const judged = computed(() => (rightKey.value !== 'master' ? rightKey.value : leftKey.value !== 'master' ? leftKey.value : ''))
let asked = 0
watch([mapped, settled, judged, () => viewer.screen, playing], async () => {
  map.value = undefined
  mapTrouble.value = ''
  const mine = (asked += 1)
  if (!mapped.value || playing.value || !judged.value) return
  try {
    const found = await api.filmSuffers(props.receiptId, settled.value, viewer.screen, judged.value)
    if (mine === asked) map.value = found
  } catch (error) {
    if (mine === asked) mapTrouble.value = (error as Error).message
  }
})
const hasMaster = computed(() => !!named('master'))
const bars = computed(() => (film.value?.moments ?? []).map((one) => ({ key: String(one.number), master_s: String((one.number + 0.01) / rate.value), values: [one.served ?? one.packed] })))
const moment = computed(() => {
  const every = film.value?.moments ?? []
  return every.reduce((best, one, i) => (Math.abs(one.number - number.value) < Math.abs(every[best].number - number.value) ? i : best), 0)
})
const figure = computed(() => {
  const one = film.value?.moments.find((known) => known.number === number.value)
  if (!one || viewer.screen !== 'laptop') return ''
  return [one.packed != null ? `${one.packed.toFixed(0)} packed` : '', one.served != null ? `${one.served.toFixed(0)} served` : ''].filter(Boolean).join(', ')
})
function goTo(index: number): void {
  inStep.stop()
  number.value = film.value!.moments[index].number
}
</script>

<template>
  <div class="page">
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="film && left && right">
      <div class="row">
        <h1 class="cut">{{ film.file_name }}, looked at</h1>
        <span class="grow" />
        <RouterLink :to="{ name: 'receipts', hash: `#${receiptId}` }">Its receipt</RouterLink>
        <ElRadioGroup v-model="viewer.screen" aria-label="Viewer's screen">
          <ElRadioButton value="phone">Phone</ElRadioButton><ElRadioButton value="laptop">Laptop</ElRadioButton><ElRadioButton value="tv">TV</ElRadioButton>
        </ElRadioGroup>
      </div>
      <p v-for="gone in film.gone" :key="gone" class="quiet">{{ gone }}</p>
      <div class="row tools" role="toolbar" aria-label="What is looked at">
        <span class="quiet">left</span>
        <ElSelect v-model="leftKey" class="station" aria-label="left"><ElOption v-for="one in stations" :key="one.key" :label="one.name" :value="one.key" /></ElSelect>
        <span class="quiet">right</span>
        <ElSelect v-model="rightKey" class="station" aria-label="right"><ElOption v-for="one in stations" :key="one.key" :label="one.name" :value="one.key" /></ElSelect>
        <ElButton @click="toggle">{{ playing ? 'Stop' : 'Play in step' }}</ElButton>
        <span class="grow" />
        <span class="mono where" role="status">{{ place((number + 0.01) / rate) }} · picture {{ number + 1 }} of {{ film.pictures }}<template v-if="figure"> · {{ figure }}</template></span>
      </div>
      <p v-if="unplayed || mapTrouble" role="alert" class="refused">{{ unplayed || mapTrouble }}</p>
      <p v-else-if="mapped && !playing && judged" class="told"><template v-if="map"><b>{{ named(judged)?.name }}</b>: {{ map.sentence }} At its worst {{ map.worst_words }}.</template><template v-else>Looking where it suffers…</template></p>
      <p v-else class="told"><b>{{ right.name }}</b>: {{ right.words }}, beside {{ left.words }}.</p>
      <LookedPair
        v-if="number >= 0" :left="url(left)" :right="url(right)" :left-name="left.name" :right-name="right.name" :raster="film.rasters[viewer.screen] as [number, number]"
        :map="map" :mapped="hasMaster ? mapped : undefined" :films="playing ? [left.film, right.film] : undefined" :hold="inStep.hold" @update:mapped="mapped = !!$event"
      />
      <div class="row scrub">
        <ElButton size="small" aria-label="One picture back" title="Left arrow; with Shift ten" :disabled="number <= 0" @click="step(-1)">◂</ElButton>
        <input type="range" class="grow" min="0" :max="last" :value="number" aria-label="Picture" @input="inStep.stop(), (number = Number(($event.target as HTMLInputElement).value))" />
        <ElButton size="small" aria-label="One picture on" title="Right arrow; with Shift ten" :disabled="number >= last" @click="step(1)">▸</ElButton>
      </div>
      <MomentStrip v-if="bars.length" :model-value="moment" :moments="bars" :legend="`On a laptop, ${film.measured}, worst lowest`" @update:model-value="goTo" />
      <p v-else class="quiet tiny">Nothing of this film was measured picture by picture yet. <RouterLink :to="{ name: 'receipts', hash: `#${receiptId}` }">Send it</RouterLink>, and what comes back is.</p>
    </template>
    <p v-else-if="!trouble" class="quiet">Opening the film…</p>
  </div>
</template>

<style scoped>
.tools {
  margin: 8px 0 0;
  gap: 10px;
}

.station {
  width: 216px;
}

.told {
  margin-top: 6px;
}

.where {
  white-space: nowrap;
}

.scrub {
  margin-top: 6px;
  gap: 10px;
}
</style>
