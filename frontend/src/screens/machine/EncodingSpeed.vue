<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'

import { api, Trouble } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'

/** How fast this machine encodes: measured when asked to, so that times are known before anything was packed. */
const events = useEvents()
const { value: found, set } = useAnswer((signal) => api.benchmark(signal), [], [events.of('settings', 'queue')])
const job = computed(() => events.live(found.value?.job))
const refused = ref('')
const when = computed(() => found.value?.measured_at && new Date(found.value.measured_at * 1000).toLocaleDateString(undefined, { dateStyle: 'long' }))
const most = computed(() => Math.max(...(found.value?.speeds ?? []).map((one) => one.pictures_per_s)))

async function measure(): Promise<void> {
  refused.value = ''
  try {
    set(await api.measureMachine())
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be measured.'
  }
}
</script>

<template>
  <section v-if="found" class="sheet speeds" aria-labelledby="speeds-title">
    <h2 id="speeds-title">How fast it encodes</h2>
    <dl v-if="found.speeds.length">
      <template v-for="one in found.speeds" :key="one.codec">
        <dt>{{ one.name }}</dt>
        <dd>
          <span class="mono">{{ one.pictures_per_s.toFixed(1) }} frames/s</span>
          <span class="track"><span class="length" :style="{ width: `${(100 * one.pictures_per_s) / most}%` }" /></span>
        </dd>
      </template>
    </dl>
    <p v-if="found.speeds.length" class="quiet">Measured {{ when }} on 1920×1080, in one pass at effort medium. Encode times of what was never packed here follow from it.</p>
    <p v-else>Not measured yet. A benchmark of about half a minute tells how long encoding takes before anything was packed here.</p>
    <div class="row">
      <ElButton v-if="!job" size="small" @click="measure">{{ found.speeds.length ? 'Measure again' : 'Measure' }}</ElButton>
      <ElButton v-else size="small" :disabled="job.cancel_asked" @click="api.cancel(job.id)">Stop</ElButton>
      <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
      <p v-else-if="job" class="quiet" role="status">{{ job.state === 'waiting' ? 'waits until nothing else is under way' : job.progress?.doing || 'beginning' }}</p>
    </div>
  </section>
</template>

<style scoped>
.speeds {
  flex: 1 1 300px;
  max-width: 420px;
  padding: 20px 24px;
}

h2 {
  margin-bottom: 10px;
  font: 600 var(--lead) var(--slab);
}

dl {
  display: grid;
  grid-template-columns: 64px 1fr;
  gap: 10px 12px;
  margin: 0 0 12px;
}

dd {
  margin: 0;
}

.track {
  display: block;
  height: 6px;
  background: var(--line);
}

.length {
  display: block;
  height: 100%;
  background: var(--airmail);
}

.row {
  margin-top: 12px;
}

.refused {
  font-weight: 700;
}
</style>
