<script setup lang="ts">
import ProgressBar from './ProgressBar.vue'

/** Where a condition will probably lie that was not tested yet: a thin dashed range, without a figure and without losses. */
defineProps<{ likely?: [number, number] | null; doing?: string; share?: number }>()
</script>

<template>
  <div>
    <svg viewBox="0 0 100 15" preserveAspectRatio="none" role="img" :aria-label="likely ? `Not tested yet, probably between ${likely[0]} and ${likely[1]} of 100` : 'Not tested yet'">
      <line v-if="likely" :x1="likely[0]" :x2="likely[1]" y1="8" y2="8" vector-effect="non-scaling-stroke" />
    </svg>
    <ProgressBar v-if="share !== undefined" thin :share="share" :label="doing || 'Test'" />
    <p class="tiny quiet cut">not tested yet<template v-if="doing"> · {{ doing }}</template></p>
  </div>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 15px;
}

line {
  stroke: var(--ink);
  stroke-width: 1.5;
  stroke-dasharray: 6 4;
}

p {
  margin-top: 3px;
}
</style>
