<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'
import { computed } from 'vue'

import type { LaneView } from '../../data/api'

/** What wants care before several parcels are packed at once; asked once for all of them. */
const props = defineProps<{ views: LaneView[] }>()
const emit = defineEmits<{ pack: [] }>()
const open = defineModel<boolean>({ required: true })
const careful = computed(() =>
  props.views.map((view) => ({
    name: [view.lane.sheet_name, view.lane.placement_name, view.lane.difference].filter(Boolean).join(', '),
    id: view.lane.parcel.id,
    stamps: view.lane.stamps.filter((stamp) => stamp.outcome === 'handle with care'),
  })).filter((one) => one.stamps.length),
)
</script>

<template>
  <ElDialog v-model="open" :title="`Pack ${views.length === 1 ? 'one parcel' : `${views.length} parcels`}`" width="680" align-center>
    <p>{{ careful.length === 1 ? 'One of them wants' : `${careful.length} of them want` }} care:</p>
    <ul class="care">
      <li v-for="one in careful" :key="one.id">
        <b class="slab">{{ one.name }}</b>
        <span v-for="stamp in one.stamps" :key="stamp.code" class="stamp"><b>{{ stamp.matter }}</b>: {{ stamp.sentence }}</span>
      </li>
    </ul>
    <template #footer>
      <ElButton @click="open = false">Not yet</ElButton>
      <ElButton class="sends" @click="(open = false), emit('pack')">Pack with care</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.care {
  max-height: 50vh;
  overflow: auto;
  margin: 8px 0 0;
  padding: 10px 12px 10px 28px;
  background: var(--care-ground);
  border: 1px solid var(--care);
}

.stamp {
  display: block;
}
</style>
