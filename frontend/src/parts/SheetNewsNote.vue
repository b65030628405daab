<script setup lang="ts">
import { ElButton } from 'element-plus'

import type { ParcelView } from '../data/api'

/** A newer version of the sheet than the parcel was planned with, and what it would change. */
defineProps<{ news: NonNullable<ParcelView['news']>; name: string }>()
const emit = defineEmits<{ take: [] }>()
</script>

<template>
  <div class="news" role="status">
    <p>
      <b>{{ name }}’s rule sheet has a version {{ news.newest }}</b>; this parcel was planned with version {{ news.planned_with }}.
      <template v-if="news.problem">With the newer one: {{ news.problem }}</template>
      <template v-else-if="!news.changes.length">Nothing of this plan would change.</template>
      <template v-else>It would change: <span v-for="row in news.changes" :key="row.setting" class="change">{{ row.setting }} {{ row.before }} → {{ row.after }}</span></template>
    </p>
    <ElButton size="small" @click="emit('take')">Plan with version {{ news.newest }}</ElButton>
  </div>
</template>

<style scoped>
.news {
  display: flex;
  gap: 14px;
  align-items: center;
  justify-content: space-between;
  padding: 6px 12px;
  background: var(--care-ground);
  border: 1px solid var(--care);
  border-radius: var(--corner);
}

.change + .change::before {
  content: '; ';
}
</style>
