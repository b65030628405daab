<script setup lang="ts">
import { ElButton, ElPopconfirm } from 'element-plus'
import { computed } from 'vue'

import { api, type BatchView } from '../../data/api'
import { bytes, seconds } from '../../data/words'
import ProgressBar from '../../parts/ProgressBar.vue'

/** One batch: how far it is, what failed and why, and what came of it. */
const props = defineProps<{ batch: BatchView }>()
const emit = defineEmits<{ act: [act: 'pause' | 'resume' | 'stop' | 'again'] }>()
const progress = computed(() => props.batch.progress)
const open = computed(() => progress.value.left_s != null)
const counts = computed(() => {
  const {
    done = 0,
    failed = 0,
    stopped = 0,
    running = 0,
    waiting = 0,
    paused = 0,
  } = progress.value.counts as Record<string, number>
  const words: [number, string][] = [
    [done, `of ${progress.value.parcels} packed`],
    [running, 'being packed'],
    [waiting, 'waiting'],
    [paused, 'paused'],
    [stopped, 'stopped'],
    [failed, 'failed'],
  ]
  return words
    .filter(([count], at) => count || !at)
    .map(([count, what]) => `${count} ${what}`)
    .join(' · ')
})
const when = computed(() =>
  new Date(props.batch.created_at * 1000).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' }),
)
</script>

<template>
  <section class="sheet batch" :aria-label="batch.title">
    <div class="row">
      <h2>{{ batch.title }}</h2>
      <span class="quiet tiny">{{ when }}</span>
      <span class="grow" />
      <template v-if="open">
        <ElButton size="small" @click="emit('act', progress.paused ? 'resume' : 'pause')">{{
          progress.paused ? 'Resume batch' : 'Pause batch'
        }}</ElButton>
        <ElPopconfirm
          title="Stop what is not packed yet? Finished files stay."
          confirm-button-text="Stop batch"
          cancel-button-text="Go on"
          width="240"
          @confirm="emit('act', 'stop')"
        >
          <template #reference><ElButton size="small">Stop batch</ElButton></template>
        </ElPopconfirm>
      </template>
    </div>
    <ul v-if="progress.failures.length" class="failures">
      <li v-for="failure in progress.failures" :key="failure.job_id">
        <b>{{ failure.title }}</b
        >: {{ failure.what }} {{ failure.todo }}
      </li>
      <li>
        <ElButton size="small" @click="emit('act', 'again')"
          >Try {{ progress.failures.length === 1 ? 'it' : `all ${progress.failures.length}` }} again</ElButton
        >
      </li>
    </ul>
    <ProgressBar v-if="open" :share="progress.share" :label="batch.title" :resting="progress.paused" />
    <p>
      {{ counts }}<template v-if="open"> · about {{ seconds(progress.left_s ?? 0) }} of work left</template> ·
      {{ bytes(progress.bytes_done) }}<template v-if="open"> of about {{ bytes(progress.bytes_expected) }}</template>
    </p>
    <p v-if="batch.receipts.length" class="row tiny">
      <span class="quiet">Batch report:</span>
      <a :href="api.batchReport(batch.id, 'html')" target="_blank">page to print</a>
      <a :href="api.batchReport(batch.id, 'csv')">CSV</a>
      <a :href="api.batchReport(batch.id, 'json')">JSON with every receipt</a>
      <a :href="api.batchSums(batch.id)">SHA256SUMS</a>
    </p>
  </section>
</template>

<style scoped>
.batch {
  margin-top: 12px;
  padding: 10px 16px;
}

h2 {
  font-size: 17px;
}

.batch :deep([role='progressbar']) {
  margin: 8px 0 5px;
}

.failures {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}

.failures li {
  padding: 2px 0;
}
</style>
