<script setup lang="ts">
import { ElButton, ElInputNumber, ElOption, ElPopover, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'

import type { Choices } from '../../data/api'

/** Changes that go to every lane, or to the chosen ones, at once; each keeps its own numbers. */
const props = defineProps<{ count: number; chosen: boolean }>()
const emit = defineEmits<{ change: [part: Partial<Choices>, timesGuidance: number | null] }>()
type Way = { words: string; part: Partial<Choices>; times?: number }
const menus: { name: string; ways: Way[] }[] = [
  {
    name: 'Bit rate', ways: [
      { words: 'not visibly worse than a perfect upload', part: { times_enough: 1, video_bitrate_bps: null } },
      { words: 'the same, and 20 % more', part: { times_enough: 1.2, video_bitrate_bps: null } },
      { words: 'as each plan takes', part: { video_bitrate_bps: null } },
    ],
  },
  {
    name: 'Framing', ways: [
      { words: 'fit, with bars', part: { framing: 'fit' } }, { words: 'fill, cropped', part: { framing: 'fill' } },
      { words: 'over its own blur', part: { framing: 'blur' } },
    ],
  },
  {
    name: 'Effort', ways: [
      { words: 'quick', part: { effort: 'quick' } }, { words: 'medium', part: { effort: null } }, { words: 'careful', part: { effort: 'careful' } },
    ],
  },
  { name: 'Sound', ways: [{ words: 'packed', part: { sound: true } }, { words: 'left out', part: { sound: false } }] },
]
const times = ref<number | null>(1)
const megabytes = ref<number | null>(100)
const whom = computed(() => (props.chosen ? (props.count === 1 ? 'the chosen one' : `the ${props.count} chosen`) : 'all'))
function choose(ways: Way[], words: string): void {
  const way = ways.find((one) => one.words === words)
  if (way) emit('change', way.part, way.times ?? null)
}
</script>

<template>
  <ElPopover trigger="click" placement="bottom-end" :width="430">
    <template #reference><ElButton>Change {{ whom }}…</ElButton></template>
    <div class="together" role="group" :aria-label="`Change ${whom}`">
      <template v-for="{ name, ways } in menus" :key="name">
        <span class="slab">{{ name }}</span>
        <ElSelect model-value="" placeholder="leave as it is" :aria-label="`${name} of ${whom}`" :teleported="false" @change="choose(ways, $event)">
          <ElOption v-for="way in ways" :key="way.words" :label="way.words" :value="way.words" />
        </ElSelect>
      </template>
      <span class="slab">Own multiple</span>
      <span class="row">
        <ElInputNumber v-model="times" :min="0.05" :max="10" :step="0.25" :precision="2" controls-position="right" aria-label="Times the top of the guidance" />
        <span class="quiet">× guidance</span>
        <ElButton :disabled="times == null" @click="emit('change', {}, times)">Take it</ElButton>
      </span>
      <span class="slab">Size limit</span>
      <span class="row">
        <ElInputNumber v-model="megabytes" :min="0.1" :max="1000000" :step="25" controls-position="right" aria-label="Size limit in megabytes" />
        <span class="quiet">MB each</span>
        <ElButton :disabled="megabytes == null" @click="emit('change', { max_bytes: Math.round(megabytes! * 1e6) }, null)">Set it</ElButton>
        <ElButton @click="emit('change', { max_bytes: null }, null)">None</ElButton>
      </span>
    </div>
  </ElPopover>
</template>

<style scoped>
.together {
  display: grid;
  grid-template-columns: 96px 1fr;
  gap: 8px 10px;
  align-items: center;
}

.together :deep(.el-input-number) {
  width: 104px;
}

.row {
  gap: 8px;
}
</style>
