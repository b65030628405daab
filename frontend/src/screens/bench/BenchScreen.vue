<script setup lang="ts">
import { ElButton } from 'element-plus'
import { onKeyStroke } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, Trouble, type Aim, type Alternative, type Choices, type Excerpt } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useMaster } from '../../data/useParcels'
import { useViewer } from '../../data/viewer'
import { mbps, stem } from '../../data/words'
import NumbersExplained from '../../parts/NumbersExplained.vue'
import OtherOptions from '../../parts/OtherOptions.vue'
import PackingSlip from '../../parts/PackingSlip.vue'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import StampMark from '../../parts/StampMark.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import GuidanceChart from '../../parts/GuidanceChart.vue'
import SheetNewsNote from '../../parts/SheetNewsNote.vue'
import BenchAdvice from './BenchAdvice.vue'
import BenchChoices from './BenchChoices.vue'
import BenchMore from './BenchMore.vue'
import BenchFigures from './BenchFigures.vue'
import BesideWays from './BesideWays.vue'
import { otherWays } from './besides'
import CapWays from './CapWays.vue'
import FramingChoice from './FramingChoice.vue'
import PackDialog from './PackDialog.vue'
import BenchReserve from './BenchReserve.vue'
import SuffersMost from './SuffersMost.vue'
import SurvivalCurve from './SurvivalCurve.vue'
import WhyDialog from './WhyDialog.vue'
import { useBench } from './useBench'

const props = defineProps<{ parcelId: string }>()
const events = useEvents()
const viewer = useViewer()
const router = useRouter()
const bench = useBench(() => props.parcelId)
const { view, tried, bitrate, refused, unkept, trouble, again, past, future } = bench
const masterId = computed(() => view.value?.summary.parcel.master_id ?? '')
const { master } = useMaster(() => masterId.value)

const summary = computed(() => view.value?.summary)
const seen = computed(() => {
  if (!summary.value) return undefined
  const kept = viewer.seen(summary.value)
  if (!tried.value) return kept
  const there = tried.value.arrivals.find((one) => one.screen === viewer.screen && one.line === viewer.line)
  return { ...kept, at: there?.at ?? null, likely: there?.likely ?? null }
})
/** What the other ways depend on: every choice but the rate, which only moves along their curves. */
const ways = computed(() => JSON.stringify({ ...summary.value?.choices, video_bitrate_bps: null, times_enough: null, ceiling_bps: null }))
const { value: besides } = useAnswer((signal) => api.besides(props.parcelId, signal), [() => props.parcelId, ways], [events.of('measurement', 'content')])
const others = computed(() => (seen.value ? otherWays(besides.value ?? [], seen.value) : []))
const figures = computed(() => tried.value?.figures ?? summary.value?.figures)
const held = computed(() => (tried.value ? tried.value.held : summary.value?.stamps.some((stamp) => stamp.outcome === 'held')))
const rehearsing = computed(() => events.live(view.value?.rehearsing))
const probing = computed(() => events.live(view.value?.probing))
const packing = computed(() => events.live(view.value?.packing))
/** The lane on the open bench is tried before all others, and again whenever another codec, frame or excerpt is chosen; its other ways last. */
let opened = ''
watch(() => [props.parcelId, view.value?.lacks_probes, probing.value === undefined] as const, ([id, lacks]) => {
  if (view.value?.summary.parcel.id !== id || (opened === id && (!lacks || probing.value))) return
  opened = id
  void api.probe(id).catch(() => undefined)
}, { immediate: true })
const ownRate = computed(() => summary.value?.choices.video_bitrate_bps != null)
const chosenRehearsed = computed(() => seen.value?.curve.points.some((point) => Math.abs(point.bitrate_bps / bitrate.value - 1) < 0.005))
const ownChoices = computed(() => {
  const usual: Partial<Choices> = { picture: true, sound: true, sharpen: false }
  const shape = ['framing', 'shape', 'focus', 'zoom', 'video_bitrate_bps']
  return Object.entries(view.value?.summary.choices ?? {}).some(
    ([key, value]) => value != null && !shape.includes(key) && value !== usual[key as keyof Choices],
  )
})
const onlyShape = ({ framing, shape, focus, zoom }: Choices): Partial<Choices> => ({ framing, shape, focus, zoom })
const asking = ref(false)
const wondering = ref(false)

async function attempt(act: () => Promise<void>, otherwise: string): Promise<void> {
  refused.value = ''
  try {
    await act()
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : otherwise
  }
}
/** The recommended bit rate, where it is one of this very codec and frame. */
const ownAdvice = computed(() => {
  const advice = view.value?.recommended
  return advice && Object.keys(advice.part).every((key) => key === 'video_bitrate_bps') ? advice.video_bps : null
})
const aimFor = (aim: Aim) => attempt(async () => (await api.setAim(summary.value!.destination.id, aim), await again()), 'This could not be kept.')
const takeNewest = () => attempt(async () => bench.set(await api.takeNewestSheet(props.parcelId)), 'This could not be planned anew.')
const move = (excerpt: Excerpt | null) => attempt(async () => bench.set(await api.moveParcel(props.parcelId, excerpt)), 'The excerpt could not be chosen.')
const chooseExcerpt = (at: number) => move((view.value?.excerpts?.[at]?.excerpt as Excerpt | null | undefined) ?? null)
const picking = ref(false)
const toBench = (parcelId: string) => router.push({ name: 'bench', params: { parcelId } })
async function takeWay(way: Alternative): Promise<void> {
  if (way.choices) await bench.replace(way.choices)
  if (way.excerpt) await move(way.excerpt as Excerpt)
}
/** Another codec asks for another bit rate: what became of the one that was chosen. */
const moved = ref('')
watch(() => props.parcelId, () => (moved.value = ''))
async function change(part: Partial<Choices>): Promise<void> {
  const before = summary.value
  moved.value = ''
  await bench.change(part)
  const [was, is] = [before?.plan.video, summary.value?.plan.video]
  if (!('codec' in part) || !was || !is || was.codec.value === is.codec.value || was.target_bps.value === is.target_bps.value) return
  moved.value = `The bit rate went from ${mbps(was.target_bps.value)} to ${mbps(is.target_bps.value)} with the codec: ${summary.value!.guidance_words}, as before.`
}
const rehearse = (rates: number[] = []) => attempt(async () => void (await api.rehearse(props.parcelId, rates)), 'The rehearsal could not be started.')

onKeyStroke(['z', 'Z'], (event) => {
  if (!(event.ctrlKey || event.metaKey) || (event.target as HTMLElement).tagName === 'INPUT') return
  event.preventDefault()
  void (event.shiftKey ? bench.redo() : bench.undo())
})
</script>

<template>
  <div class="page bench">
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="view && summary && seen && figures">
      <div class="left">
        <div class="row top">
          <h1 class="cut">
            <RouterLink :to="{ name: 'lanes', params: { masterId } }" :title="view.master_name">{{ stem(view.master_name) }}</RouterLink>
            → {{ summary.destination.sheet_name }}, {{ summary.destination.placement.name }}<template v-if="summary.difference"> · {{ summary.difference }}</template>
          </h1>
          <StampMark v-for="stamp in summary.stamps" :key="stamp.code" :outcome="stamp.outcome" :text="stamp.matter" :explanation="stamp.sentence" />
          <StampMark v-if="!summary.stamps.length" outcome="cleared" text="plan cleared" />
        </div>
        <p class="first-sentence">{{ seen.sentence || summary.sentence }}</p>
        <div class="row tools">
          <ScreenSwitch v-if="summary.plan.video" />
          <span class="grow" />
          <ElButton size="small" :disabled="unkept" @click="picking = true">Try another option</ElButton>
          <ElButton v-if="past.length" size="small" title="Ctrl Z" @click="bench.undo()">Undo</ElButton>
          <ElButton v-if="future.length" size="small" title="Ctrl Shift Z" @click="bench.redo()">Redo</ElButton>
          <ElButton v-if="ownRate" size="small" @click="bench.change({ video_bitrate_bps: null })">Back to the plan’s own rate</ElButton>
          <ElButton v-if="ownChoices" size="small" @click="bench.replace(onlyShape(summary.choices))">Back to our plan</ElButton>
        </div>
        <BenchAdvice :view="view" :unkept="unkept" @take="bench.change" @aim="aimFor" />
      <p v-if="summary.parcel.served_by && summary.plan.destination_id !== summary.destination.id" role="status" class="shared">
        It goes out in the file of <RouterLink :to="{ name: 'bench', params: { parcelId: summary.parcel.served_by } }">{{ summary.plan.destination_name }}</RouterLink>, packed once for all that it serves. Any choice here gives it a file of its own.
      </p>
        <SheetNewsNote v-if="view.news" :news="view.news" :name="summary.destination.sheet_name" @take="takeNewest" />
        <div v-if="summary.lowest_bps != null" class="chart" :class="{ lower: summary.plan.video?.framing.value.mode }">
          <SurvivalCurve
            :summary="summary"
            :seen="seen"
            :bitrate="bitrate"
            :as-it-is="view.as_it_is ? (view.master_bps ?? null) : null"
            :ways="others"
            :recommended="ownAdvice"
            @drag="bench.tryRate"
            @drop="bench.change({ video_bitrate_bps: $event })"
            @nudge="bench.change({ video_bitrate_bps: $event }, true)"
          >
            <template #empty>
              <template v-if="probing && !rehearsing">
                <h2>{{ probing.state === 'waiting' ? 'Waiting for its turn' : 'Testing sample clips of your film' }}</h2>
                <p class="quiet">{{ probing.progress?.doing || 'The curve appears within about a minute.' }}</p>
              </template>
              <template v-else-if="rehearsing">
                <h2>{{ rehearsing.state === 'waiting' ? 'Waiting for its turn' : 'Rehearsing on your own pictures' }}</h2>
                <p class="quiet">{{ rehearsing.progress?.doing || 'The first point appears as soon as it is measured.' }}</p>
              </template>
              <template v-else>
                <h2>No curve yet</h2>
                <p>Encode sample clips at five bit rates, re-encode them as {{ summary.destination.sheet_name }} would, and measure.</p>
                <ElButton :disabled="held || unkept" @click="rehearse()">Rehearse</ElButton>
              </template>
            </template>
          </SurvivalCurve>
        </div>
        <BesideWays :ways="others" :seen="seen" :bitrate="bitrate" :unkept="unkept" @take="bench.change" />
        <BenchChoices :view="view" @change="change" @excerpt="chooseExcerpt" />
        <BenchMore :view="view" @change="bench.change" />
        <CapWays :view="view" @take="takeWay" />
        <div class="row under" aria-live="polite">
          <template v-if="rehearsing">
            <span class="bar"><span :style="{ width: `${(rehearsing.progress?.share ?? 0) * 100}%` }" /></span>
            <span class="quiet cut grow">{{ rehearsing.progress?.doing || 'waiting for its turn' }}</span>
            <ElButton size="small" @click="api.cancel(rehearsing.id)">Stop rehearsing</ElButton>
          </template>
          <template v-else-if="probing">
            <span class="bar"><span :style="{ width: `${(probing.progress?.share ?? 0) * 100}%` }" /></span>
            <span class="quiet cut grow">{{ probing.progress?.doing || 'waiting for its turn' }}</span>
            <ElButton size="small" @click="api.stopTestsOf(parcelId)">Stop testing</ElButton>
          </template>
          <template v-else-if="seen.curve.points.length || seen.curve.line.length">
            <span class="quiet grow">
              <template v-if="seen.curve.points.length">{{ seen.curve.points.length }} {{ seen.curve.points.length === 1 ? 'point' : 'points' }} {{ seen.curve.points.some((one) => one.evidence === 'returned') ? 'measured' : 'rehearsed' }}.</template>
              <template v-else-if="seen.curve.evidence === 'sheet'">Not tested yet: the shading is all that can be said.</template>
              <template v-else>Computed from sample clips of your video.</template>
              Drag the handle, or use the arrow keys.
              <button type="button" class="link" @click="wondering = true">Why more bits stop arriving</button> · <NumbersExplained brief />
            </span>
            <ElButton v-if="!chosenRehearsed" size="small" :disabled="held || unkept" title="Pack those moments with exactly these settings, re-encode and measure them" @click="rehearse([bitrate])">Rehearse this rate</ElButton>
            <ElButton v-if="seen.curve.points.length < 5" size="small" :disabled="held || unkept" @click="rehearse()">{{ seen.curve.points.length ? 'Rehearse the rest' : 'Rehearse five rates' }}</ElButton>
            <RouterLink v-if="seen.curve.points.length" class="look" :to="{ name: 'look', params: { parcelId } }">Look at the pictures</RouterLink>
          </template>
        </div>
        <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
        <p v-else-if="moved" role="status" class="quiet">{{ moved }}</p>
        <BenchFigures :summary="summary" :seen="seen" :figures="figures" :bitrate="bitrate" :unkept="unkept" @rate="bench.change({ video_bitrate_bps: $event as unknown as number })" />
        <BenchReserve :parcel-id="summary.parcel.id" :stamp="summary.plan_key" />
        <SuffersMost
          v-if="view.over_time?.suffers.length"
          :summary="summary"
          :along="view.over_time"
          :master="master"
          :busy="held || unkept || !!rehearsing"
          @rehearse="rehearse([bitrate])"
        />
        <FramingChoice v-if="summary.plan.video && master" :master="master" :summary="summary" @choose="bench.change({ framing: $event })" />
      </div>
      <PackingSlip :slip="summary.slip" :told="view.told">
        <template v-if="summary.plan.guidance && summary.plan.video" #guidance><GuidanceChart :summary="summary" /></template>
        <ElButton class="sends" :disabled="held || unkept || !!packing" @click="asking = true">{{ packing ? 'Being packed' : 'Pack this parcel' }}</ElButton>
      </PackingSlip>
      <WhyDialog v-if="wondering" v-model="wondering" :summary="summary" :seen="seen" />
      <OtherOptions v-if="picking" v-model="picking" :parcel-id="parcelId" :name="`${summary.destination.sheet_name}, ${summary.destination.placement.name}`" @made="toBench" />
      <PackDialog v-if="asking" v-model="asking" :view="view" />
    </template>
    <p v-else-if="!trouble" class="quiet">Fetching the parcel…</p>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  gap: 22px;
  align-items: start;
}

.left {
  display: flex;
  flex-direction: column;
  gap: 9px;
  min-width: 0;
}

.top {
  flex-wrap: wrap;
}

h1 a {
  text-decoration-thickness: 1px;
  text-decoration-color: var(--twine);
  text-underline-offset: 4px;
}

.chart {
  height: clamp(200px, calc(100vh - 560px), 620px);
}

.chart.lower {
  height: clamp(180px, calc(100vh - 660px), 620px);
}

.under {
  min-height: 26px;
}

.bar {
  width: 160px;
  height: 8px;
  border: 1px solid var(--second-ink);
  background: var(--sheet);
}

.bar span {
  display: block;
  height: 100%;
  background: var(--ink);
}

.look {
  font: 600 15px var(--slab);
}

.refused {
  font-weight: 700;
}
</style>
