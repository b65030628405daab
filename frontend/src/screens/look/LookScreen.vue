<script setup lang="ts">
import { ElButton, ElOption, ElRadioButton, ElRadioGroup, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { api, Trouble, type Job, type SuffersView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useViewer } from '../../data/viewer'
import { mbps, place, ratio, stem } from '../../data/words'
import NumbersExplained from '../../parts/NumbersExplained.vue'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import MomentStrip from './MomentStrip.vue'
import RateLadder from './RateLadder.vue'
import LookedPair from './LookedPair.vue'

const props = defineProps<{ parcelId: string }>()
const events = useEvents()
const viewer = useViewer()
/** Settings may change in another window; what was rehearsed with the earlier ones is then not shown any more. */
const changed = events.news(({ kind, id }) => kind === 'parcel' && id === props.parcelId)
const look = useAnswer((signal) => api.look(props.parcelId, signal), [() => props.parcelId], [events.of('measurement'), changed])
const parcel = useAnswer((signal) => api.parcel(props.parcelId, signal), [() => props.parcelId], [changed])
const rehearsals = computed(() => look.value.value?.rehearsals ?? [])
const route = useRoute()
const bps = ref<number | undefined>(Number(route.query.rate) || undefined)
watch(rehearsals, (found) => {
  if (found.length && !found.some((r) => r.target_bps === bps.value)) bps.value = found[Math.floor(found.length / 2)].target_bps
})
const rehearsal = computed(() => rehearsals.value.find((r) => r.target_bps === bps.value))
const moments = computed(() => rehearsal.value?.moments ?? [])
const worst = computed(() => moments.value.reduce((low, moment, i) => (moment.arrived < moments.value[low].arrived ? i : low), 0))
const index = ref(0)
const asked = computed(() => moments.value.findIndex((moment) => String(moment.reel_index) === route.query.picture))
watch(rehearsal, (found, before) => {
  if (!found || found.target_bps === before?.target_bps) return
  index.value = !before && asked.value >= 0 ? asked.value : worst.value
})
const destination = computed(() => parcel.value.value?.summary.destination)
const moment = computed(() => moments.value[index.value])

const form = ref<'stations' | 'ladder'>(route.query.ladder === undefined ? 'stations' : 'ladder')
/** Usual rates that a ladder of five still lacks. */
const missing = computed(() => (look.value.value?.waiting_rates ?? []).slice(0, Math.max(0, 5 - rehearsals.value.length)))
const started = ref<Job>()
const rehearsing = computed(() => events.live(started.value ?? parcel.value.value?.rehearsing))
const problem = ref('')
const failed = computed(() => (started.value ? events.jobs.get(started.value.id)?.problem : undefined))
async function rehearseMissing(): Promise<void> {
  problem.value = ''
  try {
    started.value = await api.rehearse(props.parcelId, missing.value)
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'The rehearsal could not be started.'
  }
}
const bars = computed(() => moments.value.map((one) => ({ key: String(one.reel_index), master_s: one.master_s, values: [one.arrived] })))
/** A ladder opens on the picture that suffers most at the lowest rate, until another one is chosen. */
const chosenIndex = ref<number | null>(null)
watch(form, () => (chosenIndex.value = null))
/** The picture of a ladder, marked among the measured ones. */
function showPicture(reelIndex: number): void {
  const place = moments.value.findIndex((one) => one.reel_index === reelIndex)
  if (place >= 0) index.value = place
}
function choosePicture(place: number): void {
  index.value = place
  chosenIndex.value = moments.value[place].reel_index
}
type Station = 'master' | 'packed' | 'arrived'
const stations: Station[] = ['master', 'packed', 'arrived']
const left = ref<Station>('master')
const right = ref<Station>('arrived')
const url = (station: Station) =>
  moment.value && rehearsal.value
    ? api.lookPicture(props.parcelId, rehearsal.value.target_bps, rehearsal.value.pictures_key, moment.value.reel_index, viewer.screen, viewer.line, station)
    : ''
const mapped = ref(false)
const map = shallowRef<SuffersView>()
/** Of the right one where that can have a map, else of the left. */
const judged = computed(() => (right.value !== 'master' ? right.value : left.value !== 'master' ? left.value : undefined))
let mapAsked = 0
watch([mapped, moment, () => rehearsal.value?.pictures_key, judged, () => viewer.screen, () => viewer.line], async () => {
  map.value = undefined
  const mine = (mapAsked += 1)
  if (!mapped.value || !judged.value || !moment.value || !rehearsal.value) return
  try {
    const { target_bps, pictures_key } = rehearsal.value
    const found = await api.lookSuffers(props.parcelId, target_bps, pictures_key, moment.value.reel_index, viewer.screen, viewer.line, judged.value)
    if (mine === mapAsked) map.value = found
  } catch (error) {
    problem.value = (error as Error).message
  }
})
const arrival = computed(() =>
  rehearsal.value?.arrivals.find((a) => a.station === 'arrived' && a.screen === viewer.screen && a.line === viewer.line),
)
const raster = computed(() => arrival.value?.raster as [number, number] | undefined)
const packed = computed(() => rehearsal.value?.arrivals.find((a) => a.station === 'packed' && a.screen === viewer.screen))
const sentence = computed(() => {
  if (!arrival.value || !packed.value || !bps.value) return ''
  const served = arrival.value.rendition ? `a viewer gets ${arrival.value.rendition.replace('h264', 'H.264').replace('vp9', 'VP9')}` : 'it arrives untouched'
  return `At ${mbps(bps.value)} ${served}: ${packed.value.condition.toFixed(0)} as packed (${packed.value.xpsnr_db.toFixed(1)} dB XPSNR), ${arrival.value.condition.toFixed(0)} on arrival (${arrival.value.xpsnr_db.toFixed(1)} dB).`
})
</script>

<template>
  <div class="page">
    <TroubleNote v-if="look.trouble.value ?? parcel.trouble.value" :trouble="(look.trouble.value ?? parcel.trouble.value)!" @again="look.again(), parcel.again()" />
    <template v-if="parcel.value.value && look.value.value">
      <div class="row">
        <h1 class="cut">
          <RouterLink :to="{ name: 'bench', params: { parcelId } }">{{ stem(parcel.value.value.master_name) }}</RouterLink>
          <template v-if="destination"> → {{ destination.sheet_name }}</template>, looked at
        </h1>
        <span class="grow" />
        <ScreenSwitch />
      </div>
      <section v-if="!rehearsals.length" class="sheet empty">
        <h2>Nothing to look at yet</h2>
        <p>Pictures come from rehearsals. <RouterLink :to="{ name: 'bench', params: { parcelId } }">Rehearse on the bench</RouterLink> first.</p>
      </section>
      <template v-else-if="moment">
        <div class="row tools" role="toolbar" aria-label="What is looked at">
          <ElRadioGroup v-model="form" aria-label="Form of looking">
            <ElRadioButton value="stations">Stations</ElRadioButton>
            <ElRadioButton value="ladder">Ladder of rates</ElRadioButton>
          </ElRadioGroup>
          <template v-if="form === 'stations'">
            <span class="quiet">Upload</span>
            <ElSelect v-model="bps" class="rate" aria-label="Upload"><ElOption v-for="r in rehearsals" :key="r.target_bps" :label="mbps(r.target_bps)" :value="r.target_bps" /></ElSelect>
            <span class="quiet">left</span>
            <ElSelect v-model="left" class="station" aria-label="left"><ElOption v-for="s in stations" :key="s" :label="s" :value="s" /></ElSelect>
            <span class="quiet">right</span>
            <ElSelect v-model="right" class="station" aria-label="right"><ElOption v-for="s in stations" :key="s" :label="s" :value="s" /></ElSelect>
          </template>
          <ElButton v-else-if="missing.length" :disabled="!!rehearsing" @click="rehearseMissing">{{ rehearsing ? `Rehearsing: ${rehearsing.progress?.doing ?? 'waiting its turn'}` : `Rehearse ${missing.length === 1 ? 'one more rate' : `${missing.length} more rates`}` }}</ElButton>
          <span class="grow" />
          <span class="mono">{{ place(ratio(moment.master_s)) }} · picture {{ index + 1 }} of {{ moments.length }} measured<template v-if="form === 'stations' && index === worst"> · suffers most</template><template v-else-if="form === 'ladder' && chosenIndex === null"> · suffers most at the lowest rate</template></span>
        </div>
        <template v-if="form === 'stations'">
          <p class="first-sentence">{{ sentence }}<template v-if="mapped && judged">{{ ` ${map?.sentence ?? 'Looking where it suffers…'}` }}</template></p>
          <p v-if="problem" role="alert" class="refused">{{ problem }}</p>
          <LookedPair v-model:mapped="mapped" :left="url(left)" :right="url(right)" :left-name="left" :right-name="right" :raster="raster" :map="map" />
        </template>
        <template v-else>
          <p v-if="problem || failed" role="alert" class="refused">{{ problem || `${failed!.what} ${failed!.todo}` }}</p>
          <RateLadder :parcel-id="parcelId" :index="chosenIndex" :stamp="rehearsals.map((r) => r.target_bps).join()" @picture="showPicture" />
        </template>
        <MomentStrip :model-value="index" :moments="bars" legend="Measured pictures, worst lowest" @update:model-value="choosePicture" />
      </template>
    </template>
    <p v-else-if="!(look.trouble.value ?? parcel.trouble.value)" class="quiet">Fetching the rehearsals…</p>
    <p class="quiet"><NumbersExplained brief /></p>
  </div>
</template>

<style scoped>
.empty {
  margin-top: 16px;
  padding: 26px;
}

.tools {
  margin: 8px 0;
  gap: 10px;
}

.rate,
.station {
  width: 128px;
}
</style>
