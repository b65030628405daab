<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, Trouble } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useExcerptPoints } from '../../data/useExcerptPoints'
import { useMaster } from '../../data/useParcels'
import { useViewer } from '../../data/viewer'
import HatchPatterns from '../../parts/HatchPatterns.vue'
import MasterLabel from '../../parts/MasterLabel.vue'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import LaneRow from './LaneRow.vue'

const props = defineProps<{ masterId: string }>()
const events = useEvents()
const viewer = useViewer()
const router = useRouter()
const { master, trouble, again, refused, setExcerpt, chooseExcerpt } = useMaster(() => props.masterId)
const points = useExcerptPoints(() => master.value, setExcerpt)
const parcels = useAnswer(
  (signal) => api.parcels(props.masterId, signal),
  [() => props.masterId, () => events.changes, () => master.value?.excerpt],
)
const views = computed(() => parcels.value.value ?? [])

const sentence = computed(() => {
  const held = views.value.filter((view) => view.parcel.plan.stamps.some((stamp) => stamp.outcome === 'held'))
  const known = views.value.flatMap((view) => {
    const at = viewer.seen(view.parcel).at
    return at ? [{ name: view.parcel.destination.sheet_name, at }] : []
  })
  if (held.length) return `${held.map((view) => view.parcel.destination.sheet_name).join(' and ')} cannot take it as it is; its lane says why.`
  if (!known.length) return 'Both plans are ready. Rehearse them to see what arrives after each platform has re-encoded it.'
  const best = known.reduce((a, b) => (b.at.condition > a.at.condition ? b : a))
  const worst = known.reduce((a, b) => (b.at.condition < a.at.condition ? b : a))
  if (best === worst) return `On ${best.name} it arrives at ${best.at.condition.toFixed(0)}, ${best.at.words}.`
  const gap = best.at.condition - worst.at.condition
  const thief = worst.at.lost_platform >= worst.at.lost_packing ? 'in the platform’s own re-encoding' : 'in our packing'
  return gap < 6
    ? `It arrives in much the same condition at both: ${best.at.condition.toFixed(0)} on ${best.name}, ${worst.at.condition.toFixed(0)} on ${worst.name}.`
    : `${best.name} shows it ${gap.toFixed(0)} points better than ${worst.name}, which loses most ${thief}.`
})

const packable = computed(() => views.value.filter((view) => !view.packing && !view.parcel.plan.stamps.some((s) => s.outcome === 'held')))
const problem = ref('')
async function each(act: (destination: string) => Promise<unknown>): Promise<boolean> {
  problem.value = ''
  try {
    for (const view of packable.value) await act(view.parcel.destination.id)
    return true
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be started.'
    return false
  }
}
const rehearseAll = () => each((destination) => api.rehearse(props.masterId, destination))
async function packAll(): Promise<void> {
  if (await each((destination) => api.pack(props.masterId, destination, null))) await router.push({ name: 'dispatch' })
}
const unrehearsed = computed(() => views.value.some((view) => !view.rehearsing && !viewer.seen(view.parcel).curve.points.length))
</script>

<template>
  <div class="page">
    <HatchPatterns />
    <TroubleNote v-if="trouble ?? parcels.trouble.value" :trouble="(trouble ?? parcels.trouble.value)!" @again="again(), parcels.again()" />
    <template v-if="master?.facts">
      <MasterLabel :master="master" :points="points" @choose="chooseExcerpt" />
      <p v-if="refused || problem" role="alert" class="refused">{{ refused || problem }}</p>
      <div class="row tools">
        <ScreenSwitch />
        <span class="grow" />
        <ElButton v-if="unrehearsed" @click="rehearseAll">Rehearse {{ views.length > 1 ? 'both' : '' }}</ElButton>
        <ElButton class="sends" :disabled="!packable.length" @click="packAll">
          Pack {{ packable.length === 1 ? 'one parcel' : `${packable.length} parcels` }}
        </ElButton>
      </div>
      <p class="first-sentence">{{ sentence }}</p>
      <div class="lanes" role="table" aria-label="Lanes">
        <div class="heads lane-grid slab" role="row">
          <span role="columnheader">Master → destination</span>
          <span role="columnheader">Packed</span>
          <span role="columnheader">Carried</span>
          <span role="columnheader">Condition lost on the way</span>
          <span role="columnheader" class="last">Arrived</span>
        </div>
        <LaneRow v-for="view in views" :key="view.parcel.destination.id" :master="master" :view="view" :roomy="views.length <= 3" />
      </div>
    </template>
    <p v-else-if="!trouble" class="quiet">Fetching the master…</p>
  </div>
</template>

<style scoped>
.tools {
  margin: 14px 0 10px;
}

.first-sentence {
  margin-bottom: 12px;
}

.heads {
  padding: 0 0 6px;
  border-bottom: 2px solid var(--ink);
  color: var(--second-ink);
}

.last {
  text-align: right;
}

.refused {
  margin-top: 10px;
  font-weight: 700;
}

.lanes :deep(.lane-grid),
.lane-grid {
  display: grid;
  grid-template-columns: minmax(340px, 1.15fr) minmax(190px, 0.6fr) 104px minmax(330px, 1.7fr) 134px;
  gap: 20px;
}
</style>
