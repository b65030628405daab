<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, Trouble, type Choices, type ParcelsState, type ParcelSummary, type ParcelView } from '../../data/api'
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
  (signal) => api.lanes(props.masterId, signal),
  [() => props.masterId],
  [events.news(({ kind, id }) => ['measurement', 'settings', 'sheets', 'content'].includes(kind) || (['lanes', 'master', 'queue'].includes(kind) && id === props.masterId))],
)
const views = computed(() => parcels.value.value?.lanes ?? [])
/** Lanes that are parcels of their own, without those that show a destination's master as it is. */
const own = computed(() => views.value.filter((view) => !view.beside))
/** What lanes lack to tell what arrives is tried in the background, lane by lane. */
const lacking = computed(() => own.value.filter((view) => view.lacks_probes && !view.probing).map((view) => view.summary.parcel.id).join(' '))
watch(lacking, (ids) => ids && void api.probeLanes(props.masterId).catch(() => undefined), { immediate: true })
const sentence = computed(() => parcels.value.value?.sentences.find((one) => one.screen === viewer.screen && one.line === viewer.line)?.sentence ?? '')
const isHeld = ({ summary }: ParcelView) => summary.stamps.some((stamp) => stamp.outcome === 'held')

const packable = computed(() => own.value.filter((view) => !view.packing && !isHeld(view)))
const problem = ref('')
async function each(these: ParcelView[], act: (summary: ParcelSummary) => Promise<unknown>): Promise<boolean> {
  problem.value = ''
  try {
    for (const view of these) await act(view.summary)
    return true
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be started.'
    return false
  }
}
const unrehearsed = computed(() =>
  own.value.filter((view) => view.summary.plan.video && !view.rehearsing && !viewer.seen(view.summary).at && !isHeld(view)),
)
const rehearseAll = () => each(unrehearsed.value, ({ parcel }) => api.rehearse(parcel.id))
const asking = ref(false)
const careful = computed(() => packable.value.some((view) => view.summary.stamps.some((stamp) => stamp.outcome === 'handle with care')))
async function packAll(): Promise<void> {
  if (await each(packable.value, ({ parcel, plan_key }) => api.pack(parcel.id, plan_key, null))) await router.push({ name: 'dispatch' })
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
async function changeTogether(part: Partial<Choices>, times: number | null, only?: ParcelSummary): Promise<void> {
  problem.value = done.value = ''
  try {
    const answer = await api.together(props.masterId, part, times, only ? [only.parcel.id] : null)
    before.value.push(answer.before)
    const good = only ? `${only.destination.sheet_name} gets the master as it is.` : 'All lanes are changed.'
    done.value = answer.refused?.length ? `Not ${answer.refused.map((one) => `${one.name}: ${one.why}`).join(' ')}` : good
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
        <LaneRow
          v-for="view in views" :key="`${view.summary.parcel.id} ${view.beside}`" :master="master" :view="view" :roomy="views.length <= 3" :last="own.length === 1"
          @send-as-it-is="changeTogether({ method: view.summary.plan.method.value }, null, view.summary)" @removed="parcels.again()"
        />
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
