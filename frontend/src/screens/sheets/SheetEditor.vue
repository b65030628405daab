<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'

import type { SheetView } from '../../data/api'
import { localDay } from '../../data/words'
import GuidanceEditor from './GuidanceEditor.vue'
import HandlingEditor from './HandlingEditor.vue'
import PlacementEditor from './PlacementEditor.vue'
import SoundEditor from './SoundEditor.vue'
import { idOf, useSheetDraft } from './useSheetDraft'

/** A sheet being changed. What is wrong is said beside it as one types; keeping makes a new version. */
const props = defineProps<{ view: SheetView }>()
const emit = defineEmits<{ kept: [view: SheetView]; close: [] }>()
const { draft, faults, wrong, changed, refused, busy, keep } = useSheetDraft(() => props.view, (view) => emit('kept', view))
const at = ref(0)
const place = computed(() => draft.value.placements[at.value])

function addPlacement(): void {
  const copy = JSON.parse(JSON.stringify(place.value))
  const names = new Set(draft.value.placements.map((one) => one.id))
  let number = 2
  while (names.has(idOf(`${copy.id} ${number}`))) number += 1
  draft.value.placements.push({ ...copy, id: idOf(`${copy.id} ${number}`), name: `${copy.name} ${number}` })
  at.value = draft.value.placements.length - 1
}
function dropPlacement(): void {
  draft.value.placements.splice(at.value, 1)
  at.value = 0
}
const today = () => (draft.value.checked_on = localDay(new Date()))
/** Faults that no field below shows, such as rules between fields. */
const loose = computed(() => faults.value.filter((fault) => /^(placements\.\d+|document|placements)$/.test(fault.path)))
</script>

<template>
  <form class="sheet editor" novalidate @submit.prevent="keep">
    <div class="row head">
      <h2>{{ draft.name || 'A sheet without a name' }}</h2>
      <span class="grow" />
      <p v-if="faults.length" class="tiny" role="status"><b>{{ faults.length === 1 ? 'One thing is wrong' : `${faults.length} things are wrong` }}</b></p>
      <ElButton size="small" @click="emit('close')">{{ changed ? 'Leave without keeping' : 'Close' }}</ElButton>
      <ElButton size="small" native-type="submit" :disabled="!changed || faults.length > 0 || busy">Keep as version {{ view.versions.at(-1)!.version + 1 }}</ElButton>
    </div>
    <p v-if="refused" role="alert" class="fault">{{ refused }}</p>
    <ul v-if="loose.length" class="fault"><li v-for="fault in loose" :key="fault.path + fault.why">{{ fault.why }}</li></ul>
    <fieldset class="fields">
      <label>Name <input v-model="draft.name" maxlength="80" /><span class="fault">{{ wrong('name') }}</span></label>
      <label>Kind <input v-model="draft.kind" maxlength="80" /><span class="fault">{{ wrong('kind') }}</span></label>
      <label>Checked on <span class="row"><input v-model="draft.checked_on" type="date" /><button type="button" class="link" @click="today">today</button></span><span class="fault">{{ wrong('checked_on') }}</span></label>
      <label class="wide">Where it comes from <input v-model="draft.source" maxlength="2000" placeholder="the address or the title of the help page" /><span class="fault">{{ wrong('source') }}</span></label>
    </fieldset>
    <div class="row places" role="group" aria-label="Placements">
      <button v-for="(one, index) in draft.placements" :key="index" type="button" class="chip" :aria-pressed="index === at" @click="at = index">
        {{ one.name || one.id }}<span v-if="wrong(`placements.${index}`)" class="tiny"> (look)</span>
      </button>
      <button type="button" class="link" @click="addPlacement">another placement like this</button>
      <button v-if="draft.placements.length > 1" type="button" class="link" @click="dropPlacement">drop this placement</button>
    </div>
    <template v-if="place">
      <GuidanceEditor v-if="place.picture !== false" :key="`g${at}`" v-model="draft.placements[at]" :path="`placements.${at}`" :wrong="wrong" />
      <PlacementEditor :key="`p${at}`" v-model="draft.placements[at]" :path="`placements.${at}`" :wrong="wrong" />
      <SoundEditor :key="`s${at}`" v-model="draft.placements[at]" :path="`placements.${at}`" :wrong="wrong" />
      <HandlingEditor v-if="place.picture !== false" :key="`h${at}`" v-model="draft.placements[at]" :path="`placements.${at}`" :wrong="wrong" />
    </template>
  </form>
</template>

<style scoped>
.editor {
  padding: 14px 20px 20px;
}

.places {
  flex-wrap: wrap;
  margin: 12px 0 4px;
  padding-top: 10px;
  border-top: 2px solid var(--ink);
}

.editor :deep(.fields) {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 8px 16px;
  margin: 8px 0 0;
  padding: 0;
  border: none;
}

.editor :deep(.fields label) {
  display: flex;
  flex-direction: column;
  gap: 1px;
  font-size: 13px;
  color: var(--second-ink);
}

.editor :deep(.fields .wide) {
  grid-column: span 2;
}

.editor :deep(input:not([type='checkbox'], .el-input__inner)),
.editor :deep(select),
.editor :deep(textarea) {
  width: 100%;
  padding: 2px 6px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: var(--ink);
  font: 13px var(--mono);
}

.editor :deep(table) {
  border-spacing: 6px 2px;
  margin-left: -6px;
}

.editor :deep(th) {
  text-align: left;
  font-weight: 400;
  font-size: 12.5px;
  color: var(--second-ink);
}

.editor :deep(h3) {
  margin: 14px 0 2px;
}

.editor :deep(.fault) {
  margin: 0;
  font-size: 12.5px;
  font-weight: 700;
  color: var(--ink);
}

.editor :deep(input[type='checkbox']:not(.el-checkbox__original)) {
  accent-color: var(--ink);
}
</style>
