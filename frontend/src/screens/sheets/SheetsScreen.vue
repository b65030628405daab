<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'

import { api, Trouble, type SheetView } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import TroubleNote from '../../parts/TroubleNote.vue'
import NewSheetDialog from './NewSheetDialog.vue'
import SheetEditor from './SheetEditor.vue'
import SheetPaper from './SheetPaper.vue'
import SheetVersions from './SheetVersions.vue'

const props = defineProps<{ sheetId?: string }>()
const router = useRouter()
const { value: sheets, trouble, again } = useAnswer((signal) => api.sheets(signal))
const open = computed(() => sheets.value?.find((one) => one.sheet.id === props.sheetId) ?? sheets.value?.[0])
const editing = ref(false)
const making = ref(false)
const problem = ref('')
const picker = ref<HTMLInputElement>()
watch(() => props.sheetId, () => ((editing.value = false), (problem.value = '')))
const route = useRoute()
onMounted(() => (editing.value = 'edit' in route.query))

const old = computed(() => sheets.value?.filter((one) => one.reminder).map((one) => one.sheet.name) ?? [])
const assumed = computed(() => sheets.value?.filter((one) => one.sheet.placements.some((place) => place.handling.assumed)).map((one) => one.sheet.name) ?? [])
const sentence = computed(() => {
  const own = sheets.value?.filter((one) => !one.shipped).length ?? 0
  const all = `${sheets.value?.length} rule sheets say what platforms take, ask for and do; ${own === 0 ? 'none of them is your own yet' : own === 1 ? 'one is your own' : `${own} are your own`}.`
  const age = old.value.length ? ` Look at ${old.value.join(' and ')} again: checked long ago.` : ''
  return all + age + (assumed.value.length ? ` How ${assumed.value.join(' and ')} re-encodes is assumed.` : '')
})

async function kept(view: SheetView): Promise<void> {
  editing.value = making.value = false
  await again()
  await router.push({ name: 'sheets', params: { sheetId: view.sheet.id } })
  await nextTick() // another sheet closes the editor first
  editing.value = !view.shipped && view.sheet.placements.some((place) => place.picture !== false && !place.guidance?.length)
}
async function act(what: () => Promise<SheetView | unknown>, otherwise: string): Promise<void> {
  problem.value = ''
  try {
    const found = await what()
    if (found && typeof found === 'object' && 'sheet' in found) await kept(found as SheetView)
    else await again().then(() => router.push({ name: 'sheets' }))
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : otherwise
  }
}
async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) await act(async () => api.importSheet(await file.text()), 'This file could not be read.')
}
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Rule sheets</h1>
      <span class="grow" />
      <ElButton @click="making = true">Make a sheet</ElButton>
      <ElButton @click="picker!.click()">Import JSON</ElButton>
      <input ref="picker" type="file" accept=".json,application/json" hidden aria-label="A rule sheet to import" @change="take" />
    </div>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="sheets && open">
      <p class="first-sentence">{{ sentence }}</p>
      <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
      <div class="columns">
        <nav aria-label="Sheets">
          <RouterLink
            v-for="one in sheets" :key="one.sheet.id" :to="{ name: 'sheets', params: { sheetId: one.sheet.id } }"
            :class="{ here: one === open }" :aria-current="one === open ? 'page' : undefined"
          >
            <span class="slab cut">{{ one.sheet.name }}</span>
            <span class="tiny">{{ one.sheet.kind }}{{ one.shipped ? '' : ', your own' }}</span>
            <span v-if="one.reminder" class="tiny"><b>checked {{ one.age_days }} days ago</b></span>
          </RouterLink>
        </nav>
        <SheetEditor v-if="editing" :key="`${open.sheet.id} ${open.sheet.version}`" :view="open" @kept="kept" @close="editing = false" />
        <div v-else>
          <SheetPaper :view="open">
            <RouterLink v-if="open.sheet.placements.some((place) => place.picture !== false)" class="button" :to="{ name: 'trust', params: { sheetId: open.sheet.id } }">From help page to forecast</RouterLink>
            <ElButton size="small" @click="editing = true">Edit</ElButton>
            <a class="button" :href="`/api/sheets/${open.sheet.id}/document.json`" download>Export JSON</a>
            <ElButton v-if="!open.shipped" size="small" @click="act(() => api.removeSheet(open!.sheet.id), 'It could not be removed.')">Remove</ElButton>
          </SheetPaper>
          <SheetVersions :key="open.sheet.id" :view="open" @bring="(version) => act(() => api.bringBack(open!.sheet.id, version), 'It could not be brought back.')" />
        </div>
      </div>
    </template>
    <p v-else-if="!trouble" class="quiet">Fetching the sheets…</p>
    <NewSheetDialog v-if="making && sheets" v-model="making" :sheets="sheets" @made="kept" />
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
  gap: 22px;
  margin-top: 12px;
  align-items: start;
}

nav {
  display: flex;
  flex-direction: column;
  gap: 5px;
}

nav a {
  display: flex;
  flex-direction: column;
  padding: 6px 12px;
  border: 1px solid var(--line);
  border-radius: var(--corner);
  background: var(--sheet);
  text-decoration: none;
}

nav a.here {
  background: var(--ink);
  border-color: var(--ink);
  color: var(--sheet);
}

.problem {
  margin-top: 8px;
  font-weight: 700;
}

.button {
  padding: 1px 11px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  font-size: 12.5px;
  line-height: 20px;
  text-decoration: none;
  white-space: nowrap;
}
</style>
