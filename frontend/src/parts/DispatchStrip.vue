<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type Job } from '../data/api'
import { useEvents } from '../data/events'
import { bytes, seconds } from '../data/words'

const events = useEvents()
const running = computed(() => events.open.filter((job) => job.state === 'running'))
const waiting = computed(() => events.open.length - running.value.length)
const testing = computed(() => events.open.some((job) => job.kind === 'probe'))
const stop = () => void api.stopTests().catch(() => undefined)
/** A test tells when its figure comes, all other work how much of it is left. */
const left = (job: Job) => (job.progress?.left_s == null ? '' : job.kind === 'probe' ? `figure in ${seconds(job.progress.left_s)}` : `${seconds(job.progress.left_s)} left`)
</script>

<template>
  <aside v-if="events.open.length" class="strip" aria-label="Dispatch">
    <div v-for="job in running" :key="job.id" class="job">
      <span class="cut title">{{ job.title }}</span>
      <span class="bar"><span class="done" :style="{ width: `${(job.progress?.share ?? 0) * 100}%` }" /></span>
      <span class="mono">{{ Math.floor((job.progress?.share ?? 0) * 100) }} %</span>
      <span v-if="job.paused" class="quiet">rests</span>
      <span v-else-if="left(job)" class="mono">{{ left(job) }}</span>
      <span v-if="job.kind === 'pack' && job.progress?.bytes && running.length === 1" class="mono">{{ bytes(job.progress.bytes) }}</span>
    </div>
    <span v-if="waiting" class="quiet">{{ waiting }} waiting</span>
    <ElButton v-if="testing" link @click="stop">Stop tests</ElButton>
    <RouterLink :to="{ name: 'dispatch' }" class="more">Dispatch</RouterLink>
  </aside>
</template>

<style scoped>
.strip {
  position: fixed;
  inset: auto 0 0;
  display: flex;
  align-items: center;
  gap: 28px;
  height: 34px;
  padding: 0 28px;
  background: var(--sheet);
  border-top: 2px solid var(--kraft);
  z-index: 5;
}

.job {
  display: flex;
  align-items: center;
  gap: 10px;
  min-width: 0;
  flex: 1;
}

.job .mono {
  white-space: nowrap;
}

.title {
  flex: 0 1 auto;
}

.bar {
  flex: 1;
  min-width: 40px;
  max-width: 200px;
  height: 8px;
  background: var(--paper);
  border: 1px solid var(--second-ink);
}

.done {
  display: block;
  height: 100%;
  background: var(--ink);
}

.link,
.more {
  flex: none;
}
</style>
