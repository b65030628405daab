<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'

import { api, type Job, type Master } from '../../data/api'
import { whither } from '../../data/useDispatch'
import { bytes, seconds } from '../../data/words'
import ProgressBar from '../../parts/ProgressBar.vue'

/** One parcel that is packed or waits for it: where it goes, the picture under way, how far it is, and what can be done about it. */
const props = defineProps<{ job: Job; master?: Master; turn: number; last: boolean }>()
const emit = defineEmits<{ move: [by: -1 | 1]; trouble: [what: string] }>()
const progress = computed(() => props.job.progress)
const running = computed(() => props.job.state === 'running')
/** The picture of the strip that lies nearest to what is being packed. */
const picture = computed(() => {
  const strip = props.master?.strip ?? []
  const length = Number(props.master?.facts?.duration_s.split('/').reduce((over, under) => String(Number(over) / Number(under))) ?? 0)
  if (!props.master || !strip.length || !length) return ''
  const at = Math.min(strip.length - 1, Math.floor(((progress.value?.at_s ?? 0) / length) * strip.length))
  return api.stripPicture(props.master, [...strip].sort((a, b) => a - b)[at])
})
const said = computed(() => {
  const { job } = props
  if (job.cancel_asked) return 'stopping'
  if (job.paused) return running.value ? 'resting; the processor is free' : 'rests until you let it go on'
  if (!running.value && job.problem) return `${job.problem.what} It is looked for again every ten seconds.`
  if (!running.value) return job.not_before && job.not_before * 1000 > Date.now() ? `begins at ${new Date(job.not_before * 1000).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}` : props.turn === 0 ? 'next' : `${['second', 'third', 'fourth', 'fifth'][props.turn - 1] ?? `${props.turn + 1}th`} in turn`
  return progress.value?.doing || 'starting'
})
const attempt = (act: Promise<unknown>) => act.catch((error: Error) => emit('trouble', error.message))
</script>

<template>
  <div class="packing" :class="{ waits: !running }">
    <img v-if="picture" :src="picture" alt="" class="picture" />
    <span v-else class="picture" />
    <div class="what">
      <p class="slab cut" :title="job.title">{{ whither(job) }}</p>
      <p class="tiny quiet cut" :title="job.file_name ?? ''">{{ job.file_name }}</p>
    </div>
    <div class="far">
      <ProgressBar v-if="running" :share="progress?.share ?? 0" :label="job.title" :resting="job.paused" />
      <p :class="{ cut: !job.problem, held: job.problem }" :title="job.problem?.todo">
        {{ said }}<template v-if="job.attempts > 0">, taken up again after an interruption</template>
        <template v-if="running && !job.paused && progress?.of_pictures"> · <span class="mono">{{ progress.pictures }} of {{ progress.of_pictures }} frames<template v-if="progress.pictures_per_s"> · {{ progress.pictures_per_s.toFixed(1) }}/s</template></span></template>
      </p>
    </div>
    <p class="mono much">
      <template v-if="running && progress?.bytes">{{ bytes(progress.bytes) }}<span v-if="progress.of_bytes" class="quiet"> of about {{ bytes(progress.of_bytes) }}</span></template>
      <br v-if="running && progress?.bytes && progress?.left_s != null" />
      <template v-if="running && !job.paused && progress?.left_s != null">{{ seconds(progress.left_s) }} left</template>
      <template v-else-if="!running && job.expected_s">about {{ seconds(job.expected_s) }}</template>
    </p>
    <div class="acts">
      <template v-if="!running">
        <ElButton size="small" :disabled="turn === 0" aria-label="Earlier" title="Earlier" @click="emit('move', -1)">↑</ElButton>
        <ElButton size="small" :disabled="last" aria-label="Later" title="Later" @click="emit('move', 1)">↓</ElButton>
      </template>
      <ElButton size="small" @click="attempt(job.paused ? api.resume(job.id) : api.pause(job.id))">{{ job.paused ? 'Go on' : 'Pause' }}</ElButton>
      <ElButton size="small" :disabled="job.cancel_asked" @click="attempt(api.cancel(job.id))">Stop</ElButton>
    </div>
  </div>
</template>

<style scoped>
.packing {
  display: grid;
  grid-template-columns: 74px minmax(180px, 1fr) minmax(230px, 1.3fr) 150px 216px;
  gap: 16px;
  align-items: center;
  min-height: 52px;
  padding: 5px 0;
  border-bottom: 1px dashed var(--line);
}

.packing > * {
  min-width: 0;
}

.held {
  font-weight: 700;
}

.picture {
  width: 74px;
  height: 42px;
  object-fit: contain;
  background: var(--line);
}

.waits .picture {
  opacity: 0.55;
}

.much {
  text-align: right;
  white-space: nowrap;
}

.acts {
  display: flex;
  justify-content: flex-end;
  gap: 6px;
}

.acts :deep(.el-button + .el-button) {
  margin-left: 0;
}

@media (max-width: 1099px) {
  .packing {
    grid-template-columns: 74px minmax(150px, 1fr) minmax(190px, 1fr) 108px 200px;
    gap: 10px;
  }

  .much .quiet {
    display: none;
  }
}
</style>
