<script setup lang="ts">
import { ElButton, ElCheckbox } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import type { LaneSeen, LaneView, Master } from '../../data/api'
import { useEvents } from '../../data/events'
import { secondsUntil } from '../../data/useDispatch'
import { bytes, mbps, seconds } from '../../data/words'
import ConditionGauge from '../../parts/ConditionGauge.vue'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import FramedPicture from '../../parts/FramedPicture.vue'
import LikelyRange from '../../parts/LikelyRange.vue'
import RateField from '../../parts/RateField.vue'
import StampMark from '../../parts/StampMark.vue'
import LaneMenu from './LaneMenu.vue'

/**
 * One lane in two lines of one height. One `beside` another is the same destination with the master as it is; a sibling stands under
 * its first, named by what differs. `base` is the lane that all others are compared with.
 */
const props = defineProps<{ master: Master; view: LaneView; seen?: LaneSeen; chosen: boolean; base: boolean; grouped: boolean; last: boolean; pairs: boolean; known: string[] }>()
const emit = defineEmits<{ choose: [on: boolean]; act: [name: string]; rate: [text: string] }>()
const events = useEvents()
const lane = computed(() => props.view.lane)
const copied = computed(() => lane.value.method !== 'encoded')
const sibling = computed(() => !!lane.value.parcel.sibling_of)
const height = computed(() => (lane.value.framing ? Math.min(34, (60 * lane.value.framing.height) / lane.value.framing.width) : 0))
const rehearsing = computed(() => events.live(props.view.rehearsing))
const probing = computed(() => events.live(props.view.probing))
const packing = computed(() => events.live(props.view.packing))
const working = computed(() => packing.value ?? rehearsing.value ?? (props.seen?.at ? undefined : probing.value))
const doing = computed(() => {
  const job = working.value
  if (!job) return ''
  if (job === probing.value) {
    const left = secondsUntil(job, events.open)
    if (left != null) return `first figure in about ${left < 90 ? `${Math.max(1, Math.round(left))} s` : `${Math.round(left / 60)} min`}`
  }
  if (job.state === 'waiting') return packing.value ? 'waiting to be packed' : rehearsing.value ? 'waiting to be rehearsed' : 'next in line'
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
/** Why it is so, what it risks, or what its own choice costs against what is recommended. */
const why = computed(() => {
  const told = advice.value
  if (told) return told.taken ? [told.because, told.risk].filter(Boolean).join(' ') : `Recommended ${told.option}: ${told.against}.`
  if (lane.value.beside || !lane.value.target_bps || copied.value) return lane.value.beside ? '' : lane.value.guidance_words
  const words = lane.value.guidance_words
  return sibling.value ? words : `${words.charAt(0).toUpperCase()}${words.slice(1)}, until your video is tested`
})
const larger = computed(() => lane.value.beside === 'larger')
const frameOf = computed(() => `${lane.value.framing?.width}×${lane.value.framing?.height}`)
/** What a larger frame beside a lane brings to a viewer of this line. */
const brings = computed(() => (larger.value ? (props.view.brings?.find((one) => one.line === props.seen?.line) ?? { words: 'not tested yet', sentence: 'was not tested yet' }) : undefined))
/** What we would send there; of other ways of a lane, and before anything was tested, nothing is recommended. */
const advice = computed(() => lane.value.recommended ?? undefined)
const ownChoice = computed(() => lane.value.parcel.choices.video_bitrate_bps != null || lane.value.parcel.choices.method != null || lane.value.parcel.choices.codec != null)
const typable = computed(() => !copied.value && !lane.value.beside && !!lane.value.target_bps && !props.view.served_by)
const what = computed(() => (copied.value ? 'Original file' : lane.value.target_bps ? mbps(lane.value.target_bps) : ''))
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
      </p>
      <p class="tiny quiet line" :title="brings ? `Going up to ${frameOf} ${brings.sentence}` : apartWords">
        <span class="cut">
          <b v-if="base">the others are compared with this</b>
          <template v-else-if="view.served_by">in the file of {{ view.served_by }}</template>
          <template v-else-if="apart">{{ apart }}</template>
          <template v-else-if="brings">{{ brings.words }}</template>
          <template v-else>{{ lane.beside ? `the master, ${lane.method}` : copied ? `the master, ${lane.method}` : lane.shape }}</template>
        </span>
        <StampMark v-if="stamps.length" :outcome="stamps[0].outcome" :text="stamps[0].matter" :explanation="stamps.map((stamp) => stamp.sentence).join(' ')" />
        <span v-if="stamps.length > 1" :title="stamps.slice(1).map((stamp) => stamp.sentence).join(' ')">+{{ stamps.length - 1 }}</span>
        <RouterLink v-if="packed" class="packed cut" :to="{ name: 'receipts', hash: `#${view.packed!.job_id}` }">{{ packed }}</RouterLink>
      </p>
    </div>
    <div role="cell" class="spare">
      <p class="line">
        <span v-if="advice?.taken" class="tag good">Recommended</span>
        <span v-else-if="advice && ownChoice" class="tag">Yours</span>
        <RateField v-if="typable" :bps="lane.target_bps!" :name="title" @set="emit('rate', $event)" />
        <b v-else-if="what" class="what">{{ what }}</b>
        <span class="mono cut">{{ copied && lane.target_bps ? mbps(lane.target_bps) : lane.packed_phrase }}<template v-if="!lane.target_bps && lane.sound_bps">, {{ Math.round(lane.sound_bps / 1000) }} kbit/s</template></span>
      </p>
      <p class="tiny quiet line" :title="advice && !advice.taken ? `${why} ${advice.because} ${advice.risk}` : why">
        <span class="cut">{{ why }}</span>
        <ElButton v-if="advice && !advice.taken" link size="small" class="use" @click="emit('act', 'recommended')">Use it</ElButton>
      </p>
    </div>
    <div role="cell" class="mono carried spare">
      <p>{{ bytes(lane.figures.size.expected_bytes) }}</p>
      <p class="quiet">{{ seconds(lane.figures.carriage.upload_s) }}</p>
    </div>
    <div role="cell" class="lost">
      <ConditionGauge v-if="seen?.at" :at="seen.at" :doing="doing" :share="working?.progress?.share" />
      <p v-else-if="!lane.target_bps" class="quiet tiny">no picture to compare</p>
      <LikelyRange v-else :likely="seen?.likely" :doing="doing" :share="working?.progress?.share" />
    </div>
    <div role="cell" class="arrived">
      <template v-if="seen?.at">
        <p class="figure">{{ seen.at.condition.toFixed(0) }}</p>
        <EvidenceMark :evidence="seen.at.evidence" :band="seen.at.band" :assumed="seen.at.assumed" />
      </template>
      <p v-else-if="lane.target_bps" class="figure quiet" title="Not tested yet">–</p>
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

.tag {
  flex: none;
  padding: 0 6px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  font: 600 12px/16px var(--slab);
  color: var(--second-ink);
}

.tag.good {
  color: var(--cleared);
  border-color: var(--cleared);
}

.what {
  flex: none;
  white-space: nowrap;
}

.use {
  flex: none;
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
  flex: 0 2 auto;
  min-width: 76px;
  font-size: 12px;
  line-height: 15px;
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

.figure.quiet {
  color: var(--second-ink);
}
</style>
