<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, Trouble, type Choices, type Parcel, type ParcelsState, type ParcelView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useExcerptPoints } from '../../data/useExcerptPoints'
import { useMaster } from '../../data/useParcels'
import { useViewer } from '../../data/viewer'
import HatchPatterns from '../../parts/HatchPatterns.vue'
import MasterLabel from '../../parts/MasterLabel.vue'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import CareDialog from './CareDialog.vue'
import DestinationDialog from './DestinationDialog.vue'
import LaneRow from './LaneRow.vue'
import RecipeDialog from './RecipeDialog.vue'
import TogetherBar from './TogetherBar.vue'

const props = defineProps<{ masterId: string }>()
const events = useEvents()
const viewer = useViewer()
const router = useRouter()
const { master, trouble, again, refused, setExcerpt, chooseExcerpt } = useMaster(() => props.masterId)
const points = useExcerptPoints(() => master.value, setExcerpt)
const parcels = useAnswer(
  (signal) => api.parcels(props.masterId, signal),
  [() => props.masterId, () => JSON.stringify(master.value?.excerpt)],
  [() => events.changes],
)
const views = computed(() => parcels.value.value ?? [])
const encoded = computed(() => views.value.filter((view) => !isSecond(view)))
/** The lane that shows the same destination as the one above it, with the master as it is. */
function isSecond(view: ParcelView): boolean {
  const at = views.value.indexOf(view)
  return at > 0 && views.value[at - 1].parcel.destination.id === view.parcel.destination.id
}

const sentence = computed(() => {
  const held = views.value.filter((view) => view.parcel.plan.stamps.some((stamp) => stamp.outcome === 'held'))
  const known = views.value.flatMap((view) => {
    const at = isSecond(view) ? undefined : viewer.seen(view.parcel).at
    return at ? [{ name: view.parcel.destination.sheet_name, at }] : []
  })
  if (held.length) return `${[...new Set(held.map((view) => view.parcel.destination.sheet_name))].join(' and ')} cannot take it so; its lane says why.`
  if (!known.length) return `${encoded.value.length === 1 ? 'The plan is' : `All ${encoded.value.length} plans are`} ready. Rehearse to see what arrives after each platform has re-encoded it.`
  const best = known.reduce((a, b) => (b.at.condition > a.at.condition ? b : a))
  const worst = known.reduce((a, b) => (b.at.condition < a.at.condition ? b : a))
  if (best === worst) return `On ${best.name} it arrives at ${best.at.condition.toFixed(0)}, ${best.at.words}.`
  const gap = best.at.condition - worst.at.condition
  const thief = worst.at.lost_platform >= worst.at.lost_packing ? 'in the platform’s own re-encoding' : 'in our packing'
  return gap < 6
    ? `It arrives in much the same condition everywhere: ${best.at.condition.toFixed(0)} on ${best.name}, ${worst.at.condition.toFixed(0)} on ${worst.name}.`
    : `${best.name} shows it ${gap.toFixed(0)} points better than ${worst.name}, which loses most ${thief}.`
})

const packable = computed(() => encoded.value.filter((view) => !view.packing && !view.parcel.plan.stamps.some((s) => s.outcome === 'held')))
const problem = ref('')
async function each(these: ParcelView[], act: (parcel: Parcel) => Promise<unknown>): Promise<boolean> {
  problem.value = ''
  try {
    for (const view of these) await act(view.parcel)
    return true
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be started.'
    return false
  }
}
const unrehearsed = computed(() =>
  encoded.value.filter((view) => view.parcel.plan.video && !view.rehearsing && !viewer.seen(view.parcel).at && !view.parcel.plan.stamps.some((s) => s.outcome === 'held')),
)
const rehearseAll = () => each(unrehearsed.value, (parcel) => api.rehearse(props.masterId, parcel.destination.id))
const asking = ref(false)
const careful = computed(() => packable.value.some((view) => view.parcel.plan.stamps.some((stamp) => stamp.outcome === 'handle with care')))
async function packAll(): Promise<void> {
  if (await each(packable.value, (parcel) => api.pack(props.masterId, parcel.destination.id, parcel.plan_key, null))) await router.push({ name: 'dispatch' })
}
const choosing = ref(false)
const cooking = ref(false)
/** What lanes and choices were before each change of several parcels at once. */
const before = ref<ParcelsState[]>([])
const done = ref('')
function applied(was: ParcelsState, name: string): void {
  before.value.push(was)
  done.value = `“${name}” is applied.`
  void parcels.again()
}
async function changeTogether(part: Partial<Choices>, times: number | null, only?: Parcel): Promise<void> {
  problem.value = done.value = ''
  try {
    const answer = await api.together(props.masterId, part, times, only ? [only.destination.id] : null)
    before.value.push(answer.before)
    const good = only ? `${only.destination.sheet_name} gets the master as it is.` : 'All lanes are changed.'
    done.value = answer.refused?.length ? `Not ${answer.refused.map((one) => `${one.name}: ${one.missing}`).join(' ')}` : good
    await parcels.again()
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be changed.'
  }
}
async function undo(): Promise<void> {
  problem.value = done.value = ''
  try {
    await api.putBack(props.masterId, before.value[before.value.length - 1])
    before.value.pop()
    await parcels.again()
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be put back.'
  }
}
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
        <TogetherBar v-if="views.length" @change="changeTogether" />
      </div>
      <div class="row said">
        <p class="first-sentence grow">{{ views.length ? sentence : parcels.trouble.value ? '' : 'Making the plans…' }}</p>
        <ElButton @click="choosing = true">Choose destinations</ElButton>
        <ElButton @click="router.push({ name: 'framing', params: { masterId } })">Framing</ElButton>
        <ElButton @click="cooking = true">Recipes</ElButton>
        <ElButton v-if="unrehearsed.length" @click="rehearseAll">Rehearse {{ unrehearsed.length > 1 ? `all ${unrehearsed.length}` : '' }}</ElButton>
        <ElButton v-if="views.length" class="sends" :disabled="!packable.length" @click="careful ? (asking = true) : packAll()">
          Pack {{ packable.length === 1 ? 'one parcel' : `${packable.length} parcels` }}
        </ElButton>
      </div>
      <div v-if="done || before.length" class="row under">
        <span role="status" class="cut">{{ done }}</span>
        <ElButton v-if="before.length" size="small" @click="undo">Undo</ElButton>
      </div>
      <div class="lanes" role="table" aria-label="Lanes">
        <div class="heads lane-grid slab" role="row">
          <span role="columnheader">Master → destination</span>
          <span role="columnheader">Packed</span>
          <span role="columnheader">Carried</span>
          <span role="columnheader">Condition lost on the way</span>
          <span role="columnheader" class="last">Arrived</span>
        </div>
        <LaneRow v-for="view in views" :key="`${view.parcel.destination.id} ${isSecond(view)}`" :master="master" :view="view" :second="isSecond(view)" :roomy="views.length <= 3" @send-as-it-is="changeTogether({ method: view.parcel.plan.method.value }, null, view.parcel)" />
      </div>
      <CareDialog v-if="asking" v-model="asking" :views="packable" @pack="packAll" />
      <RecipeDialog v-if="cooking" v-model="cooking" :master-id="masterId" @applied="applied" />
      <DestinationDialog v-if="choosing" v-model="choosing" :master-id="masterId" @changed="parcels.again()" />
    </template>
    <p v-else-if="!trouble" class="quiet">Fetching the master…</p>
  </div>
</template>

<style scoped>
.tools {
  margin: 12px 0 8px;
}

.said {
  margin-bottom: 10px;
  align-items: flex-start;
}

.said .first-sentence {
  line-height: 1.35;
}

.under {
  margin-bottom: 8px;
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
  grid-template-columns: minmax(366px, 1.2fr) minmax(206px, 0.6fr) 104px minmax(280px, 1.7fr) 138px;
  gap: 20px;
}
</style>
