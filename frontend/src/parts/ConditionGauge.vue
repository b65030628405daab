<script setup lang="ts">
import { computed } from 'vue'

import type { Seen } from '../data/api'
import ProgressBar from './ProgressBar.vue'

/** Condition is length: what arrives is solid; each loss has its own hatch, in the order in which it was lost. Work under way stands in place of words. */
const props = defineProps<{ at: NonNullable<Seen['at']>; doing?: string; share?: number; brief?: boolean }>()

const losses = computed(() =>
  [
    { name: 'scaling', points: props.at.lost_scaling, hatch: 'url(#hatch-scaling)' },
    { name: 'packing', points: props.at.lost_packing, hatch: 'url(#hatch-packing)' },
    { name: 'platform', points: props.at.lost_platform, hatch: 'url(#hatch-platform)' },
  ].filter((loss) => loss.points >= 0.5),
)
/** Drawn from the arriving end: the platform's loss stands next to what is left. */
const parts = computed(() => {
  let from = props.at.condition
  return [...losses.value].reverse().map((loss) => {
    const part = { ...loss, from, width: loss.points }
    from += loss.points
    return part
  })
})
/** Whose packing took most of what is missing, in words for one line. */
const whose = computed(() => {
  const total = props.at.lost_scaling + props.at.lost_packing + props.at.lost_platform
  if (total < 3) return ''
  return props.at.lost_platform > total / 2 ? 'most of it theirs' : props.at.lost_packing > total / 2 ? 'most of it ours' : ''
})
const lost = computed(() => losses.value.map((loss) => `${loss.name} −${loss.points.toFixed(0)}`).join(' · ') || 'nothing lost')
</script>

<template>
  <div class="gauge">
    <svg :class="{ brief }" viewBox="0 0 100 5" preserveAspectRatio="none" role="img" :aria-label="`Condition ${at.condition.toFixed(0)} of 100; ${lost}`">
      <rect class="left" x="0" y="0" :width="at.condition" height="5" />
      <rect v-for="part in parts" :key="part.name" :x="part.from" y="0" :width="part.width" height="5" :fill="part.hatch" />
    </svg>
    <div v-if="!brief" class="words tiny">
      <span v-if="doing" class="cut quiet">{{ doing }}</span>
      <span v-else class="cut" :title="lost">{{ at.words }}<span v-if="whose" class="quiet"> · {{ whose }}</span></span>
    </div>
    <ProgressBar v-if="doing && share !== undefined" thin :share="share" :label="doing" />
  </div>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 15px;
}

svg.brief {
  height: 10px;
  margin: 2px 0;
}

.left {
  fill: var(--airmail);
  transition: width 150ms;
}

.words {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  margin-top: 3px;
  white-space: nowrap;
}
</style>
