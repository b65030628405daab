<script setup lang="ts">
import { ElButton, ElSlider } from 'element-plus'
import { onKeyStroke, useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'

import { api, Trouble } from '../../data/api'
import { useMaster } from '../../data/useParcels'
import { useStepping } from '../../data/useStepping'
import { place, ratio, stem } from '../../data/words'
import ShapeModes from '../../parts/ShapeModes.vue'
import MasterTabs from '../../parts/MasterTabs.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import FramingStage from './FramingStage.vue'
import ShapeControls from './ShapeControls.vue'
import ShapeRow from './ShapeRow.vue'
import { centreOf, useFraming } from './useFraming'

const props = defineProps<{ masterId: string }>()
const { master, trouble: masterTrouble, again: masterAgain, set } = useMaster(() => props.masterId)
const framing = useFraming(() => props.masterId)
const { view, refused, trouble, again, past, future } = framing

const picked = ref('')
const chosen = computed(() => {
  const shapes = view.value?.shapes ?? []
  return shapes.find((shape) => shape.parcel_id === picked.value) ?? shapes.find((shape) => !shape.own) ?? shapes[0]
})
const first = computed(() => view.value?.first_picture ?? 0)
const last = computed(() => view.value?.last_picture ?? 0)
const stepping = useStepping(
  () => props.masterId,
  () => last.value,
)
const rate = computed(() => (master.value?.facts ? ratio(master.value.facts.video.frame_rate) : 25))
const source = computed(() => stepping.shown.value?.picture)
watch(
  () => !!view.value && !!master.value?.facts,
  (ready) => ready && !stepping.shown.value && stepping.goTo(Math.round((first.value + last.value) / 2)),
  { immediate: true },
)
const goTo = (number: number) => stepping.goTo(Math.max(first.value, number))

const rows = ref<HTMLElement>()
const { width } = useElementSize(rows)
/** All screens to one scale: phone, laptop and TV side by side, as large as the column lets them be. */
const scale = computed(() => Math.min(0.1, Math.max(0.05, (width.value - 260) / 4600)))

function moved(at: { x: number; y: number }, done: boolean): void {
  void framing.attempt(framing.changeShape(chosen.value!, { focus: at }))
  if (done) void framing.settle()
}
function focused(at: { x: number; y: number }, done: boolean): void {
  void framing.attempt({ focus: at })
  if (done) void framing.settle()
}
const bounded = (share: number) => Math.min(1, Math.max(0, share))
function keyed(kind: 'focus' | 'move', right: number, down: number): void {
  framing.nudge((wished) => {
    const common = wished.focus && wished.focus !== 'as it is' ? wished.focus : view.value!.focus
    const from =
      kind === 'focus'
        ? common
        : (wished.parcels?.[chosen.value!.parcel_id]?.focus ?? centreOf(view.value!, chosen.value!))
    const at = { x: bounded(from.x + right), y: bounded(from.y + down) }
    return kind === 'focus' ? { focus: at } : framing.changeShape(chosen.value!, { focus: at })
  })
}
function zoomed(factor: number): void {
  framing.nudge((wished) => {
    const zoom = wished.parcels?.[chosen.value!.parcel_id]?.zoom ?? chosen.value!.zoom
    return framing.changeShape(chosen.value!, { zoom: Math.min(8, Math.max(1, zoom * factor)) })
  })
}
/** Bars that were found in the master and are not removed yet. */
const bars = computed(() => master.value?.stamps.find((stamp) => stamp.remedy === 'remove_bars' && !stamp.done))
const problem = ref('')
async function removeBars(): Promise<void> {
  problem.value = ''
  try {
    set(await api.remedy(props.masterId, 'remove_bars', true))
    await again()
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'The bars could not be removed.'
  }
}
onKeyStroke(['z', 'Z'], (event) => {
  if (!(event.ctrlKey || event.metaKey) || (event.target as HTMLElement).tagName === 'INPUT') return
  event.preventDefault()
  void (event.shiftKey ? framing.redo() : framing.undo())
})
</script>

<template>
  <div class="page">
    <TroubleNote
      v-if="trouble ?? masterTrouble"
      :trouble="(trouble ?? masterTrouble)!"
      @again="(again(), masterAgain())"
    />
    <template v-if="view && master?.facts">
      <div class="row head">
        <h1 class="cut" :title="master.name">{{ stem(master.name) }}</h1>
        <MasterTabs :master-id="masterId" />
        <span class="grow" />
        <ElButton v-if="past.length" size="small" title="Ctrl Z" @click="framing.undo()">Undo</ElButton>
        <ElButton v-if="future.length" size="small" title="Ctrl Shift Z" @click="framing.redo()">Redo</ElButton>
        <ElButton v-if="view.own_focus" size="small" @click="framing.keep({ focus: null })"
          >Use the suggested focus</ElButton
        >
      </div>
      <p class="first-sentence">{{ view.sentence }}</p>
      <ShapeModes
        v-if="view.shapes.some((shape) => !shape.own)"
        class="modes"
        :mode="view.mode ?? 'fill'"
        label="Frames of another shape"
        @choose="framing.keep({ mode: $event })"
        >Frames of another shape</ShapeModes
      >
      <p v-if="bars" class="row bars">
        <span>Baked-in bars: {{ bars.seen }}. They are framed as if they were picture.</span>
        <ElButton size="small" @click="removeBars">Remove the bars first</ElButton>
      </p>
      <p v-if="refused || problem" role="alert" class="refused">{{ refused || problem }}</p>
      <div v-if="chosen" class="columns">
        <div class="left">
          <FramingStage
            :view="view"
            :chosen="chosen.parcel_id"
            :source="source"
            :label="`Picture ${stepping.wanted.value}`"
            @choose="picked = $event"
            @focus="focused"
            @move="moved"
            @key="keyed"
            @zoom="zoomed"
          />
          <div class="row steps">
            <ElButton size="small" @click="goTo(stepping.wanted.value - Math.round(rate))">−1 s</ElButton>
            <ElButton size="small" @click="goTo(stepping.wanted.value - 1)">−1 frame</ElButton>
            <ElSlider
              class="grow"
              :min="first"
              :max="last"
              :model-value="stepping.wanted.value"
              :show-tooltip="false"
              aria-label="Place in the excerpt"
              @input="goTo(Number($event))"
            />
            <ElButton size="small" @click="goTo(stepping.wanted.value + 1)">+1 frame</ElButton>
            <ElButton size="small" @click="goTo(stepping.wanted.value + Math.round(rate))">+1 s</ElButton>
            <span class="mono where"
              >{{ place(stepping.wanted.value / rate)
              }}<span v-if="!stepping.exact.value" class="quiet"> near</span></span
            >
          </div>
          <p v-if="stepping.problem.value" role="alert" class="refused">{{ stepping.problem.value }}</p>
          <ShapeControls
            :master="master"
            :shape="chosen"
            :picture="stepping.wanted.value"
            @wish="framing.keep(framing.changeShape(chosen, $event))"
            @nudge="(change) => framing.nudge(() => framing.changeShape(chosen!, change))"
          />
        </div>
        <div ref="rows" class="rows">
          <p class="row heads quiet tiny">
            <span class="grow">Shape</span
            ><span>on a phone, a laptop, a TV; picture height in what the eye tells apart</span>
          </p>
          <ShapeRow
            v-for="shape in view.shapes"
            :key="shape.parcel_id"
            :master="master"
            :shape="shape"
            :source="source"
            :scale="scale"
            :chosen="shape.parcel_id === chosen.parcel_id"
            @choose="picked = shape.parcel_id"
          />
          <p class="more">
            <RouterLink :to="{ name: 'lanes', params: { masterId } }">Choose other destinations</RouterLink> in the
            lanes; each brings its shape here.
          </p>
        </div>
      </div>
      <section v-else class="sheet empty">
        <h2>Nothing to frame</h2>
        <p>
          <RouterLink :to="{ name: 'lanes', params: { masterId } }">Choose a destination</RouterLink> that takes a
          picture and let it be encoded.
        </p>
      </section>
    </template>
    <p v-else-if="!trouble && !masterTrouble" class="quiet">Fetching the shapes…</p>
  </div>
</template>

<style scoped>
.head {
  gap: 22px;
}

.columns {
  display: grid;
  grid-template-columns: minmax(0, 602px) minmax(0, 1fr);
  gap: 24px;
  margin-top: 10px;
  align-items: start;
}

.left {
  min-width: 0;
}

.steps {
  margin-top: 7px;
}

.steps :deep(.el-slider) {
  margin: 0 12px;
}

.where {
  min-width: 78px;
}

.heads {
  padding: 0 10px 3px;
  border-bottom: 2px solid var(--ink);
}

.more {
  margin-top: 8px;
  padding: 0 10px;
}

.bars {
  margin-top: 6px;
  padding: 3px 12px;
  background: var(--care-ground);
  border: 1px solid var(--care);
  width: fit-content;
}

.refused {
  margin-top: 6px;
  font-weight: 700;
}

.empty {
  margin-top: 16px;
  padding: 26px;
}

@media (min-width: 1500px) {
  .columns {
    grid-template-columns: minmax(0, 760px) minmax(0, 1fr);
  }
}
</style>
