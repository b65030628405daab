<script setup lang="ts">
import { ElCheckbox } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import type { LaneSeen, LaneView, Master } from '../../data/api'
import { useEvents } from '../../data/events'
import { bytes, mbps, seconds } from '../../data/words'
import ConditionGauge from '../../parts/ConditionGauge.vue'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import FramedPicture from '../../parts/FramedPicture.vue'
import StampMark from '../../parts/StampMark.vue'
import LaneMenu from './LaneMenu.vue'

/**
 * One lane in two lines of one height. One `beside` another is the same destination with the master as it is; a sibling stands under
 * its first, named by what differs. `base` is the lane that all others are compared with.
 */
const props = defineProps<{ master: Master; view: LaneView; seen?: LaneSeen; chosen: boolean; base: boolean; grouped: boolean; last: boolean; pairs: boolean; known: string[] }>()
const emit = defineEmits<{ choose: [on: boolean]; act: [name: string] }>()
const events = useEvents()
const lane = computed(() => props.view.lane)
const copied = computed(() => lane.value.method !== 'encoded')
const sibling = computed(() => !!lane.value.parcel.sibling_of)
const height = computed(() => (lane.value.framing ? Math.min(34, (60 * lane.value.framing.height) / lane.value.framing.width) : 0))
const rehearsing = computed(() => events.live(props.view.rehearsing))
const probing = computed(() => events.live(props.view.probing))
const packing = computed(() => events.live(props.view.packing))
/** More than supposed from the sheet and the checks. */
const measured = computed(() => !!props.seen?.at && (props.seen.at.evidence !== 'sheet' || !props.seen.at.band))
const working = computed(() => packing.value ?? rehearsing.value ?? (measured.value ? undefined : probing.value))
const doing = computed(() => {
  const job = working.value
  if (!job) return ''
  if (job.state === 'waiting') return packing.value ? 'waiting to be packed' : rehearsing.value ? 'waiting to be rehearsed' : 'a few moments will be tried'
  return packing.value ? `packing, ${Math.floor((job.progress?.share ?? 0) * 100)} %` : (job.progress?.doing || 'starting')
})
const differs = computed(() => {
  const here = props.view.apart?.seen.find((one) => one.screen === props.seen?.screen && one.line === props.seen?.line)
  return here ? `${here.words}${here.told ? ` ±${here.band}` : ''}` : 'not known yet'
})
/** The difference in one line: what is the same is left out, and the whole of it is told when pointed at. */
const apart = computed(() => {
  const found = props.view.apart
  if (!found) return ''
  const size = found.size_words === 'as large' ? '' : `${found.size_bytes > 0 ? '+' : '−'}${bytes(Math.abs(found.size_bytes))}`
  const time = found.encode_s == null || Math.abs(found.encode_s) < 1 ? '' : `${found.encode_s > 0 ? '+' : '−'}${seconds(Math.abs(found.encode_s))}`
  return [differs.value, size, time].filter(Boolean).join(' · ')
})
const apartWords = computed(() => (props.view.apart ? `Against ${props.view.apart.of_name}: ${[differs.value, props.view.apart.size_words, props.view.apart.time_words].join(', ')}` : undefined))
const larger = computed(() => lane.value.beside === 'larger')
const frameOf = computed(() => `${lane.value.framing?.width}×${lane.value.framing?.height}`)
/** What a larger frame beside a lane brings to a viewer of this line. */
const brings = computed(() => (larger.value ? (props.view.brings?.find((one) => one.line === props.seen?.line) ?? { words: 'not known before it was tried', sentence: 'brings what is not known before it was tried' }) : undefined))
const enough = computed(() => (lane.value.beside || packing.value || props.view.served_by ? undefined : props.seen?.suggestions?.find((one) => one.code === 'enough')))
/** A sibling's stamps that its first has too are not said again. */
const stamps = computed(() => lane.value.stamps.filter((stamp) => stamp.outcome !== 'cleared' && !(props.grouped && sibling.value && props.known.includes(stamp.code))))
const packed = computed(() => {
  const last = props.view.packed
  if (!last) return ''
  const when = new Date(last.made_at * 1000)
  const today = when.toDateString() === new Date().toDateString()
  const time = when.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })
  return `packed ${today ? time : when.toLocaleDateString()}${last.as_now ? '' : ', changed since'}`
})
const bench = computed(() => ({ name: 'bench', params: { parcelId: lane.value.parcel.id } }))
const title = computed(() => (sibling.value && props.grouped ? lane.value.parcel.name || lane.value.difference || 'the same, to change' : `${lane.value.sheet_name} · ${lane.value.placement_name}`))
</script>

<template>
  <div class="lane lane-grid" :class="{ beside: lane.beside, indented: grouped && (sibling || lane.beside), base }" role="row">
    <div role="cell">
      <ElCheckbox v-if="!lane.beside" :model-value="chosen" :aria-label="`Choose ${title}`" @change="emit('choose', !!$event)" />
    </div>
    <div role="cell" class="thumb">
      <FramedPicture v-if="lane.framing && !copied" :master="master" :framing="lane.framing" :height="height" />
      <span v-else class="sign" aria-hidden="true">{{ copied ? '=' : '♪' }}</span>
    </div>
    <div role="cell" class="who">
      <p class="line">
        <span v-if="lane.beside" class="name">{{ larger ? `go up to ${frameOf}` : 'as it is' }} <span class="quiet tiny">{{ grouped ? '' : lane.sheet_name }}</span></span>
        <RouterLink v-else :to="bench" class="name cut" :title="`${lane.sheet_name} ${lane.placement_name}${sibling ? `, ${title}` : ''}: to its bench`">{{ title }}</RouterLink>
        <StampMark v-if="stamps.length" :outcome="stamps[0].outcome" :text="stamps[0].matter" :title="stamps.map((stamp) => stamp.sentence).join(' ')" />
        <span v-if="stamps.length > 1" class="tiny quiet" :title="stamps.slice(1).map((stamp) => stamp.sentence).join(' ')">+{{ stamps.length - 1 }}</span>
      </p>
      <p class="tiny quiet cut" :title="brings ? `Going up to ${frameOf} ${brings.sentence}` : apartWords">
        <b v-if="base">the others are compared with this</b>
        <template v-else-if="view.served_by">in the file of {{ view.served_by }}</template>
        <template v-else-if="apart">{{ apart }}</template>
        <template v-else-if="brings">{{ brings.words }}</template>
        <template v-else>{{ lane.beside ? `the master, ${lane.method}` : copied ? `the master, ${lane.method}` : `${lane.kind}, ${lane.shape}` }}</template>
        <RouterLink v-if="packed" class="packed" :to="{ name: 'receipts', hash: `#${view.packed!.job_id}` }">{{ packed }}</RouterLink>
      </p>
    </div>
    <div role="cell" class="mono spare">
      <p class="cut">{{ lane.packed_phrase }}</p>
      <p v-if="lane.target_bps" class="quiet cut" :title="lane.guidance_high_bps ? `${lane.sheet_name} asks for ${mbps(lane.guidance_low_bps ?? 0)} to ${mbps(lane.guidance_high_bps)}` : undefined">{{ mbps(lane.target_bps) }}<span class="words">, <button v-if="enough" type="button" class="link" :title="enough.sentence" @click="emit('act', 'enough')">{{ enough.button.toLowerCase().replace('mbit/s', '').trim() }}</button><template v-else>{{ lane.guidance_words }}</template></span></p>
      <p v-else-if="lane.sound_bps" class="quiet">{{ Math.round(lane.sound_bps / 1000) }} kbit/s</p>
    </div>
    <div role="cell" class="mono carried spare">
      <p>{{ bytes(lane.figures.size.expected_bytes) }}</p>
      <p class="quiet">{{ seconds(lane.figures.carriage.upload_s) }} upload</p>
    </div>
    <div role="cell" class="lost">
      <ConditionGauge v-if="seen?.at" :at="seen.at" :doing="doing" :share="working?.progress?.share" />
      <p v-else-if="!lane.target_bps" class="quiet tiny">no picture to compare</p>
      <template v-else>
        <div class="unknown"><span :style="{ width: `${(working?.progress?.share ?? 0) * 100}%` }" /></div>
        <p class="quiet tiny cut">{{ doing || 'not known before a few moments are tried' }}</p>
      </template>
    </div>
    <div role="cell" class="arrived">
      <template v-if="seen?.at">
        <p class="figure" :class="{ supposed: !measured }">{{ seen.at.condition.toFixed(0) }}</p>
        <EvidenceMark :evidence="seen.at.evidence" :band="seen.at.band" :assumed="seen.at.assumed" />
      </template>
    </div>
    <div role="cell"><LaneMenu :view="view" :seen="seen" :base="base" :last="last" :pairs="pairs" :busy="!!(rehearsing || probing)" @act="emit('act', $event)" /></div>
  </div>
</template>

<style scoped>
.lane {
  height: 43px;
  align-items: center;
  border-bottom: 1px dashed var(--line);
}

.lane > * {
  min-width: 0;
}

.base {
  background: var(--sheet);
  outline: 1.5px solid var(--ink);
}

.thumb {
  display: flex;
  justify-content: flex-end;
}

.sign {
  font: 600 20px/1 var(--slab);
  color: var(--second-ink);
}

.indented .who {
  padding-left: 18px;
}

.line {
  display: flex;
  align-items: baseline;
  gap: 8px;
  min-width: 0;
}

.name {
  font: 600 15px/1.3 var(--slab);
  text-decoration-color: var(--twine);
  text-underline-offset: 3px;
}

a.name {
  flex: 0 1 auto;
  min-width: 40px;
}

.indented .name {
  font-weight: 500;
}

.line :deep(.stamp) {
  flex: 0 6 auto;
  min-width: 76px;
  font-size: 12px;
  line-height: 16px;
}

.packed {
  margin-left: 8px;
}

.mono p {
  line-height: 1.35;
}

@media (max-width: 1199px) {
  .thumb {
    display: none;
  }

  .mono p {
    font-size: 12px;
    letter-spacing: -0.02em;
  }
}

.words {
  font: 12.5px var(--read);
}

.carried {
  white-space: nowrap;
}

.arrived {
  text-align: right;
  line-height: 1.1;
}

.arrived :deep(.mark) {
  letter-spacing: -0.06em;
}

.figure {
  font: 600 20px/1 var(--slab);
}

.supposed {
  color: var(--second-ink);
}

.unknown {
  height: 12px;
  border: 1px dashed var(--second-ink);
}

.unknown span {
  display: block;
  height: 100%;
  background: var(--line);
}
</style>
