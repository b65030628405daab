<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'
import { computed, ref } from 'vue'

import { api } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { bytes } from '../../data/words'

/** How few files serve all lanes, whom each serves and why; shown only where some lanes can share one. */
const props = defineProps<{ masterId: string; shared: boolean }>()
const emit = defineEmits<{ take: [] }>()
const events = useEvents()
const { value: found } = useAnswer(
  (signal) => api.fewest(props.masterId, signal), [() => props.masterId],
  [events.news(({ kind, id }) => ['measurement', 'settings', 'sheets', 'content'].includes(kind) || (['lanes', 'master'].includes(kind) && id === props.masterId))],
)
const open = ref(false)
const fewer = computed(() => !!found.value && found.value.files.length < found.value.now_files)
const screens = ['phone', 'laptop', 'TV']
</script>

<template>
  <p v-if="fewer && found" class="row fewest">
    <span>{{ shared ? 'Lanes share files now. ' : '' }}{{ found.sentence }}</span>
    <button type="button" class="link" @click="open = true">{{ shared ? 'Which' : 'See how' }}</button>
    <ElDialog v-model="open" title="The fewest files" width="720" align-center append-to-body>
      <p>{{ found.sentence }}</p>
      <ol class="files">
        <li v-for="file in found.files" :key="file.parcel_id + file.words">
          <p class="slab">{{ file.sentence }}</p>
          <p class="tiny quiet">{{ bytes(file.size_bytes) }}</p>
          <ul>
            <li v-for="one in file.serves" :key="one.parcel_id">
              {{ one.name }}:
              <template v-if="one.conditions.length">arrives at {{ one.conditions.map((condition, at) => `${condition.toFixed(0)} on a ${screens[at]}`).join(', ') }}{{ one.below_best >= 0.5 ? `; ${one.below_best.toFixed(0)} below its own best at most` : '; as well as its own best' }}</template>
              <template v-else>sound alone</template>
            </li>
          </ul>
        </li>
      </ol>
      <p class="tiny quiet">Together {{ bytes(found.total_bytes) }}, and {{ bytes(found.upload_bytes) }} to upload, since each goes to all whom it serves; with a file for every lane it is {{ bytes(found.now_bytes) }}. No lane arrives more than one noticeable step, 6 points, below its best.</p>
      <template #footer>
        <ElButton @click="open = false">{{ shared ? 'Close' : 'Not now' }}</ElButton>
        <ElButton @click="(open = false), emit('take')">{{ shared ? 'Weigh them anew and share' : 'Let them share these files' }}</ElButton>
      </template>
    </ElDialog>
  </p>
</template>

<style scoped>
.fewest {
  gap: 8px;
  margin: 0 0 7px;
}

.fewest .link {
  flex: none;
}

.files {
  margin: 10px 0;
  padding-left: 22px;
}

.files > li + li {
  margin-top: 8px;
}
</style>
