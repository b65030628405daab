<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type LaneView } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import { bytes } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'

/** Several parcels before they are packed at once: their names, where they go and whether there is room; care is asked once for all. */
const props = defineProps<{ masterId: string; views: LaneView[] }>()
const emit = defineEmits<{ pack: [] }>()
const open = defineModel<boolean>({ required: true })
const { value: together, trouble, again } = useAnswer((signal) => api.packingTogether(props.masterId, props.views.map((view) => view.lane.parcel.id), signal))
const rows = computed(() => (together.value?.parcels ?? []).map((file) => {
  const lane = props.views.find((view) => view.lane.parcel.id === file.parcel_id)?.lane
  return {
    ...file,
    whom: lane ? [lane.sheet_name, lane.placement_name, lane.difference].filter(Boolean).join(', ') : '',
    stamps: lane?.stamps.filter((stamp) => stamp.outcome === 'handle with care') ?? [],
  }
}))
const careful = computed(() => rows.value.filter((row) => row.stamps.length).length)
const folders = computed(() => [...new Set(rows.value.map((row) => row.folder))])
const total = computed(() => rows.value.reduce((sum, row) => sum + row.expected_bytes, 0))
const tight = computed(() => together.value?.rooms.some((room) => !room.enough))
const numbered = computed(() => rows.value.some((row) => row.taken))
</script>

<template>
  <ElDialog v-model="open" :title="`Pack ${views.length === 1 ? 'one parcel' : `${views.length} parcels`}`" width="760" align-center>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again()" />
    <p v-else-if="!together" class="quiet">Finding their names…</p>
    <template v-else>
      <ol class="files">
        <li v-for="row in rows" :key="row.parcel_id">
          <span class="mono name">{{ row.name }}</span><span class="quiet size">{{ bytes(row.expected_bytes) }}</span>
          <span class="quiet tiny whom">{{ row.whom }}</span>
          <span v-if="row.surprises.length || row.packed_before" class="care">
            {{ row.surprises.join(' ') }}
            <template v-if="row.packed_before">It was packed so before: <RouterLink :to="{ name: 'receipts', hash: `#${row.packed_before}` }">open its receipt</RouterLink>, or pack another one.</template>
          </span>
          <span v-for="stamp in row.stamps" :key="stamp.code" class="care"><b>{{ stamp.matter }}</b>: {{ stamp.sentence }}</span>
        </li>
      </ol>
      <p v-if="numbered" class="quiet tiny">Where a usual name is taken the file is numbered; nothing is overwritten.</p>
      <p class="where">
        Together about {{ bytes(total) }}, into <span v-for="(folder, at) in folders" :key="folder">{{ at ? ', ' : '' }}<span class="mono">{{ folder }}</span></span>. The short ones go first.
      </p>
      <p v-for="room in together.rooms" :key="room.folder" :class="{ tight: !room.enough, quiet: room.enough }"><template v-if="together.rooms.length > 1"><span class="mono">{{ room.folder }}</span>: </template>{{ room.sentence }}</p>
    </template>
    <template #footer>
      <ElButton @click="open = false">Not yet</ElButton>
      <ElButton class="sends" :disabled="!together || tight" @click="(open = false), emit('pack')">{{ careful ? 'Pack with care' : 'Pack them' }}</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.files {
  max-height: 50vh;
  overflow: auto;
  margin: 0;
  padding: 0;
  list-style: none;
}

.files li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  column-gap: 14px;
  padding: 6px 0;
  border-bottom: 1px dashed var(--line);
}

.name {
  overflow-wrap: anywhere;
}

.size {
  font-variant-numeric: tabular-nums;
}

.whom,
.care {
  grid-column: 1 / -1;
}

.care {
  margin-top: 3px;
  padding: 3px 10px;
  background: var(--care-ground);
  border: 1px solid var(--care);
}

.where {
  margin: 10px 0 0;
  overflow-wrap: anywhere;
}

.tight {
  margin-top: 6px;
  font-weight: 700;
}
</style>
