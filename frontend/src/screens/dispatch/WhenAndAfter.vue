<script setup lang="ts">
import { ElButton, ElOption, ElSelect, ElTimePicker } from 'element-plus'
import { useWebNotification } from '@vueuse/core'
import { computed } from 'vue'

import type { DispatchSettings } from '../../data/api'

/** When packing begins, what the machine does after it, and whether the browser may say so. */
const props = defineProps<{ kept: DispatchSettings }>()
const emit = defineEmits<{ change: [change: { start_at: number | null; after: DispatchSettings['after'] }] }>()
const hour = computed({
  get: () => (props.kept.start_at && props.kept.start_at * 1000 > Date.now() ? new Date(props.kept.start_at * 1000) : null),
  set: (chosen: Date | null) => emit('change', { start_at: chosen && ahead(chosen), after: props.kept.after }),
})
/** The next time it is this hour, in seconds. */
function ahead(chosen: Date): number {
  const found = new Date()
  found.setHours(chosen.getHours(), chosen.getMinutes(), 0, 0)
  if (found.getTime() <= Date.now()) found.setDate(found.getDate() + 1)
  return found.getTime() / 1000
}
const after = computed({
  get: () => props.kept.after,
  set: (chosen) => emit('change', { start_at: props.kept.start_at ?? null, after: chosen }),
})
const { isSupported, permissionGranted, ensurePermissions } = useWebNotification({ requestPermissions: false })
</script>

<template>
  <div class="row when">
    <label class="row">Begin <ElTimePicker v-model="hour" format="HH:mm" placeholder="at once" aria-label="Hour at which packing begins" class="hour" /></label>
    <label class="row">After this
      <ElSelect v-model="after" class="after" aria-label="What comes after packing">
        <ElOption value="nothing" label="nothing" />
        <ElOption value="sleep" label="the machine sleeps" />
      </ElSelect>
    </label>
    <ElButton v-if="isSupported && !permissionGranted" @click="ensurePermissions">Tell me when it is done</ElButton>
    <span class="quiet cut">{{
      kept.kept_awake === false ? 'This system lets nobody keep it awake: see that it does not fall asleep by itself.'
      : kept.kept_awake ? 'The machine is kept awake while it packs.' : 'The machine is kept awake while it packs, where it lets itself be.'
    }}</span>
  </div>
</template>

<style scoped>
.when {
  flex-wrap: wrap;
  gap: 8px 18px;
  margin-top: 10px;
}

.when :deep(.hour) {
  width: 116px;
}

.after {
  width: 178px;
}
</style>
