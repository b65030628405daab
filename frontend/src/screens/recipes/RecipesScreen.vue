<script setup lang="ts">
import { ElButton, ElInputTag } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, Trouble, type Words } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { stem } from '../../data/words'
import DraftInput from '../../parts/DraftInput.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import RecipeHereTable from './RecipeHereTable.vue'

/** Recipes: what each asks for, and what it would come to on a master. */
const props = defineProps<{ recipeId?: string }>()
const router = useRouter()
const events = useEvents()
const recipes = useAnswer((signal) => api.recipes(signal), [], [events.of('recipes', 'sheets')])
const shelf = useAnswer((signal) => api.shelf(signal), [], [events.of('shelf', 'master', 'strip')])
const { value: machine } = useAnswer((signal) => api.machine(signal))
const all = computed(() => recipes.value.value?.recipes ?? [])
const chosen = computed(() => all.value.find((view) => view.recipe.id === props.recipeId) ?? all.value[0])
const words = computed<Words>(() => chosen.value?.recipe.words ?? { title: '', description: '', tags: [] })
const masters = computed(() => (shelf.value.value?.masters ?? []).filter((master) => master.state === 'ready'))
const onto = ref('')
const master = computed(() => masters.value.find((one) => one.id === onto.value) ?? masters.value[0])
const here = useAnswer(
  async (signal) => (chosen.value && master.value ? api.recipeHere(master.value.id, chosen.value.recipe.id, signal) : undefined),
  [() => `${chosen.value?.recipe.id} ${chosen.value?.changed_at} ${master.value?.id}`], [events.of('lanes', 'master', 'sheets')],
)

const problem = ref('')
async function act(doing: () => Promise<unknown>): Promise<boolean> {
  problem.value = ''
  try {
    await doing()
    await recipes.again()
    return true
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be done.'
    return false
  }
}
const id = computed(() => chosen.value?.recipe.id ?? '')
const show = (recipeId: string) => router.push({ name: 'recipes', params: { recipeId } })
async function duplicate(): Promise<void> {
  await act(async () => show((await api.duplicateRecipe(id.value)).recipe.id))
}
async function bringIn(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) await act(async () => show((await api.importRecipe(await file.text())).recipe.id))
}
async function apply(): Promise<void> {
  if (await act(() => api.applyRecipe(master.value.id, id.value))) await router.push({ name: 'lanes', params: { masterId: master.value.id } })
}
const file = ref<HTMLInputElement>()
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Recipes</h1>
      <span class="grow" />
      <span v-if="recipes.value.value?.undo" class="quiet tiny cut">undo: {{ recipes.value.value.undo }}</span>
      <ElButton v-if="recipes.value.value?.undo" size="small" @click="act(() => api.undoRecipe())">Undo</ElButton>
      <ElButton size="small" @click="file?.click()">Import a recipe</ElButton>
      <input ref="file" type="file" accept=".json,application/json" class="visually-hidden" aria-label="Recipe file" tabindex="-1" @change="bringIn" />
    </div>
    <TroubleNote v-if="recipes.trouble.value" :trouble="recipes.trouble.value" @again="recipes.again()" />
    <p v-if="problem" role="alert" class="refused">{{ problem }}</p>
    <template v-if="recipes.value.value">
      <section v-if="!chosen" class="sheet empty">
        <h2>No recipes yet</h2>
        <p>Choose destinations and settings in a master's <RouterLink :to="{ name: 'shelf' }">lanes</RouterLink>, then save them there as a recipe; next week it takes one click.</p>
      </section>
      <div v-else class="columns">
        <nav aria-label="Recipes">
          <div v-for="view in all" :key="view.recipe.id" class="one" :class="{ here: view.recipe.id === id }">
            <button
              type="button" class="star" :aria-pressed="view.recipe.starred" :aria-label="`Star ${view.recipe.name}`"
              @click="act(() => api.editRecipe(view.recipe.id, { starred: !view.recipe.starred }))"
            >{{ view.recipe.starred ? '★' : '☆' }}</button>
            <RouterLink :to="{ name: 'recipes', params: { recipeId: view.recipe.id } }" :aria-current="view.recipe.id === id ? 'page' : undefined">
              <span class="slab cut">{{ view.recipe.name }}</span>
              <span class="quiet tiny cut">{{ view.parts.length }} {{ view.parts.length === 1 ? 'destination' : 'destinations' }}<template v-if="view.recipe.made_on">, made on {{ stem(view.recipe.made_on) }}</template></span>
            </RouterLink>
          </div>
        </nav>
        <section class="sheet paper" :aria-label="chosen.recipe.name">
          <div class="row">
            <DraftInput class="title" :text="chosen.recipe.name" aria-label="Name" maxlength="80" @typed="$event.trim() && act(() => api.editRecipe(id, { name: $event.trim() }))" />
            <span class="grow" />
            <ElButton size="small" @click="duplicate">Duplicate</ElButton>
            <a class="out" :href="api.recipeDocument(id)" download>Export</a>
            <ElButton size="small" @click="act(() => api.removeRecipe(id))">Delete</ElButton>
          </div>
          <DraftInput class="note" :text="chosen.recipe.note ?? ''" placeholder="a note for yourself" aria-label="Note" maxlength="2000" @typed="act(() => api.editRecipe(id, { note: $event, seen: chosen!.changed_at }))" />
          <table class="holds">
            <thead><tr><th>Destination</th><th>What it holds; the rest is left to each master</th></tr></thead>
            <tbody>
              <tr v-for="(part, at) in chosen.parts" :key="at">
                <th scope="row">{{ part.name ?? part.destination_id }} <span v-if="!part.name" class="quiet tiny">gone</span></th>
                <td>
                  <span v-for="row in part.intent_rows" :key="row.setting" class="held"><span class="quiet">{{ row.setting }}</span> {{ row.says }}</span>
                  <span v-if="!part.intent_rows.length" class="quiet">recommended settings</span>
                </td>
              </tr>
            </tbody>
          </table>
          <p class="quiet tiny">Left to the master: its excerpt, focus and mending, the gain of its sound, exact rates and every number that follows.</p>
          <div class="files">
            <label for="recipe-pattern">File names</label>
            <DraftInput id="recipe-pattern" class="mono wide" :text="chosen.recipe.file_pattern ?? ''" :placeholder="`as for all: ${machine?.file_pattern ?? ''}`" maxlength="200" @typed="act(() => api.editRecipe(id, { file_pattern: $event.trim() }))" />
            <label for="recipe-folder">Go to</label>
            <DraftInput id="recipe-folder" class="mono wide" :text="chosen.recipe.folder ?? ''" :placeholder="`as for all: ${machine?.output_folder ?? ''}`" maxlength="4096" @typed="act(() => api.editRecipe(id, { folder: $event.trim() }))" />
            <label for="recipe-words">Sent with</label>
            <DraftInput id="recipe-words" class="wide" :text="words.description ?? ''" placeholder="a description that goes along" maxlength="5000" @typed="act(() => api.editRecipe(id, { words: { ...words, description: $event.trim() }, seen: chosen!.changed_at }))" />
            <label for="recipe-tags">and tags</label>
            <ElInputTag id="recipe-tags" class="wide" size="small" :model-value="words.tags ?? []" :max="40" placeholder="Enter after each" aria-label="Tags" @update:model-value="act(() => api.editRecipe(id, { words: { ...words, tags: $event ?? [] }, seen: chosen!.changed_at }))" />
          </div>
          <div v-if="master" class="row onto">
            <label class="row">On
              <select v-model="onto" class="menu" aria-label="Master">
                <option v-for="one in masters" :key="one.id" :value="one.id === masters[0].id && !onto ? '' : one.id">{{ stem(one.name) }}</option>
              </select>
            </label>
            <span class="quiet grow cut">{{ here.value.value?.same ? 'is chosen there already' : 'it would come to this:' }}</span>
            <ElButton size="small" @click="act(() => api.updateRecipe(id, master.id))">Update from it</ElButton>
            <ElButton :disabled="here.value.value?.same || !here.value.value?.parts.some((part) => !part.missing)" @click="apply">Apply to it</ElButton>
          </div>
          <TroubleNote v-if="here.trouble.value" :trouble="here.trouble.value" @again="here.again()" />
          <RecipeHereTable v-else-if="here.value.value" :here="here.value.value" />
        </section>
      </div>
    </template>
    <p v-else-if="!recipes.trouble.value" class="quiet">Fetching the recipes…</p>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
  gap: 24px;
  margin-top: 12px;
  align-items: start;
}

.one {
  display: flex;
  gap: 8px;
  padding: 7px 8px;
  border-bottom: 1px dashed var(--line);
}

.one.here {
  background: var(--sheet);
  border: 1px solid var(--ink);
}

.one a {
  min-width: 0;
  text-decoration: none;
}

.one a span {
  display: block;
}

.star {
  padding: 0;
  border: none;
  background: none;
  color: inherit;
  font-size: 18px;
  line-height: 1.2;
  cursor: pointer;
}

.paper {
  padding: 14px 18px 16px;
  min-width: 0;
}

.title {
  width: 420px;
  border-color: transparent;
  background: transparent;
  font: 600 var(--head) var(--slab);
}

.title:hover,
.title:focus,
.note:hover,
.note:focus {
  border-color: var(--second-ink);
}

.note {
  width: 100%;
  border-color: transparent;
  background: transparent;
}

.out {
  padding: 0 4px;
  font: 600 15px var(--slab);
}

.holds {
  width: 100%;
  margin-top: 8px;
  border-collapse: collapse;
}

th,
td {
  padding: 4px 12px 4px 0;
  text-align: left;
  font-weight: 400;
  vertical-align: top;
}

thead th {
  font-family: var(--slab);
  font-weight: 600;
  border-bottom: 1px solid var(--ink);
}

tbody th {
  width: 210px;
  font-family: var(--slab);
  font-weight: 600;
}

tbody tr {
  border-bottom: 1px solid var(--line);
}

.held {
  display: inline-block;
  margin-right: 18px;
}

.files {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr);
  gap: 4px 12px;
  align-items: center;
  margin-top: 10px;
}

.wide {
  width: 100%;
}

.onto {
  margin: 14px 0 8px;
  padding-top: 10px;
  border-top: 2px solid var(--ink);
}

.refused {
  margin-top: 8px;
  font-weight: 700;
}

.empty {
  margin-top: 16px;
  padding: 26px;
}
</style>
