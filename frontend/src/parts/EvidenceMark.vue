<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ evidence: string; band?: number; assumed?: string | null }>()
const marks: Record<string, [string, string]> = {
  sheet: ['○', 'from the rule sheet and priors only'],
  benchmark: ['◔', 'from this machine’s benchmark'],
  'earlier jobs': ['◔', 'from earlier jobs on this machine'],
  probed: ['◐', 'modelled on test encodes of this film'],
  rehearsed: ['●', 'measured: packed and re-encoded on moments of this film'],
  returned: ['◆', 'measured on the file that a platform served back'],
}
const mark = computed(() => marks[props.evidence] ?? ['○', ''])
</script>

<template>
  <span class="mark mono" :title="assumed ? `${mark[1]}; how the platform re-encodes is assumed, ${assumed}` : mark[1]">
    {{ mark[0] }} {{ assumed ? 'assumed' : evidence }}<template v-if="band !== undefined"> ±{{ Number(band.toFixed(1)) }}</template>
  </span>
</template>

<style scoped>
.mark {
  color: var(--second-ink);
  font-size: var(--tiny);
  font-weight: 400;
  white-space: nowrap;
}
</style>
