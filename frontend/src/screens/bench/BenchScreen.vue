<script setup lang="ts">
import { ElButton } from 'element-plus'
import { onKeyStroke } from '@vueuse/core'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import { api, Trouble, type Alternative, type Choices } from '../../data/api'
import { useEvents } from '../../data/events'
import { useMaster } from '../../data/useParcels'
import { useViewer } from '../../data/viewer'
import { stem } from '../../data/words'
import PackingSlip from '../../parts/PackingSlip.vue'
import ScreenSwitch from '../../parts/ScreenSwitch.vue'
import StampMark from '../../parts/StampMark.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import GuidanceChart from '../../parts/GuidanceChart.vue'
import SheetNewsNote from '../../parts/SheetNewsNote.vue'
import BenchChoices from './BenchChoices.vue'
import BenchMore from './BenchMore.vue'
import BenchFigures from './BenchFigures.vue'
import CapWays from './CapWays.vue'
import FramingChoice from './FramingChoice.vue'
import PackDialog from './PackDialog.vue'
import SuffersMost from './SuffersMost.vue'
import SurvivalCurve from './SurvivalCurve.vue'
import { useBench } from './useBench'

const props = defineProps<{ masterId: string; destinationId: string }>()
const events = useEvents()
const viewer = useViewer()
const { master, trouble: masterTrouble, again: masterAgain, setExcerpt, refused: excerptRefused } = useMaster(() => props.masterId)
const bench = useBench(() => props.masterId, () => props.destinationId, () => master.value?.excerpt)
const { view, bitrate, refused, unkept, trouble, again, past, future } = bench

const seen = computed(() => view.value && viewer.seen(view.value.parcel))
const held = computed(() => view.value?.parcel.plan.stamps.some((stamp) => stamp.outcome === 'held'))
const rehearsing = computed(() => events.live(view.value?.rehearsing))
const packing = computed(() => events.live(view.value?.packing))
const ownRate = computed(() => view.value?.parcel.choices.video_bitrate_bps != null)
const chosenRehearsed = computed(() => seen.value?.curve.points.some((point) => Math.abs(point.bitrate_bps / bitrate.value - 1) < 0.005))
const ownChoices = computed(() => {
  const usual: Partial<Choices> = { picture: true, sound: true, sharpen: false }
  const shape = ['framing', 'shape', 'focus', 'zoom', 'video_bitrate_bps']
  return Object.entries(view.value?.parcel.choices ?? {}).some(
    ([key, value]) => value != null && !shape.includes(key) && value !== usual[key as keyof Choices],
  )
})
const onlyShape = ({ framing, shape, focus, zoom }: Choices): Partial<Choices> => ({ framing, shape, focus, zoom })
const asking = ref(false)

async function takeWay(way: Alternative): Promise<void> {
  if (way.choices) await bench.replace(way.choices)
  if (way.excerpt) await setExcerpt(way.excerpt)
}

async function takeNewest(): Promise<void> {
  refused.value = ''
  try {
    await api.takeNewestSheet(props.masterId, props.destinationId)
    await again()
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be planned anew.'
  }
}

async function rehearse(rates: number[] = []): Promise<void> {
  refused.value = ''
  try {
    await api.rehearse(props.masterId, props.destinationId, rates)
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'The rehearsal could not be started.'
  }
}

onKeyStroke(['z', 'Z'], (event) => {
  if (!(event.ctrlKey || event.metaKey) || (event.target as HTMLElement).tagName === 'INPUT') return
  event.preventDefault()
  void (event.shiftKey ? bench.redo() : bench.undo())
})
</script>

<template>
  <div class="page bench">
    <TroubleNote v-if="trouble ?? masterTrouble" :trouble="(trouble ?? masterTrouble)!" @again="again(), masterAgain()" />
    <template v-if="view && seen && master?.facts">
      <div class="left">
        <div class="row top">
          <h1 class="cut">
            <RouterLink :to="{ name: 'lanes', params: { masterId } }" :title="master.name">{{ stem(master.name) }}</RouterLink>
            → {{ view.parcel.destination.sheet_name }}, {{ view.parcel.destination.placement.name }}
          </h1>
          <StampMark v-for="stamp in view.parcel.plan.stamps" :key="stamp.code" :outcome="stamp.outcome" :text="stamp.matter" :title="stamp.sentence" />
          <StampMark v-if="!view.parcel.plan.stamps.length" outcome="cleared" text="plan cleared" />
        </div>
        <p class="first-sentence">{{ seen.sentence || view.parcel.sentence }}</p>
        <div class="row tools">
          <ScreenSwitch v-if="view.parcel.plan.video" />
          <span class="grow" />
          <ElButton v-if="past.length" size="small" title="Ctrl Z" @click="bench.undo()">Undo</ElButton>
          <ElButton v-if="future.length" size="small" title="Ctrl Shift Z" @click="bench.redo()">Redo</ElButton>
          <ElButton v-if="ownRate" size="small" @click="bench.change({ video_bitrate_bps: null })">Back to the plan’s own rate</ElButton>
          <ElButton v-if="ownChoices" size="small" @click="bench.replace(onlyShape(view.parcel.choices))">Back to our plan</ElButton>
        </div>
        <SheetNewsNote v-if="view.news" :news="view.news" :name="view.parcel.destination.sheet_name" @take="takeNewest" />
        <div v-if="view.parcel.lowest_bps != null" class="chart" :class="{ lower: view.parcel.plan.video?.framing.value.mode }">
          <SurvivalCurve
            :parcel="view.parcel"
            :seen="seen"
            :bitrate="bitrate"
            :as-it-is="view.as_it_is ? (master.facts.video.bitrate_bps ?? null) : null"
            @drag="bench.tryRate"
            @drop="bench.change({ video_bitrate_bps: $event })"
            @nudge="bench.change({ video_bitrate_bps: $event }, true)"
          >
            <template #empty>
              <template v-if="rehearsing">
                <h2>{{ rehearsing.state === 'waiting' ? 'Waiting for its turn' : 'Rehearsing on your own pictures' }}</h2>
                <p class="quiet">{{ rehearsing.progress?.doing || 'The first point appears as soon as it is measured.' }}</p>
              </template>
              <template v-else>
                <h2>No curve yet</h2>
                <p>Pack a few moments at five bit rates, re-encode them as {{ view.parcel.destination.sheet_name }} would, and measure.</p>
                <ElButton :disabled="held || unkept" @click="rehearse()">Rehearse</ElButton>
              </template>
            </template>
          </SurvivalCurve>
        </div>
        <BenchChoices :view="view" @change="bench.change" />
        <BenchMore :view="view" :master-id="masterId" @change="bench.change" />
        <CapWays :view="view" @take="takeWay" />
        <div class="row under" aria-live="polite">
          <template v-if="rehearsing">
            <span class="bar"><span :style="{ width: `${(rehearsing.progress?.share ?? 0) * 100}%` }" /></span>
            <span class="quiet cut grow">{{ rehearsing.progress?.doing || 'waiting for its turn' }}</span>
            <ElButton size="small" @click="api.cancel(rehearsing.id)">Stop rehearsing</ElButton>
          </template>
          <template v-else-if="seen.curve.points.length">
            <span class="quiet grow">
              {{ seen.curve.points.length }} {{ seen.curve.points.length === 1 ? 'point' : 'points' }} rehearsed. Drag the handle, or use the arrow keys.
            </span>
            <ElButton v-if="seen.curve.points.length < 5" size="small" :disabled="unkept" @click="rehearse()">Rehearse the rest</ElButton>
            <ElButton v-else-if="!chosenRehearsed" size="small" :disabled="held || unkept" @click="rehearse([bitrate])">Rehearse this rate</ElButton>
            <RouterLink class="look" :to="{ name: 'look', params: { masterId, destinationId } }">Look at the pictures</RouterLink>
          </template>
        </div>
        <p v-if="refused || excerptRefused" role="alert" class="refused">{{ refused || excerptRefused }}</p>
        <BenchFigures :parcel="view.parcel" :seen="seen" />
        <SuffersMost v-if="view.parcel.suffers.length" :parcel="view.parcel" :master-id="masterId" />
        <FramingChoice v-if="view.parcel.plan.video" :master="master" :parcel="view.parcel" @choose="bench.change({ framing: $event })" />
      </div>
      <PackingSlip :slip="view.parcel.slip" :told="view.told">
        <template v-if="view.parcel.plan.guidance && view.parcel.plan.video" #guidance><GuidanceChart :parcel="view.parcel" /></template>
        <ElButton class="sends" :disabled="held || unkept || !!packing" @click="asking = true">{{ packing ? 'Being packed' : 'Pack this parcel' }}</ElButton>
      </PackingSlip>
      <PackDialog v-if="asking" v-model="asking" :view="view" :master-id="masterId" />
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
