<script setup lang="ts">
import { ElButton, ElCheckbox, ElCheckboxGroup, ElPopover } from 'element-plus'
import { computed } from 'vue'

import type { LaneView } from '../../data/api'

/** Which lanes are shown: by destination and by shape; none ticked means all. Hidden ones come back from here. */
const props = defineProps<{ own: LaneView[]; shown: number; hidden: LaneView[] }>()
const emit = defineEmits<{ again: [] }>()
const destinations = defineModel<string[]>('destinations', { required: true })
const shapes = defineModel<string[]>('shapes', { required: true })
const besides = defineModel<boolean>('besides', { required: true })
const names = computed(() => [...new Set(props.own.map(({ lane }) => lane.sheet_name))])
const kinds = computed(() => [...new Set(props.own.map(({ lane }) => lane.shape))])
const some = computed(() => destinations.value.length || shapes.value.length || props.hidden.length)
</script>

<template>
  <ElPopover trigger="click" placement="bottom" :width="320">
    <template #reference><ElButton>{{ some ? `Showing ${shown} of ${own.length}` : 'Show…' }}</ElButton></template>
    <p class="slab">Destinations</p>
    <ElCheckboxGroup v-model="destinations" aria-label="Destinations that are shown">
      <ElCheckbox v-for="name in names" :key="name" :value="name" :label="name" />
    </ElCheckboxGroup>
    <p class="slab">Shapes</p>
    <ElCheckboxGroup v-model="shapes" aria-label="Shapes that are shown">
      <ElCheckbox v-for="kind in kinds" :key="kind" :value="kind" :label="kind" />
    </ElCheckboxGroup>
    <p class="slab">Under each lane</p>
    <ElCheckbox v-model="besides" label="The original file and a larger frame" />
    <p v-if="hidden.length" class="row again">
      <span class="quiet grow">{{ hidden.length === 1 ? 'One lane is' : `${hidden.length} lanes are` }} hidden.</span>
      <ElButton size="small" @click="emit('again')">Show again</ElButton>
    </p>
    <p v-else class="quiet tiny">With no destination and no shape ticked all are shown.</p>
  </ElPopover>
</template>

<style scoped>
.again {
  margin-top: 8px;
}
</style>
