<script setup lang="ts">
import { ElButton, ElDialog, ElInput } from 'element-plus'
import { computed, ref } from 'vue'

import { api, Trouble, type SheetView } from '../../data/api'
import { idOf } from './useSheetDraft'

/** A sheet of one's own: a copy of another, or from nothing. */
const props = defineProps<{ sheets: SheetView[] }>()
const emit = defineEmits<{ made: [view: SheetView] }>()
const open = defineModel<boolean>({ required: true })
const name = ref('')
const copyOf = ref('')
const id = computed(() => idOf(name.value))
const taken = computed(() => props.sheets.some((one) => one.sheet.id === id.value))
const refused = ref('')

async function make(): Promise<void> {
  refused.value = ''
  try {
    emit('made', await api.makeSheet(id.value, name.value.trim(), copyOf.value || null))
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'The sheet could not be made.'
  }
}
</script>

<template>
  <ElDialog v-model="open" title="Make a sheet" width="520" align-center>
    <form id="sheet-form" class="fields" @submit.prevent="make">
      <label for="sheet-name">Name</label>
      <ElInput id="sheet-name" v-model="name" placeholder="Tern Post" maxlength="80" />
      <label for="sheet-copy">Start from</label>
      <select id="sheet-copy" v-model="copyOf">
        <option value="">nothing: paste its guidance</option>
        <option v-for="one in sheets" :key="one.sheet.id" :value="one.sheet.id">a copy of {{ one.sheet.name }}</option>
      </select>
    </form>
    <p v-if="id" class="quiet tiny">Its destinations will begin with <span class="mono">{{ id }}-</span>{{ taken ? '; that is taken, choose another name' : '' }}</p>
    <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
    <template #footer>
      <ElButton @click="open = false">Not now</ElButton>
      <ElButton native-type="submit" form="sheet-form" :disabled="!id || taken">Make it</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 10px;
  align-items: center;
}

select {
  padding: 5px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
}

.refused {
  font-weight: 700;
}
</style>
