<script setup lang="ts">
import { ElDialog } from 'element-plus'
import { computed } from 'vue'

import type { ParcelSummary, RateMark, Seen } from '../../data/api'
import { mbps } from '../../data/words'

/** Why more bits stop arriving, with the creator's own curve as the example. */
const props = defineProps<{ summary: ParcelSummary; seen: Seen }>()
const open = defineModel<boolean>({ required: true })

const name = computed(() => props.summary.destination.sheet_name)
const at = computed(() => props.seen.at)
const curve = computed(() => props.seen.curve)
const whole = (value: number) => value.toFixed(0)
const lowest = computed(() => curve.value.line[0])
const highest = computed(() => curve.value.line.at(-1))
const words = (mark: RateMark) => `from ${mark.low_bps ? mbps(mark.low_bps) : 'less than is shown'}${mark.high_bps === mark.low_bps ? '' : ` or at the latest ${mark.high_bps ? mbps(mark.high_bps) : 'more than is shown'}`} on`
const reEncodes = computed(() => (props.summary.destination.placement.handling.tiers?.length ?? 0) > 0)
</script>

<template>
  <ElDialog v-model="open" title="Why more bits stop arriving" width="680" align-center>
    <template v-if="!reEncodes">
      <p>{{ name }} passes your file on as it is. Nothing is packed twice, so every bit arrives; what more of them bring is only what your own packing loses less.</p>
    </template>
    <template v-else>
      <p>{{ name }} unpacks what you send and packs it again, its own way. What a viewer sees has been through both, and each loses something.</p>
      <ol>
        <li v-if="at">
          <b>Your packing</b> loses {{ at.lost_packing >= 0.5 ? `${whole(at.lost_packing)} points` : 'next to nothing' }} at {{ mbps(summary.plan.video?.target_bps.value ?? 0) }}. The more bits, the less.
        </li>
        <li v-if="curve.perfect != null">
          <b>{{ name }}’s packing</b> takes its own share, whatever you send: even a perfect upload arrives at {{ whole(curve.perfect) }} here<template v-if="at?.rendition">, as {{ at.rendition }}</template>.
        </li>
        <li>
          <b>The two losses do not add up.</b> Both throw away the finest detail first. As long as you lose clearly less than {{ name }} does, your loss disappears inside its own.
        </li>
      </ol>
      <p v-if="lowest && highest && curve.evidence !== 'sheet'">
        On your film: {{ mbps(lowest[0]) }} arrives at {{ whole(lowest[1]) }}, {{ mbps(highest[0]) }} at {{ whole(highest[1]) }}.
        <template v-if="curve.noticeable_step">It lies within a noticeable step of a perfect upload {{ words(curve.noticeable_step) }}<template v-if="curve.cannot_be_told">, and can’t be told from one {{ words(curve.cannot_be_told) }}</template>. Beyond that the file grows and nothing that anybody sees changes.</template>
      </p>
      <p class="quiet">A platform may keep your upload and make better renditions later; that is what the reserve is for, which a safe recommendation keeps.</p>
    </template>
    <p v-if="curve.evidence === 'sheet'" class="quiet">Nothing of this lane was tested yet: the shaded range is all that {{ name }}’s rules and the checks of your video can say. Test clips of your own video turn it into a line.</p>
    <p v-else class="quiet">Sample clips that stand for your film were encoded at three qualities, and a poor and a perfect copy sent through a stand-in of {{ name }}. The rest is computed; the shaded band says how far it may be off. Rehearsing a rate measures it with exactly your settings.</p>
  </ElDialog>
</template>

<style scoped>
p,
ol {
  margin: 0 0 10px;
}

ol {
  padding-left: 20px;
}

li {
  margin-bottom: 6px;
}
</style>
