<script setup lang="ts">
import { ElButton, ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, Trouble, type PairSide } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useMaster } from '../../data/useParcels'
import { useViewer } from '../../data/viewer'
import { mbps, place, ratio, stem } from '../../data/words'
import NumbersExplained from '../../parts/NumbersExplained.vue'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import MomentStrip from './MomentStrip.vue'
import SidePair from './SidePair.vue'
import LookedPair from './LookedPair.vue'

const props = defineProps<{ masterId: string; left: string; right: string }>()
const events = useEvents()
const viewer = useViewer()
const router = useRouter()
const { master, trouble: lost } = useMaster(() => props.masterId)
const pair = useAnswer((signal) => api.pair(props.masterId, props.left, props.right, signal), [() => [props.masterId, props.left, props.right].join()], [
  events.news(({ kind, id }) => kind === 'measurement' || (['lanes', 'master', 'queue'].includes(kind) && id === props.masterId)),
])
const found = computed(() => pair.value.value)
const sides = computed(() => (found.value ? [found.value.left, found.value.right] : []))
const pictures = computed(() => found.value?.pictures ?? [])
const index = ref(0)
watch(() => [props.left, props.right, pictures.value.length].join(), () => (index.value = found.value?.telling ?? 0))
const moment = computed(() => pictures.value[Math.min(index.value, pictures.value.length - 1)])
const sentence = computed(() => found.value?.sentences.find((one) => one.screen === viewer.screen && one.line === viewer.line)?.sentence ?? '')

const form = ref<'beside' | 'wipe'>('beside')
const shown = computed(() => (found.value?.same_shape ? form.value : 'beside'))
const station = ref<'packed' | 'arrived'>('arrived')
const views = computed(() => {
  if (!found.value || !moment.value) return []
  const places = [moment.value.left_index, moment.value.right_index]
  const values = [moment.value.left, moment.value.right]
  return sides.value.map((side, i) => ({
    url: api.lookPicture(side.parcel_id, side.shown_bps ?? 0, side.pictures_key, places[i], viewer.screen, viewer.line, station.value),
    name: side.name, value: values[i], raster: side.rasters[viewer.screen] as [number, number],
  }))
})
/** Figures of single pictures are those on arrival on a laptop, so they stand only where that is what is seen. */
const figured = computed(() => station.value === 'arrived' && viewer.screen === 'laptop' && viewer.line === 'good')
const named = computed(() => views.value.map((view) => ({ ...view, name: figured.value && view.value !== null ? `${view.name}: ${view.value.toFixed(0)}` : view.name })))
const moments = computed(() => pictures.value.map((one) => ({ key: `${one.left_index}/${one.right_index}`, master_s: one.master_s, values: [one.left, one.right] })))

/** Rates that are shown and are not the lane's own, which is said. */
/** The lowest rate that is rehearsed, in bit/s. */
const LEAST = 50_000
const ownRate = (side: PairSide) => Math.max(LEAST, side.own_bps ?? 0)
const otherRate = (side: PairSide) => side.shown_bps && side.own_bps && Math.abs(side.shown_bps / ownRate(side) - 1) > 0.005
const wanting = computed(() => sides.value.filter((side) => (side.shown_bps === null || otherRate(side)) && !side.refused && !side.rehearsing))
const under = computed(() => sides.value.flatMap((side) => (side.rehearsing ? [{ side, job: events.live(side.rehearsing) ?? side.rehearsing }] : [])))
const asked = ref<string[]>([])
/** What became of rehearsals that were asked for from here, where they failed. */
const failed = computed(() => asked.value.map((id) => events.jobs.get(id)).find((job) => job?.state === 'failed')?.problem)
const problem = ref('')
async function rehearse(these: PairSide[]): Promise<void> {
  problem.value = ''
  try {
    asked.value = []
    for (const side of these) asked.value.push((await api.rehearse(side.parcel_id, side.own_bps ? [ownRate(side)] : [])).id)
    await pair.again()
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'The rehearsal could not be started.'
  }
}
const swap = () => router.replace({ name: 'pair', params: { masterId: props.masterId }, query: { left: props.right, right: props.left } })
</script>

<template>
  <div class="page">
    <TroubleNote v-if="lost ?? pair.trouble.value" :trouble="(lost ?? pair.trouble.value)!" @again="pair.again()" />
    <template v-if="found && master">
      <div class="row">
        <h1 class="cut">
          <RouterLink :to="{ name: 'lanes', params: { masterId } }">{{ stem(master.name) }}</RouterLink>, two lanes on the same pictures
        </h1>
        <span class="grow" />
        <ScreenSwitch />
      </div>
      <p class="first-sentence">{{ sentence }}</p>
      <p v-if="problem || failed" role="alert" class="refused">{{ problem || `${failed!.what} ${failed!.todo}` }}</p>
      <template v-if="moment">
        <div class="row tools" role="toolbar" aria-label="How the two are seen">
          <ElRadioGroup :model-value="shown" aria-label="Beside each other or over each other" @update:model-value="form = $event as 'beside' | 'wipe'">
            <ElRadioButton value="beside">Side by side</ElRadioButton>
            <ElRadioButton value="wipe" :disabled="!found.same_shape" :title="found.same_shape ? '' : 'Two shapes cannot lie over each other'">Over each other</ElRadioButton>
          </ElRadioGroup>
          <ElRadioGroup v-model="station" aria-label="Where on its way the picture is seen">
            <ElRadioButton value="packed">as packed</ElRadioButton>
            <ElRadioButton value="arrived">on arrival</ElRadioButton>
          </ElRadioGroup>
          <ElButton @click="swap">Swap</ElButton>
          <span class="grow" />
          <span class="mono">{{ place(ratio(moment.master_s)) }} · picture {{ index + 1 }} of {{ pictures.length }} in common<template v-if="index === found.telling"> · differs most</template></span>
        </div>
        <LookedPair v-if="shown === 'wipe'" over :left="named[0].url" :right="named[1].url" :left-name="named[0].name" :right-name="named[1].name" :raster="named[0].raster" />
        <SidePair v-else :pictures="named" />
        <MomentStrip v-model="index" :moments="moments" :legend="`On arrival on a laptop, worst lowest: ${sides[0].name} filled, ${sides[1].name} hollow`" />
      </template>
      <section v-else-if="!wanting.length && !under.length" class="sheet empty">
        <h2>No picture in common</h2>
        <p v-if="sides.some((side) => side.shown_bps === null)">{{ sides.find((side) => side.shown_bps === null)!.name }} cannot be rehearsed. {{ sides.find((side) => side.shown_bps === null)!.refused }}</p>
        <p v-else>These two show different parts of the master. <RouterLink :to="{ name: 'lanes', params: { masterId } }">Choose two lanes</RouterLink> of the same part.</p>
      </section>
      <section v-if="wanting.length || under.length" class="sheet" :class="moment ? 'wanting' : 'empty'">
        <h2 v-if="!moment">Pictures come from rehearsals</h2>
        <p v-for="{ side, job } in under" :key="side.parcel_id">{{ side.name }} is being rehearsed: {{ job.progress?.doing ?? 'waiting its turn' }}.</p>
        <template v-if="wanting.length">
          <p v-for="side in wanting" :key="side.parcel_id">
            {{ side.name }}
            <template v-if="side.shown_bps && side.own_bps">is shown at {{ mbps(side.shown_bps) }}, the rehearsed rate nearest to its own {{ mbps(side.own_bps) }}.</template>
            <template v-else>was not rehearsed yet, so there is no picture of it.</template>
          </p>
          <ElButton @click="rehearse(wanting)">Rehearse {{ wanting.length > 1 ? 'both' : wanting[0].name }}</ElButton>
        </template>
      </section>
    </template>
    <p v-else-if="!(lost ?? pair.trouble.value)" class="quiet">Fetching the two lanes…</p>
    <p class="quiet"><NumbersExplained brief /></p>
  </div>
</template>

<style scoped>
.tools {
  margin: 8px 0;
  gap: 14px;
}

.empty {
  margin-top: 16px;
  padding: 26px;
}

.empty .el-button {
  margin-top: 12px;
}

.wanting {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 18px;
  margin-top: 10px;
  padding: 10px 14px;
}
</style>
