<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { api } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useViewer } from '../../data/viewer'
import { mbps, place, ratio, stem } from '../../data/words'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import MomentStrip from './MomentStrip.vue'
import WipePair from './WipePair.vue'

const props = defineProps<{ parcelId: string }>()
const events = useEvents()
const viewer = useViewer()
const look = useAnswer((signal) => api.look(props.parcelId, signal), [() => props.parcelId], [events.of('measurement')])
const parcel = useAnswer((signal) => api.parcel(props.parcelId, signal), [() => props.parcelId])
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

type Station = 'master' | 'packed' | 'arrived'
const stations: Station[] = ['master', 'packed', 'arrived']
const left = ref<Station>('master')
const right = ref<Station>('arrived')
const url = (station: Station) =>
  moment.value && bps.value
    ? api.lookPicture(props.parcelId, bps.value, moment.value.reel_index, viewer.screen, viewer.line, station)
    : ''
const arrival = computed(() =>
  rehearsal.value?.arrivals.find((a) => a.station === 'arrived' && a.screen === viewer.screen && a.line === viewer.line),
)
const raster = computed(() => arrival.value?.raster as [number, number] | undefined)
const packed = computed(() => rehearsal.value?.arrivals.find((a) => a.station === 'packed' && a.screen === viewer.screen))
const sentence = computed(() => {
  if (!arrival.value || !packed.value || !bps.value) return ''
  const served = arrival.value.rendition ? `a viewer gets ${arrival.value.rendition.replace('h264', 'H.264').replace('vp9', 'VP9')}` : 'it arrives untouched'
  return `At ${mbps(bps.value)} ${served}: ${packed.value.condition.toFixed(0)} as packed, ${arrival.value.condition.toFixed(0)} on arrival.`
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
        <p class="first-sentence">{{ sentence }}</p>
        <div class="row tools">
          <label>Upload <select v-model="bps"><option v-for="r in rehearsals" :key="r.target_bps" :value="r.target_bps">{{ mbps(r.target_bps) }}</option></select></label>
          <label>left <select v-model="left"><option v-for="s in stations" :key="s">{{ s }}</option></select></label>
          <label>right <select v-model="right"><option v-for="s in stations" :key="s">{{ s }}</option></select></label>
          <span class="grow" />
          <span class="mono">{{ place(ratio(moment.master_s)) }} · picture {{ index + 1 }} of {{ moments.length }} measured<template v-if="index === worst"> · suffers most</template></span>
        </div>
        <WipePair :left="url(left)" :right="url(right)" :left-name="left" :right-name="right" :raster="raster" />
        <MomentStrip v-model="index" :moments="moments" />
      </template>
    </template>
    <p v-else-if="!(look.trouble.value ?? parcel.trouble.value)" class="quiet">Fetching the rehearsals…</p>
  </div>
</template>

<style scoped>
.empty {
  margin-top: 16px;
  padding: 26px;
}

.tools {
  margin: 8px 0;
  gap: 18px;
}

select {
  padding: 2px 6px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
}
</style>
