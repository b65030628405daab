<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, Trouble, type Choices, type Master, type ParcelView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useViewer } from '../../data/viewer'
import { bytes, mbps, seconds } from '../../data/words'
import ConditionGauge from '../../parts/ConditionGauge.vue'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import FramedPicture from '../../parts/FramedPicture.vue'
import StampMark from '../../parts/StampMark.vue'

/**
 * `roomy` lanes, when there are few, show a larger picture and what a friend would say. One `beside` another is the same destination
 * with the master as it is; a sibling says how it differs from the parcel that it was made from.
 */
const props = defineProps<{ master: Master; view: ParcelView; roomy: boolean; last: boolean }>()
const emit = defineEmits<{ sendAsItIs: []; removed: [] }>()
const router = useRouter()
const second = computed(() => props.view.beside)
const viewer = useViewer()
const events = useEvents()
const summary = computed(() => props.view.summary)
const sibling = computed(() => !!summary.value.parcel.sibling_of)
const seen = computed(() => viewer.seen(summary.value))
const video = computed(() => summary.value.plan.video)
const framing = computed(() => video.value?.framing.value)
const copied = computed(() => summary.value.plan.method.value !== 'encoded')
const shape = computed(() => {
  if (!framing.value) return 'sound'
  const { width, height } = framing.value
  return height > width ? 'upright' : height === width ? 'square' : 'wide'
})
const rehearsing = computed(() => events.live(props.view.rehearsing))
const probing = computed(() => events.live(props.view.probing))
const packing = computed(() => events.live(props.view.packing))
/** More than supposed from the sheet and the checks. */
const measured = computed(() => !!seen.value.at && seen.value.at.evidence !== 'sheet')
const doing = computed(() => {
  const job = rehearsing.value ?? probing.value
  if (job?.state === 'waiting') return rehearsing.value ? 'waiting to be rehearsed' : 'a few moments will be tried'
  return job?.progress?.doing || 'starting'
})
/** In dense lanes one stamp stands for itself and names the others when pointed at. */
const stamps = computed(() => summary.value.stamps.slice(0, props.roomy ? 2 : 1))
const further = computed(() => summary.value.stamps.slice(stamps.value.length))
const bench = computed(() => ({ name: 'bench', params: { parcelId: summary.value.parcel.id } }))

const refused = ref('')
async function attempt(act: () => Promise<unknown>, otherwise: string): Promise<void> {
  refused.value = ''
  try {
    await act()
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : otherwise
  }
}
const id = computed(() => summary.value.parcel.id)
const rehearse = () => attempt(() => api.rehearse(id.value), 'The rehearsal could not be started.')
const anotherWay = () => attempt(async () => {
  const made = await api.tryAnotherWay(id.value)
  await router.push({ name: 'bench', params: { parcelId: made.summary.parcel.id } })
}, 'No other way could be made.')
const enough = computed(() => (second.value ? undefined : seen.value.suggestions?.find((one) => one.code === 'enough')))
const take = (part: Partial<Choices>) => attempt(() => api.change(id.value, part), 'This could not be changed.')
const remove = () => attempt(async () => (await api.removeParcel(id.value), emit('removed')), 'This lane could not be removed.')
</script>

<template>
  <div class="lane lane-grid" :class="{ roomy, second, sibling }" role="row">
    <div role="cell" class="who">
      <FramedPicture v-if="framing && !copied" :master="master" :framing="framing" :height="roomy ? (shape === 'wide' ? 96 : 150) : 54" />
      <span v-else class="beside" aria-hidden="true">{{ copied ? '=' : '♪' }}</span>
      <div class="names">
        <p v-if="second" class="name">as it is <span class="quiet tiny">the master, {{ summary.plan.method.value }}</span></p>
        <RouterLink v-else-if="sibling" :to="bench" class="name">{{ summary.parcel.name || summary.difference || 'the same, to change' }}</RouterLink>
        <RouterLink v-else :to="bench" class="name"
          ><span class="slab">{{ summary.destination.sheet_name }}</span> · {{ summary.destination.placement.name }}</RouterLink
        >
        <p v-if="!second" class="row kind">
          <span class="quiet tiny cut">{{ copied ? `the master, ${summary.plan.method.value}` : sibling ? `to ${summary.destination.sheet_name}, ${shape}` : `${summary.destination.kind}, ${shape}` }}</span>
          <button type="button" class="link" title="A parcel beside this one, for the same destination, to choose otherwise" @click="anotherWay">Try another way</button>
          <button v-if="!last" type="button" class="link remove" :title="sibling ? 'Take this parcel away' : 'Put this lane away; its choices stay'" @click="remove">Remove</button>
        </p>
        <p class="stamps">
          <StampMark v-for="stamp in stamps" :key="stamp.code" :outcome="stamp.outcome" :text="stamp.matter" :title="stamp.sentence" />
          <span v-if="further.length" class="tiny quiet cut" :title="further.map((stamp) => stamp.sentence).join(' ')">{{ further.map((stamp) => stamp.matter).join(', ') }}</span>
        </p>
      </div>
    </div>
    <div role="cell" class="mono">
      <p v-if="!second">{{ summary.packed_phrase }}</p>
      <p v-if="video" class="quiet" :title="`${summary.destination.sheet_name} asks for ${mbps(summary.plan.guidance?.low_bps ?? 0)} to ${mbps(summary.plan.guidance?.high_bps ?? 0)}`">{{ mbps(video.target_bps.value) }}<span v-if="summary.guidance_words" class="words">, {{ summary.guidance_words }}</span></p>
      <p v-else-if="summary.plan.audio?.bitrate_bps.value" class="quiet">{{ Math.round(summary.plan.audio.bitrate_bps.value / 1000) }} kbit/s</p>
      <p v-if="enough && !packing" class="tiny"><button type="button" class="link" :title="enough.sentence" @click="take(enough.part)">{{ enough.button }}</button></p>
      <p v-if="packing" class="tiny">packing, {{ Math.floor((packing.progress?.share ?? 0) * 100) }} %</p>
    </div>
    <div role="cell" class="mono">
      <p>{{ bytes(summary.figures.size.expected_bytes) }}</p>
      <p v-if="!second" class="quiet">{{ seconds(summary.figures.carriage.upload_s) }} upload</p>
    </div>
    <div role="cell">
      <ConditionGauge v-if="seen.at" :at="seen.at" />
      <p v-if="seen.at && roomy" class="said">{{ seen.sentence }}</p>
      <p v-if="!seen.at && !video" class="quiet tiny">{{ summary.slip.find((row) => row.setting === 'Level')?.value }}; {{ summary.slip.find((row) => row.setting === 'Level')?.because }}</p>
      <template v-else-if="!measured && (rehearsing || probing)">
        <p class="cut" :class="{ tiny: seen.at }">{{ doing }}</p>
        <div class="progress"><span :style="{ width: `${((rehearsing ?? probing)?.progress?.share ?? 0) * 100}%` }" /></div>
      </template>
      <template v-else-if="!seen.at">
        <div class="unknown" />
        <p v-if="!refused" class="quiet tiny">{{ second ? 'known once the lane above is tried' : 'not known before a few moments are tried' }}</p>
      </template>
      <p v-if="refused" role="alert" class="tiny">{{ refused }}</p>
    </div>
    <div role="cell" class="arrived">
      <template v-if="seen.at">
        <p class="figure" :class="{ supposed: !measured }">{{ seen.at.condition.toFixed(0) }}</p>
        <EvidenceMark :evidence="seen.at.evidence" :band="seen.at.band" :assumed="seen.at.assumed" />
      </template>
      <template v-if="!measured">
        <ElButton v-if="second" size="small" @click="emit('sendAsItIs')">Send this way</ElButton>
        <RouterLink v-else-if="!video" :to="bench">its slip</RouterLink>
        <ElButton v-else-if="probing && !rehearsing" size="small" @click="api.cancel(probing.id)">Stop</ElButton>
        <ElButton v-else-if="!rehearsing" size="small" :disabled="summary.stamps.some((s) => s.outcome === 'held')" @click="rehearse">Rehearse</ElButton>
        <ElButton v-else size="small" @click="api.cancel(rehearsing.id)">Stop</ElButton>
      </template>
    </div>
  </div>
</template>

<style scoped>
.supposed {
  color: var(--second-ink);
}

.lane {
  align-items: center;
  min-height: 70px;
  padding: 5px 0;
  border-bottom: 1px dashed var(--line);
}

.who {
  display: flex;
  align-items: center;
  gap: 14px;
  min-width: 0;
}

.name {
  font: 500 16px var(--slab);
  text-decoration-color: var(--twine);
  text-underline-offset: 3px;
}

.names {
  min-width: 0;
}

.beside {
  width: 96px;
  flex: none;
  text-align: right;
  font: 600 22px var(--slab);
  color: var(--second-ink);
}

.second {
  min-height: 34px;
  padding: 3px 0;
}

.second .names {
  display: flex;
  gap: 10px;
  align-items: baseline;
}

.second .name {
  white-space: nowrap;
}

.second .stamps {
  min-width: 0;
}

.second .stamps :deep(.stamp) {
  flex: 0 1 auto;
}

.second .unknown {
  height: 9px;
}

.sibling .who {
  padding-left: 26px;
}

.kind {
  gap: 10px;
}

.kind .link {
  flex: none;
  font: var(--tiny) var(--read);
}

.kind .remove {
  visibility: hidden;
}

.lane:hover .remove,
.lane:focus-within .remove {
  visibility: visible;
}

.words {
  font: 13px var(--read);
  white-space: nowrap;
}

.roomy {
  min-height: 172px;
}

.said {
  margin-top: 8px;
  line-height: 1.35;
}

.stamps {
  display: flex;
  gap: 5px;
  align-items: baseline;
}

.roomy .stamps {
  flex-wrap: wrap;
}

.arrived {
  text-align: right;
}

.figure {
  font: 600 var(--title) / 1.1 var(--slab);
}

.unknown {
  height: 15px;
  border: 1px dashed var(--second-ink);
}

.progress {
  height: 8px;
  margin-top: 4px;
  border: 1px solid var(--second-ink);
  background: var(--sheet);
}

.progress span {
  display: block;
  height: 100%;
  background: var(--ink);
}

.stamps :deep(.stamp) {
  flex: none;
}
</style>
