<script setup lang="ts">
import { ElButton, ElTable, ElTableColumn } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import type { BatchCell, BatchRow, BatchTable, FramingMode, Remedy, SharedConcern } from '../../data/api'
import { bytes, seconds, stem } from '../../data/words'
import StampMark from '../../parts/StampMark.vue'

/** Each video on each destination, those that need a decision first. What several share is fixed for all of them at once. */
const props = defineProps<{ table: BatchTable; busy: boolean }>()
const emit = defineEmits<{
  fix: [masters: string[], remedies: Remedy[]]
  fill: [masters: string[], framing: FramingMode]
}>()

const columns = computed(() => {
  const names = new Map<string, string>()
  for (const cell of props.table.rows.flatMap((row) => row.cells))
    if (!names.has(cell.destination_id)) names.set(cell.destination_id, cell.name)
  return [...names].map(([id, name]) => ({ id, name }))
})
const cellsOf = (row: BatchRow, destination: string) => row.cells.filter((cell) => cell.destination_id === destination)
const outcome = (level: string) => (level === 'held' ? 'held' : 'handle with care')
const count = (shared: SharedConcern) =>
  shared.master_ids.length === 1 ? '1 video' : `${shared.master_ids.length} videos`
const arrives = (cell: BatchCell) =>
  cell.condition == null ? '' : `${Math.round(cell.condition)} ±${Math.round(cell.band ?? 0)}`
const FILLS: { framing: FramingMode; words: string }[] = [
  { framing: 'fill', words: 'Crop' },
  { framing: 'blur', words: 'Blurred background' },
  { framing: 'fit', words: 'Bars' },
]
</script>

<template>
  <ul v-if="table.shared.length" class="shared" aria-label="What needs a decision">
    <li v-for="item in table.shared" :key="item.code" class="row">
      <StampMark :outcome="outcome(item.level)" :text="item.matter" />
      <span>{{ count(item) }}</span>
      <span class="grow" />
      <ElButton
        v-if="item.fixable && item.remedy"
        size="small"
        :disabled="busy"
        @click="emit('fix', item.master_ids, [item.remedy])"
      >
        {{ item.remedy_words[0].toUpperCase() + item.remedy_words.slice(1) }}
      </ElButton>
      <template v-else-if="item.asks_framing">
        <ElButton
          v-for="fill in FILLS"
          :key="fill.framing"
          size="small"
          :disabled="busy"
          @click="emit('fill', item.master_ids, fill.framing)"
        >
          {{ fill.words }}
        </ElButton>
      </template>
    </li>
  </ul>
  <ElTable :data="table.rows" row-key="master_id" max-height="46vh" class="videos">
    <ElTableColumn label="Video" min-width="190" fixed>
      <template #default="{ row }">
        <RouterLink :to="{ name: 'lanes', params: { masterId: row.master_id } }" target="_blank">
          {{ stem(row.name) }}
        </RouterLink>
        <p v-if="row.problem" class="problem">{{ row.problem }}</p>
        <p v-for="concern in row.concerns" :key="concern.code">
          <StampMark :outcome="outcome(concern.level)" :text="concern.matter" :explanation="concern.sentence" />
        </p>
      </template>
    </ElTableColumn>
    <ElTableColumn v-for="column in columns" :key="column.id" :label="column.name" min-width="210">
      <template #default="{ row }">
        <div v-for="(cell, at) in cellsOf(row as BatchRow, column.id)" :key="at" class="cell">
          <p v-if="cell.refused" class="problem">{{ cell.refused }}</p>
          <template v-else>
            <p class="mono tiny">{{ cell.result }}</p>
            <p class="tiny">
              <b>{{ bytes(cell.size_bytes ?? 0) }}</b> · {{ seconds(cell.encode_s ?? 0) }} to encode
              <template v-if="arrives(cell)"> · arrives at {{ arrives(cell) }}</template>
            </p>
          </template>
          <p v-for="text in cell.surprises" :key="text" class="quiet tiny">{{ text }}</p>
          <p v-for="concern in cell.concerns" :key="concern.code">
            <StampMark :outcome="outcome(concern.level)" :text="concern.matter" :explanation="concern.sentence" />
          </p>
        </div>
      </template>
    </ElTableColumn>
  </ElTable>
</template>

<style scoped>
.shared {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(440px, 1fr));
  gap: 0 34px;
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
}

.shared li {
  gap: 8px;
  min-height: 34px;
  padding: 3px 0;
  border-bottom: 1px dashed var(--line);
}

.videos :deep(td.el-table__cell) {
  vertical-align: top;
}

.cell + .cell {
  margin-top: 8px;
}

.problem {
  font-weight: 700;
}
</style>
