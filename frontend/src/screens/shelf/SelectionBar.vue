<script setup lang="ts">
import { ElButton, ElCheckbox, ElPopconfirm } from 'element-plus'

/** What can be done with the selected videos; with none selected, only how to select. */
defineProps<{ count: number; listed: number; isAll: boolean; busy: boolean; said: string; undoable: boolean }>()
const emit = defineEmits<{
  all: []
  clear: []
  recipe: []
  destinations: []
  fix: []
  test: []
  pack: []
  remove: []
  undo: []
}>()
</script>

<template>
  <section class="row bar" :class="{ chosen: count }" aria-label="Selected videos">
    <ElCheckbox :model-value="isAll" :indeterminate="count > 0 && !isAll" @change="emit('all')">
      {{ count ? `${count} selected` : `Select all ${listed}` }}
    </ElCheckbox>
    <template v-if="count">
      <ElButton size="small" @click="emit('recipe')">Apply recipe</ElButton>
      <ElButton size="small" @click="emit('destinations')">Choose destinations</ElButton>
      <ElButton size="small" :disabled="busy" @click="emit('fix')">Fix what can be fixed</ElButton>
      <ElButton size="small" :disabled="busy" @click="emit('test')">Test</ElButton>
      <ElButton size="small" class="sends" @click="emit('pack')">Pack</ElButton>
      <ElPopconfirm
        :title="`Remove ${count === 1 ? 'this video' : `${count} videos`} from the shelf? Files stay; only copies uploaded here are deleted.`"
        confirm-button-text="Remove"
        cancel-button-text="Keep"
        width="300"
        @confirm="emit('remove')"
      >
        <template #reference><ElButton size="small">Remove</ElButton></template>
      </ElPopconfirm>
      <ElButton link @click="emit('clear')">Clear selection</ElButton>
    </template>
    <span class="grow" />
    <span v-if="said" role="status">{{ said }}</span>
    <ElButton v-if="undoable" size="small" @click="emit('undo')">Undo</ElButton>
  </section>
</template>

<style scoped>
.bar {
  flex-wrap: wrap;
  gap: 6px 10px;
  min-height: 42px;
  margin-top: 10px;
  padding: 4px 12px;
  border-bottom: 1px solid var(--line);
}

.chosen {
  position: sticky;
  z-index: 5;
  top: 0;
  border: 1px solid var(--ink);
  border-radius: var(--corner);
  background: var(--sheet);
}

.bar :deep(.el-button + .el-button) {
  margin-left: 0;
}
</style>
