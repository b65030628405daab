<script setup lang="ts">
import { ElButton, ElDialog, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import { api, Trouble, type ParcelsState } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import RecipeHereTable from '../recipes/RecipeHereTable.vue'

/** Save these lanes as a recipe, or bring another one here; what it would change and how it adapts is shown first. */
const props = defineProps<{ masterId: string }>()
const emit = defineEmits<{ applied: [before: ParcelsState, name: string]; saved: [name: string] }>()
const open = defineModel<boolean>({ required: true })
const recipes = useAnswer((signal) => api.recipes(signal))
const all = computed(() => recipes.value.value?.recipes ?? [])
const picked = ref('')
const chosen = computed(() => all.value.find((view) => view.recipe.id === picked.value) ?? all.value[0])
const here = useAnswer(
  async (signal) => (chosen.value ? api.recipeHere(props.masterId, chosen.value.recipe.id, signal) : undefined),
  [() => `${chosen.value?.recipe.id} ${chosen.value?.changed_at}`],
)
const name = ref('')
const refused = ref('')
const said = ref('')

async function act(doing: () => Promise<void>): Promise<void> {
  refused.value = said.value = ''
  try {
    await doing()
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be done.'
  }
}
const save = () => act(async () => {
  const kept = await api.saveRecipe(props.masterId, name.value.trim(), '')
  name.value = ''
  picked.value = kept.recipe.id
  said.value = `Saved as “${kept.recipe.name}”.`
  await recipes.again()
  emit('saved', kept.recipe.name)
})
const update = () => act(async () => {
  await api.updateRecipe(chosen.value!.recipe.id, props.masterId)
  said.value = `“${chosen.value!.recipe.name}” says now what these lanes say.`
  await recipes.again()
})
const apply = () => act(async () => {
  const done = await api.applyRecipe(props.masterId, chosen.value!.recipe.id)
  emit('applied', done.before, chosen.value!.recipe.name)
  open.value = false
})
</script>

<template>
  <ElDialog v-model="open" title="Recipes" width="900" align-center>
    <form class="row save" @submit.prevent="save">
      <label for="recipe-name">Save these lanes as</label>
      <ElInput id="recipe-name" v-model="name" maxlength="80" placeholder="a name, such as Weekly gale" />
      <ElButton native-type="submit" :disabled="!name.trim()">Save</ElButton>
    </form>
    <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
    <p v-else-if="said" role="status">{{ said }}</p>
    <template v-if="chosen">
      <div class="row pick">
        <label class="row">Or bring here
          <select class="menu" :value="chosen.recipe.id" aria-label="Recipe" @change="picked = ($event.target as HTMLSelectElement).value">
            <option v-for="view in all" :key="view.recipe.id" :value="view.recipe.id">{{ view.recipe.starred ? '★ ' : '' }}{{ view.recipe.name }}</option>
          </select>
        </label>
        <span class="quiet grow">{{ here.value.value?.same ? 'nothing differs: it is what these lanes say' : '' }}</span>
        <RouterLink :to="{ name: 'recipes', params: { recipeId: chosen.recipe.id } }">open it</RouterLink>
      </div>
      <div class="table"><RecipeHereTable v-if="here.value.value" :here="here.value.value" /></div>
    </template>
    <template #footer>
      <ElButton @click="open = false">Close</ElButton>
      <ElButton v-if="chosen" :disabled="here.value.value?.same" @click="update">Update it from these lanes</ElButton>
      <ElButton v-if="chosen" :disabled="here.value.value?.same || !here.value.value?.parts.some((part) => !part.missing)" @click="apply">Apply “{{ chosen.recipe.name.slice(0, 30) }}”</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.save label {
  white-space: nowrap;
}

.pick {
  margin-top: 14px;
  padding-top: 10px;
  border-top: 1px solid var(--line);
}

.table {
  max-height: 46vh;
  overflow: auto;
}

.refused {
  margin-top: 8px;
  font-weight: 700;
}
</style>
