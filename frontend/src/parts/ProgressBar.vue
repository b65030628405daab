<script setup lang="ts">
/** How far a job is, 0 to 1; what rests is hatched. */
defineProps<{ share: number; label: string; resting?: boolean; thin?: boolean }>()
</script>

<template>
  <div class="bar" :class="{ thin }" role="progressbar" :aria-valuenow="Math.round(share * 100)" aria-valuemin="0" aria-valuemax="100" :aria-label="label">
    <span :style="{ width: `${share * 100}%` }" :class="{ resting }" />
  </div>
</template>

<style scoped>
.bar {
  height: 10px;
  border: 1px solid var(--second-ink);
  background: var(--sheet);
}

.bar.thin {
  height: 3px;
  border: 0;
  background: var(--line);
}

.bar.thin span {
  background: var(--ink);
}

.bar span {
  display: block;
  height: 100%;
  background: var(--airmail);
}

.bar .resting {
  background: repeating-linear-gradient(90deg, var(--second-ink) 0 4px, transparent 4px 8px);
}
</style>
