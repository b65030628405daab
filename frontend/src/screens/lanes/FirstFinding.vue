<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import { api, Trouble, type CheckStamp, type Master } from '../../data/api'

/** What was found about the video and every lane would carry: mended or meant to be so, before anything is chosen. */
const props = defineProps<{ master: Master }>()
const emit = defineEmits<{ changed: [] }>()
const busy = ref(false)
const refused = ref('')
const kept = computed(() => props.master.facts?.mending?.kept ?? [])
const open = computed(() => props.master.stamps.filter((stamp) => stamp.outcome === 'handle with care' && stamp.remedy && !stamp.done && !kept.value.includes(stamp.code)))
const first = computed(() => open.value[0] as CheckStamp | undefined)
const words = computed(() => `${first.value?.remedy_words.charAt(0).toUpperCase()}${first.value?.remedy_words.slice(1)}`)
const oneClick = computed(() => !!first.value && !['constant_rate', 'read_colour'].includes(first.value.remedy ?? ''))
async function settle(act: () => Promise<unknown>): Promise<void> {
  refused.value = ''
  busy.value = true
  try {
    await act()
    emit('changed')
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be changed.'
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div v-if="first" class="first row" role="status">
    <b>First{{ open.length > 1 ? `, 1 of ${open.length}` : '' }}:</b>
    <span>{{ first.seen }}.</span>
    <span class="quiet tiny grow cut" :title="first.why">{{ refused || first.why }}</span>
    <ElButton v-if="oneClick" size="small" class="leads" :disabled="busy" @click="settle(() => api.remedy(master.id, first!.remedy!, true))">{{ words }}</ElButton>
    <RouterLink v-else class="tiny" :to="{ name: 'master', params: { masterId: master.id } }">See to it in the checks</RouterLink>
    <ElButton size="small" :disabled="busy" title="It is meant to be so" @click="settle(() => api.keepFinding(master.id, first!.code))">Keep it</ElButton>
  </div>
</template>

<style scoped>
.first {
  gap: 10px;
  margin: 8px 0 0;
  padding: 6px 12px;
  background: var(--care-ground);
  border: 1px solid var(--care);
}

.first :deep(.el-button) {
  margin: 0;
  text-transform: none;
}
</style>
