<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu, ElOption, ElRadioButton, ElRadioGroup, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, type Aim, type FramingMode, type LaneView } from '../../data/api'
import { useExcerptPoints } from '../../data/useExcerptPoints'
import { useMaster } from '../../data/useParcels'
import { useViewer } from '../../data/viewer'
import HatchPatterns from '../../parts/HatchPatterns.vue'
import MasterLabel from '../../parts/MasterLabel.vue'
import OtherOptions from '../../parts/OtherOptions.vue'
import NumbersExplained from '../../parts/NumbersExplained.vue'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import ShapeModes from '../../parts/ShapeModes.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import DestinationDialog from './DestinationDialog.vue'
import FewestFiles from './FewestFiles.vue'
import FirstFinding from './FirstFinding.vue'
import LaneRow from './LaneRow.vue'
import LanesByShape from './LanesByShape.vue'
import PackTogether from './PackTogether.vue'
import RecipeDialog from './RecipeDialog.vue'
import ShownLanes from './ShownLanes.vue'
import TogetherBar from './TogetherBar.vue'
import { useLaneChanges } from './useLaneChanges'
import { ORDERS, useLanes } from './useLanes'

const props = defineProps<{ masterId: string }>()
const viewer = useViewer()
const router = useRouter()
const { master, trouble, again, refused, setExcerpt, chooseExcerpt } = useMaster(() => props.masterId)
const points = useExcerptPoints(() => master.value, setExcerpt)
const lanes = useLanes(() => props.masterId)
const { own, shown, order, against, destinations, shapes, besides, hiddenHere, chosen, chosenHere } = lanes
/** What lanes lack to tell what arrives is tried in the background, lane by lane. */
const lacking = computed(() => own.value.filter((view) => view.lacks_probes && !view.probing).map((view) => view.lane.parcel.id).join(' '))
watch(lacking, (ids) => ids && void api.probeLanes(props.masterId).catch(() => undefined), { immediate: true })
const sentence = computed(() => lanes.answer.value.value?.sentences.find((one) => one.screen === viewer.screen && one.line === viewer.line)?.sentence ?? '')

const meant = computed(() => (chosenHere.value.length ? chosenHere.value : own.value))
/** A lane that another's file serves is packed with that one. */
const packable = computed(() => meant.value.filter((view) => !view.packing && !view.lane.held && (!view.served_by || !meant.value.some(({ lane }) => lane.parcel.id === view.lane.parcel.served_by))))
const unrehearsed = computed(() => meant.value.filter((view) => view.lane.target_bps && !view.rehearsing && !view.lane.held && !view.served_by && lanes.seen(view)?.at?.evidence !== 'rehearsed'))
const changes = useLaneChanges(() => props.masterId, lanes.answer.again, () => chosenHere.value)
const { problem, done, before, attempt, applied, changeTogether, takeRecommended, shareFiles, undo, changeOne, removeLane } = changes
const each = (views: LaneView[], act: (lane: LaneView['lane']) => Promise<unknown>) =>
  attempt(async () => { for (const view of views) await act(view.lane) }, 'This could not be started.')
const rehearseAll = () => each(unrehearsed.value, ({ parcel }) => api.rehearse(parcel.id))
const asking = ref(false)
async function packAll(): Promise<void> {
  if (await each(packable.value, ({ parcel, plan_key }) => api.pack(parcel.id, plan_key, null))) await router.push({ name: 'dispatch' })
}
const choosing = ref(false)
const cooking = ref(false)
/** Lanes whose plan is another than what is recommended. */
const advised = computed(() => meant.value.filter(({ lane }) => lane.recommended && !lane.recommended.taken))
const useAll = () => {
  const count = advised.value.length
  const message = count === 1 ? 'The lane is as recommended.' : `The ${count} lanes are as recommended.`
  return takeRecommended(advised.value.map(({ lane }) => lane.parcel.id), message)
}
/** Stamps of the parcel that a sibling was made from. */
const stampsOfFirst = ({ lane }: LaneView) => own.value.find((one) => one.lane.parcel.id === lane.parcel.sibling_of)?.lane.stamps.map((stamp) => stamp.code) ?? []

/** Two lanes with a picture, chosen by ticking them, can be seen on the same pictures. */
const two = computed(() => (chosenHere.value.length === 2 && chosenHere.value.every((view) => view.lane.framing) ? chosenHere.value.map((view) => view.lane.parcel.id) : null))

const form = useLocalStorage<'rows' | 'table'>('lanes-form', 'rows')
const tryShape = (parcelId: string, ratio: string) =>
  attempt(async () => (await api.tryAnotherOption(parcelId, { shape: ratio }), await lanes.answer.again()), 'This shape could not be tried.')

/** The lane that one is set beside: the one that all are compared with, else a sibling's first. */
const besideOf = ({ lane }: LaneView) => {
  const base = own.value.find((one) => one.lane.parcel.id === (against.value ?? lane.parcel.sibling_of))
  return lane.framing && base?.lane.framing && base.lane.parcel.id !== lane.parcel.id ? base.lane.parcel.id : null
}

const shapeQuestion = computed(() => lanes.answer.value.value?.shape_question ?? '')
const fillShapes = (mode: FramingMode | null) =>
  attempt(async () => (await api.keepFraming(props.masterId, { mode }), await lanes.answer.again()), 'This could not be kept.')

/** The lane beside which another option is chosen. */
const trying = ref<LaneView>()
const picking = computed({ get: () => !!trying.value, set: (shown) => shown || (trying.value = undefined) })
const tried = (parcelId: string, byHand: boolean) => (byHand ? router.push({ name: 'bench', params: { parcelId } }) : lanes.answer.again())
const setAim = (destination: string, aim: Aim) =>
  attempt(async () => (await api.setAim(destination, aim), await lanes.answer.again()), 'This could not be kept.')
function act(view: LaneView, name: string): void {
  const id = view.lane.parcel.id
  const larger = { short_side_px: view.lane.parcel.choices.short_side_px }
  const ways: Record<string, () => unknown> = {
    as_it_is: () => changeTogether({ method: view.lane.method }, null, [id], `${view.lane.sheet_name} gets the master as it is.`),
    recommended: () => takeRecommended([id], `${view.lane.sheet_name} takes what is recommended.`),
    rehearse: () => attempt(() => api.rehearse(id), 'The rehearsal could not be started.'),
    stop: () => attempt(() => (view.rehearsing ? api.cancel(view.rehearsing.id) : api.stopTestsOf(id)), 'It could not be stopped.'),
    another: () => (trying.value = view),
    go_up: () => changeTogether(larger, null, [id], `${view.lane.sheet_name} gets the larger frame.`),
    larger: () => attempt(async () => (await api.tryAnotherOption(id, larger), await lanes.answer.again()), 'No other way could be made.'),
    own_file: () => changeOne(view, async () => [(await api.ownFile(id)).summary.parcel], 'It could not be given a file of its own.'),
    compare: () => (against.value = against.value === id ? null : id),
    see: () => besideOf(view) && see([id, besideOf(view)!]),
    hide: () => lanes.hide(id),
    remove: () => removeLane(view),
  }
  if (name.startsWith('aim ')) void setAim(view.lane.destination_id, name.slice(4) as Aim)
  else void ways[name]?.()
}
/** A typed bit rate is read by the service, which says what is wrong with it. */
function setRate({ lane }: LaneView, text: string): void {
  const message = `${lane.sheet_name} is packed at ${text}${/[a-z]/i.test(text) ? '' : ' Mbit/s'}.`
  void changeTogether({ video_bitrate_bps: text as unknown as number }, null, [lane.parcel.id], message)
}
const see = ([left, right]: string[]) => router.push({ name: 'pair', params: { masterId: props.masterId }, query: { left, right } })
function more(name: string): void {
  if (name === 'framing') void router.push({ name: 'framing', params: { masterId: props.masterId } })
  if (name === 'sayings') void router.push({ name: 'sayings', params: { masterId: props.masterId } })
  if (name === 'recipes') cooking.value = true
  if (name === 'rehearse') void rehearseAll()
  if (['html', 'csv', 'json'].includes(name)) window.open(api.report(props.masterId, name, against.value), '_blank', 'noopener')
}
</script>

<template>
  <div class="page">
    <HatchPatterns />
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <TroubleNote v-else-if="lanes.answer.trouble.value" :trouble="lanes.answer.trouble.value" @again="lanes.answer.again()" />
    <template v-if="master?.facts">
      <MasterLabel :master="master" :points="points" @choose="chooseExcerpt" />
      <p v-if="refused || problem" role="alert" class="refused">{{ refused || problem }}</p>
      <FirstFinding :master="master" @changed="again" />
      <div class="row decide">
        <p class="first-sentence grow">{{ own.length ? sentence : lanes.answer.trouble.value ? '' : 'Making the plans…' }}</p>
        <ElButton v-if="advised.length" class="leads" @click="useAll">{{ advised.length === 1 ? 'Use the recommendation' : `Use ${advised.length} recommendations` }}</ElButton>
        <ElButton v-if="own.length" class="sends" :disabled="!packable.length" @click="asking = true">
          Pack {{ packable.length === 1 ? 'one' : packable.length }}<span class="noun">&nbsp;{{ packable.length === 1 ? 'parcel' : 'parcels' }}</span>
        </ElButton>
      </div>
      <ShapeModes v-if="shapeQuestion" class="asked" :mode="null" label="Frames of another shape" @choose="fillShapes">
        <p class="grow">{{ shapeQuestion }} <RouterLink :to="{ name: 'framing', params: { masterId } }">See them</RouterLink></p>
      </ShapeModes>
      <FewestFiles v-if="own.length > 1" :master-id="masterId" :shared="own.some((view) => view.served_by)" @take="shareFiles" />
      <div v-if="own.length" class="row tools" role="toolbar" aria-label="All lanes">
        <ScreenSwitch />
        <ElRadioGroup v-model="form" aria-label="Form of the lanes">
          <ElRadioButton value="rows">Rows</ElRadioButton>
          <ElRadioButton value="table">Shapes</ElRadioButton>
        </ElRadioGroup>
        <ElSelect v-if="form === 'rows'" v-model="order" class="order" aria-label="Order of the lanes">
          <template #prefix><span class="read">Order:</span></template>
          <ElOption v-for="(words, name) in ORDERS" :key="name" :label="words" :value="name" />
        </ElSelect>
        <ShownLanes v-model:destinations="destinations" v-model:shapes="shapes" v-model:besides="besides" :own="own" :shown="shown.filter((view) => !view.lane.beside).length" :hidden="hiddenHere" @again="lanes.showAgain" />
        <span class="grow" />
        <TogetherBar :count="meant.length" :chosen="!!chosenHere.length" @change="changeTogether" />
        <ElButton @click="choosing = true">Destinations</ElButton>
        <ElDropdown trigger="click" placement="bottom-end" @command="more">
          <ElButton>More…</ElButton>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem command="framing">Framing of all shapes</ElDropdownItem>
              <ElDropdownItem command="recipes">Recipes</ElDropdownItem>
              <ElDropdownItem command="sayings">Sayings, tried on this film</ElDropdownItem>
              <ElDropdownItem command="html" divided title="One page that prints well, with every lane, its plan and what arrives">Report to read or print</ElDropdownItem>
              <ElDropdownItem command="csv">The same as a table (CSV)</ElDropdownItem>
              <ElDropdownItem command="json">The same as JSON</ElDropdownItem>
              <ElDropdownItem v-if="unrehearsed.length" divided command="rehearse">Rehearse {{ unrehearsed.length === 1 ? 'one' : unrehearsed.length }}</ElDropdownItem>
            </ElDropdownMenu>
          </template>
        </ElDropdown>
      </div>
      <div v-if="done || before.length || two" class="row under">
        <span role="status" class="cut">{{ done }}</span>
        <ElButton v-if="two" size="small" @click="see(two)">See the two on the same pictures</ElButton>
        <ElButton v-if="before.length" size="small" @click="undo">Undo</ElButton>
      </div>
      <LanesByShape v-if="form === 'table' && lanes.answer.value.value" :master="master" :table="lanes.answer.value.value.table" :shown="shown" :seen="lanes.seen" @try="tryShape" />
      <div v-else class="lanes" role="table" aria-label="Lanes">
        <div class="heads lane-grid slab" role="row">
          <span role="columnheader" /><span role="columnheader" class="master-head" /><span role="columnheader">To</span>
          <span role="columnheader" class="spare">What we would send, and why</span>
          <span role="columnheader" class="spare">Upload</span>
          <span role="columnheader">What a viewer sees</span>
          <span role="columnheader" class="last">0 to 100</span>
          <span role="columnheader" />
        </div>
        <LaneRow
          v-for="view in shown" :key="`${view.lane.parcel.id} ${view.lane.beside}`" :master="master" :view="view" :seen="lanes.seen(view)"
          :chosen="chosen.includes(view.lane.parcel.id)" :base="against === view.lane.parcel.id && !view.lane.beside" :grouped="order === 'placed'" :last="own.length === 1" :pairs="!!besideOf(view)" :known="stampsOfFirst(view)"
          @choose="lanes.choose(view.lane.parcel.id, $event)" @act="act(view, $event)" @rate="setRate(view, $event)"
        />
      </div>
      <NumbersExplained v-if="own.length" />
      <p v-if="own.length && !shown.length" class="quiet">No lane is of what is ticked. <button type="button" class="link" @click="(destinations = []), (shapes = []), lanes.showAgain()">Show all again</button></p>
      <PackTogether v-if="asking" v-model="asking" :master-id="masterId" :views="packable" @pack="packAll" />
      <RecipeDialog v-if="cooking" v-model="cooking" :master-id="masterId" @applied="applied" />
      <OtherOptions v-if="trying" v-model="picking" :parcel-id="trying.lane.parcel.id" :name="`${trying.lane.sheet_name}, ${trying.lane.placement_name}`" @made="tried" />
      <DestinationDialog v-if="choosing" v-model="choosing" :master-id="masterId" @changed="lanes.answer.again()" />
    </template>
    <p v-else-if="!trouble" class="quiet">Fetching the master…</p>
  </div>
</template>

<style scoped>
.first-sentence {
  margin: 0;
  max-width: none;
  line-height: 1.3;
}

.decide {
  align-items: center;
  margin: 10px 0 8px;
  gap: 10px;
}

.decide :deep(.el-button) {
  margin: 0;
  flex: none;
}

.tools {
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 6px;
}

.order {
  width: 164px;
}

.order :deep(.el-select__wrapper),
.read {
  font: var(--body) var(--read);
}

.under {
  margin-bottom: 4px;
}

.asked {
  margin: 2px 0 8px;
  padding: 6px 10px;
  background: var(--care-ground);
  border-left: 3px solid var(--care);
}

.asked p {
  margin: 0;
}

.heads {
  padding: 0 0 3px;
  border-bottom: 2px solid var(--ink);
  color: var(--second-ink);
}

.master-head,
.last {
  text-align: right;
}

.refused {
  margin-top: 8px;
  font-weight: 700;
}

.lanes :deep(.lane-grid),
.lane-grid {
  display: grid;
  grid-template-columns: 16px 60px minmax(190px, 1.1fr) minmax(320px, 2.1fr) 72px minmax(180px, 1.2fr) 104px 28px;
  gap: 12px;
}

@media (max-width: 1199px) {
  .lanes :deep(.lane-grid),
  .lane-grid {
    grid-template-columns: 16px minmax(160px, 1fr) minmax(240px, 1.5fr) 80px minmax(140px, 1fr) 104px 24px;
    gap: 10px;
  }

  .heads .master-head {
    display: none;
  }
}

@media (max-width: 1269px) {
  .tools {
    gap: 4px;
  }

  .tools :deep(.el-button) {
    padding-inline: 8px;
  }

  .order {
    width: 112px;
  }

  .order .read,
  .noun,
  .tools :deep(.label) {
    display: none;
  }
}

@media (max-width: 899px) {
  .lanes :deep(.lane-grid),
  .lane-grid {
    grid-template-columns: 16px minmax(0, 1.3fr) minmax(110px, 1fr) 78px 26px;
  }

  .lanes :deep(.spare) {
    display: none;
  }
}
</style>
