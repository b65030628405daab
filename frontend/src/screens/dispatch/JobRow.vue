<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type Job } from '../../data/api'
import { bytes, seconds } from '../../data/words'
import ProgressBar from '../../parts/ProgressBar.vue'

const props = defineProps<{ job: Job }>()
const emit = defineEmits<{ again: [] }>()
const active = computed(() => props.job.state === 'running' || props.job.state === 'waiting')
const progress = computed(() => props.job.progress)
const kinds: Record<string, string> = { pack: 'packing', rehearse: 'rehearsal', probe: 'trying moments', benchmark: 'benchmark', check: 'checking the picture', listen: 'listening to the sound', send: 'sending', arrive: 'coming back' }
const states: Record<string, string> = {
  waiting: 'waits', running: 'under way', done: 'done', failed: 'could not be done', cancelled: 'stopped',
}
const took = computed(() => (props.job.started_at && props.job.ended_at ? seconds(props.job.ended_at - props.job.started_at) : ''))
</script>

<template>
  <div class="job" :class="job.state">
    <div class="what cut">
      <p class="slab cut">{{ job.title }}</p>
      <p class="quiet">
        {{ kinds[job.kind] ?? job.kind }} · {{ states[job.state]
        }}<template v-if="took && job.state === 'done'"> in {{ took }}</template
        ><template v-if="job.attempts > 0 && active"> · taken up again after an interruption</template>
      </p>
    </div>
    <template v-if="active">
      <div class="middle">
        <ProgressBar :share="progress?.share ?? 0" :label="job.title" />
        <p class="mono cut">
          <template v-if="progress?.of_pictures">
            {{ progress.doing }}, {{ progress.pictures }} of {{ progress.of_pictures }} frames
            <template v-if="progress.pictures_per_s"> · {{ progress.pictures_per_s.toFixed(1) }} frames/s</template>
            <template v-if="progress.bytes"> · {{ bytes(progress.bytes) }} so far</template>
          </template>
          <template v-else>{{ job.problem ? `${job.problem.what} ${job.problem.todo}` : progress?.doing || (job.state === 'waiting' ? 'waiting for its turn' : 'starting') }}<template v-if="progress?.of_bytes"> · {{ bytes(progress.bytes ?? 0) }} of {{ bytes(progress.of_bytes) }}</template></template>
          <template v-if="progress?.left_s != null"> · {{ seconds(progress.left_s) }} left</template>
        </p>
      </div>
      <ElButton size="small" :disabled="job.cancel_asked" @click="api.cancel(job.id)">{{ job.cancel_asked ? 'Stopping' : 'Stop' }}</ElButton>
    </template>
    <template v-else>
      <p v-if="job.problem" class="middle">{{ job.problem.what }} {{ job.problem.todo }}</p>
      <p v-else-if="job.kind === 'pack' && job.state === 'done'" class="middle mono cut">{{ job.file_name }}</p>
      <span v-else class="middle" />
      <RouterLink v-if="job.kind === 'pack' && job.state === 'done'" :to="{ name: 'receipts', hash: `#${job.id}` }">Receipt</RouterLink>
      <span v-else-if="job.state === 'failed' || job.state === 'cancelled'" class="row tight">
        <ElButton size="small" @click="emit('again')">Try again</ElButton>
      </span>
      <RouterLink v-else-if="job.parcel_id" :to="{ name: 'bench', params: { parcelId: job.parcel_id } }">Bench</RouterLink>
    </template>
  </div>
</template>

<style scoped>
.job {
  display: grid;
  grid-template-columns: minmax(260px, 1fr) minmax(320px, 1.3fr) 96px;
  gap: 22px;
  align-items: center;
  min-height: 58px;
  padding: 8px 0;
  border-bottom: 1px dashed var(--line);
}

.job > :last-child {
  justify-self: end;
}

.middle {
  min-width: 0;
}

.failed .middle {
  font-weight: 700;
}
</style>
