<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'

import type { Choices, Seen } from '../../data/api'
import { difference, valueAt, type OtherWay } from './besides'

/** The other ways whose curves lie beside this parcel's: what each would bring at the same bit rate, and a button to take it. */
const props = defineProps<{ ways: OtherWay[]; seen: Seen; bitrate: number; unkept: boolean }>()
const emit = defineEmits<{ take: [part: Partial<Choices>] }>()
const rows = computed(() => {
  return props.ways.map((way) => ({ ...way, ...difference(valueAt(way.drawn, props.bitrate), props.seen.at?.condition, way.band) }))
})
</script>

<template>
  <div v-if="rows.length" class="row beside" role="group" aria-label="Beside it at the same bit rate">
    <span class="quiet">At this bit rate:</span>
    <ElButton
      v-for="way in rows" :key="way.words" size="small" :disabled="unkept" :title="`Pack it in ${way.words} instead. ${way.title}`"
      @click="emit('take', way.part as Partial<Choices>)"
    >{{ way.words }}<span v-if="way.said" class="mono">&nbsp;{{ way.said }}</span></ElButton>
  </div>
</template>

<style scoped>
.beside {
  flex-wrap: wrap;
  gap: 6px;
}

.beside :deep(.el-button) {
  margin: 0;
}
</style>
