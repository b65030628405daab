<script setup lang="ts">
import { ElButton, ElCheckbox, ElCheckboxGroup, ElDialog, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import {
  api,
  Trouble,
  type BatchApplied,
  type BatchTable as Table,
  type FramingMode,
  type Remedy,
} from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import { bytes, seconds } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'
import BatchTable from './BatchTable.vue'
import type { Doing } from './useBatch'

/** A recipe or destinations for many videos, or packing them: the table of what each comes to is shown before anything is changed. */
const props = defineProps<{ masters: string[]; doing: Doing }>()
const emit = defineEmits<{ changed: [applied: BatchApplied, said: string]; packed: [] }>()
const open = defineModel<boolean>({ required: true })
const router = useRouter()

const recipes = useAnswer((signal) => api.recipes(signal))
const destinations = useAnswer((signal) => api.destinations(signal))
const recipeId = ref('')
const chosen = ref<string[]>([])
const applied = ref(false)
const views = computed(() => recipes.value.value?.recipes ?? [])
watch(
  views,
  (all) =>
    (recipeId.value ||=
      all.find((view) => view.recipe.starred)?.recipe.id ?? (all.length === 1 ? all[0].recipe.id : '')),
  { immediate: true },
)

const wish = computed(() => {
  if (props.doing === 'pack' || applied.value) return { masters: props.masters }
  if (props.doing === 'recipe') return recipeId.value ? { masters: props.masters, recipe_id: recipeId.value } : null
  return chosen.value.length ? { masters: props.masters, destinations: chosen.value } : null
})
const preview = useAnswer(
  async (signal): Promise<Table | null> => (wish.value ? api.batchPreview(wish.value, signal) : null),
  [() => JSON.stringify(wish.value)],
)
const table = computed(() => preview.value.value)

const count = computed(() => (props.masters.length === 1 ? '1 video' : `${props.masters.length} videos`))
const title = computed(
  () =>
    ({
      recipe: `Apply a recipe to ${count.value}`,
      destinations: `Choose destinations for ${count.value}`,
      pack: `Pack ${count.value}`,
    })[props.doing],
)
const parcels = computed(() => (table.value?.parcels === 1 ? '1 parcel' : `${table.value?.parcels ?? 0} parcels`))
const refused = ref('')
const busy = ref(false)

async function act(doing: () => Promise<void>): Promise<void> {
  refused.value = ''
  busy.value = true
  try {
    await doing()
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be done. Try again.'
  } finally {
    busy.value = false
  }
}
const named = (result: { refused?: { name: string; why: string }[] }) =>
  (result.refused ?? []).map((item) => `${item.name}: ${item.why}`).join(' ')

const apply = () =>
  act(async () => {
    const result = await api.batchApply(wish.value!)
    const what =
      props.doing === 'recipe'
        ? `“${views.value.find((view) => view.recipe.id === recipeId.value)?.recipe.name}” is applied to`
        : 'Destinations are set for'
    emit('changed', result, `${what} ${result.before.length === 1 ? '1 video' : `${result.before.length} videos`}.`)
    refused.value = named(result)
    applied.value = true
  })
const change = (doing: () => Promise<BatchApplied>, said: string) =>
  act(async () => {
    const result = await doing()
    emit('changed', result, said)
    refused.value = named(result)
    await preview.again()
  })
const fix = (masters: string[], remedies: Remedy[]) =>
  change(() => api.batchFix(masters, remedies), 'The findings are fixed.')
const fill = (masters: string[], framing: FramingMode) =>
  change(() => api.batchFix(masters, [], framing), 'All frames are filled that way.')

const pack = () =>
  act(async () => {
    const result = await api.batchPack(props.masters, '')
    if (result.batch && !result.refused.length) {
      open.value = false
      emit('packed')
      await router.push({ name: 'dispatch' })
    } else if (result.batch) {
      refused.value = `${result.batch.progress.parcels} are being packed. Not packed: ${named(result)}`
    } else {
      refused.value = result.refused.length
        ? `Nothing was packed. ${named(result)}`
        : 'All of them are packed already, or wait to be packed.'
    }
  })
const packs = computed(() => props.doing === 'pack' || applied.value)
</script>

<template>
  <ElDialog v-model="open" :title="title" width="min(1120px, 94vw)" align-center class="batch">
    <div v-if="doing === 'recipe' && !applied" class="row pick">
      <template v-if="views.length">
        <span id="batch-recipe">Recipe</span>
        <ElSelect v-model="recipeId" aria-labelledby="batch-recipe" placeholder="Choose a recipe" class="choose">
          <ElOption v-for="view in views" :key="view.recipe.id" :value="view.recipe.id" :label="view.recipe.name" />
        </ElSelect>
        <span class="quiet">The lanes of each video become the recipe’s; other lanes are put away.</span>
      </template>
      <p v-else-if="recipes.value.value">
        There is no recipe yet. Set up the lanes of one video, then save them under <b>More…</b> there, or look at
        <RouterLink to="/recipes">Recipes</RouterLink>.
      </p>
    </div>
    <ElCheckboxGroup
      v-else-if="doing === 'destinations' && !applied"
      v-model="chosen"
      class="places"
      aria-label="Destinations"
    >
      <ElCheckbox v-for="view in destinations.value.value ?? []" :key="view.id" :value="view.id"
        >{{ view.name }}, {{ view.placement }}</ElCheckbox
      >
    </ElCheckboxGroup>
    <TroubleNote v-if="preview.trouble.value" :trouble="preview.trouble.value" @again="preview.again()" />
    <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
    <BatchTable v-if="table" :table="table" :busy="busy" @fix="fix" @fill="fill" />
    <p v-else-if="wish" class="quiet">Planning {{ count }}…</p>
    <template #footer>
      <span v-if="table" class="sum"
        >{{ parcels }} · {{ bytes(table.size_bytes) }} · {{ seconds(table.encode_s) }} to encode ·
        {{ seconds(table.upload_s) }} to upload</span
      >
      <ElButton @click="open = false">{{ packs ? 'Not yet' : 'Cancel' }}</ElButton>
      <ElButton v-if="packs" class="sends" :disabled="busy || !table?.parcels" @click="pack"
        >Pack {{ parcels }}</ElButton
      >
      <ElButton v-else class="leads" :disabled="busy || !table" @click="apply">Apply to {{ count }}</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.pick,
.places {
  margin-bottom: 12px;
}

.choose {
  width: 280px;
}

.refused {
  margin: 8px 0;
  font-weight: 700;
}

.sum {
  margin-right: 18px;
}
</style>
