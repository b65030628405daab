<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import { api, Trouble, type Master, type ParcelView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useViewer } from '../../data/viewer'
import { bytes, mbps, seconds } from '../../data/words'
import ConditionGauge from '../../parts/ConditionGauge.vue'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import FramedPicture from '../../parts/FramedPicture.vue'
import StampMark from '../../parts/StampMark.vue'

/** `roomy` lanes, when there are few, show a larger picture and what a friend would say. */
const props = defineProps<{ master: Master; view: ParcelView; roomy: boolean }>()
const viewer = useViewer()
const events = useEvents()
const parcel = computed(() => props.view.parcel)
const seen = computed(() => viewer.seen(parcel.value))
const framing = computed(() => parcel.value.plan.video.framing.value)
const shape = computed(() => (framing.value.height > framing.value.width ? 'upright' : 'wide'))
const rehearsing = computed(() => events.live(props.view.rehearsing))
const packing = computed(() => events.live(props.view.packing))
const stamps = computed(() => parcel.value.plan.stamps.slice(0, 2))
const bench = computed(() => ({ name: 'bench', params: { masterId: props.master.id, destinationId: parcel.value.destination.id } }))

const refused = ref('')
async function rehearse(): Promise<void> {
  refused.value = ''
  try {
    await api.rehearse(props.master.id, parcel.value.destination.id)
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'The rehearsal could not be started.'
  }
}
</script>

<template>
  <div class="lane lane-grid" :class="{ roomy }" role="row">
    <div role="cell" class="who">
      <FramedPicture :master="master" :framing="framing" :height="roomy ? (shape === 'wide' ? 96 : 150) : 58" />
      <div class="names">
        <RouterLink :to="bench" class="name"
          ><span class="slab">{{ parcel.destination.sheet_name }}</span> · {{ parcel.destination.placement.name }}</RouterLink
        >
        <p class="quiet tiny">{{ parcel.destination.kind }}, {{ shape }}</p>
        <p class="stamps">
          <StampMark v-for="stamp in stamps" :key="stamp.code" :outcome="stamp.outcome" :text="stamp.matter" :title="stamp.sentence" />
        </p>
      </div>
    </div>
    <div role="cell" class="mono">
      <p>{{ parcel.packed_phrase }}</p>
      <p class="quiet">{{ mbps(parcel.plan.video.target_bps.value) }}</p>
      <p class="quiet">{{ parcel.times_guidance }} × guidance</p>
      <p v-if="packing" class="tiny">packing, {{ Math.floor((packing.progress?.share ?? 0) * 100) }} %</p>
    </div>
    <div role="cell" class="mono">
      <p>{{ bytes(parcel.figures.size.expected_bytes) }}</p>
      <p class="quiet">{{ seconds(parcel.figures.carriage.upload_s) }} upload</p>
    </div>
    <div role="cell">
      <template v-if="seen.at">
        <ConditionGauge :at="seen.at" />
        <p v-if="roomy" class="said">{{ seen.sentence }}</p>
      </template>
      <template v-else-if="rehearsing">
        <p class="cut">{{ rehearsing.state === 'waiting' ? 'waiting to be rehearsed' : rehearsing.progress?.doing || 'starting' }}</p>
        <div class="progress"><span :style="{ width: `${(rehearsing.progress?.share ?? 0) * 100}%` }" /></div>
      </template>
      <template v-else>
        <div class="unknown" />
        <p v-if="refused" role="alert" class="tiny">{{ refused }}</p>
        <p v-else class="quiet tiny">not known before a rehearsal</p>
      </template>
    </div>
    <div role="cell" class="arrived">
      <template v-if="seen.at">
        <p class="figure">{{ seen.at.condition.toFixed(0) }}</p>
        <EvidenceMark :evidence="seen.at.evidence" :band="seen.at.band" />
      </template>
      <ElButton v-else-if="!rehearsing" size="small" :disabled="parcel.plan.stamps.some((s) => s.outcome === 'held')" @click="rehearse">Rehearse</ElButton>
      <ElButton v-else size="small" @click="api.cancel(rehearsing.id)">Stop</ElButton>
    </div>
  </div>
</template>

<style scoped>
.lane {
  align-items: center;
  min-height: 84px;
  padding: 10px 0;
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
  white-space: normal;
}
</style>
