<script setup lang="ts">
import { computed } from 'vue'

import type { Figures, ParcelSummary, Seen } from '../../data/api'
import { bytes, percent, seconds } from '../../data/words'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import RateField from '../../parts/RateField.vue'

const props = defineProps<{ summary: ParcelSummary; seen: Seen; figures: Figures; bitrate: number; unkept: boolean }>()
const emit = defineEmits<{ rate: [text: string] }>()
const cost = computed(() => {
  const { price, currency, allowance_share: share } = props.figures.carriage
  if (share != null) return { value: percent(share), label: "of this month's data" }
  if (price != null) return { value: `${currency} ${price.toFixed(2)}`.trim(), label: 'to send' }
  return undefined
})
</script>

<template>
  <div class="figures">
    <div v-if="summary.plan.video">
      <p class="figure">
        {{ seen.at ? seen.at.condition.toFixed(0) : '–' }}
        <EvidenceMark v-if="seen.at" :evidence="seen.at.evidence" :band="seen.at.band" :assumed="seen.at.assumed" />
      </p>
      <p class="quiet">{{ seen.at ? `arrives, ${seen.at.words}` : seen.likely ? `not tested yet, ${seen.likely[0]} to ${seen.likely[1]}` : 'not tested yet' }}</p>
    </div>
    <div v-if="summary.lowest_bps != null">
      <p class="figure"><RateField :bps="bitrate" :name="summary.destination.sheet_name" :disabled="unkept" @set="emit('rate', $event)" /></p>
      <p class="quiet">{{ summary.guidance_words }}</p>
    </div>
    <div>
      <p class="figure">{{ bytes(figures.size.expected_bytes) }}</p>
      <p class="quiet">worst case {{ bytes(figures.size.worst_bytes) }}</p>
    </div>
    <div>
      <p class="figure">
        {{ seconds(figures.encode.seconds) }} <EvidenceMark :evidence="figures.encode.evidence" />
      </p>
      <p class="quiet">to encode here, ±{{ Math.round(figures.encode.band * 100) }} %</p>
    </div>
    <div>
      <p class="figure">{{ seconds(figures.carriage.upload_s) }}</p>
      <p class="quiet">to upload; at bad times {{ seconds(figures.carriage.upload_slow_s) }}</p>
    </div>
    <div v-if="cost">
      <p class="figure">{{ cost.value }}</p>
      <p class="quiet">{{ cost.label }}</p>
    </div>
  </div>
</template>

<style scoped>
.figures {
  display: flex;
  gap: 10px;
}

.figures > div {
  flex: 1;
  padding-left: 12px;
  border-left: 3px solid var(--line);
  min-width: 0;
}

.figure {
  font: 600 var(--head) / 1.25 var(--slab);
  white-space: nowrap;
}

.quiet {
  font-size: 13px;
  line-height: 1.3;
}
</style>
