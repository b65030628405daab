<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'

import { api, Trouble } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import TroubleNote from '../../parts/TroubleNote.vue'

/** Which destinations the lanes show: what each takes, and how old its sheet is. */
const props = defineProps<{ masterId: string }>()
const emit = defineEmits<{ changed: [] }>()
const open = defineModel<boolean>({ required: true })
const { value: known, trouble, again } = useAnswer((signal) => api.destinations(signal))
const { value: chosen } = useAnswer(async (signal) => [...new Set((await api.lanes(props.masterId, null, signal)).lanes.map(({ lane }) => lane.destination_id))])
const wanted = ref(new Set<string>())
watch(chosen, (ids) => (wanted.value = new Set(ids)))
const refused = ref('')
/** Those that were chosen keep their order; new ones follow in the order of the sheets. */
const ordered = computed(() => [
  ...(chosen.value ?? []).filter((id) => wanted.value.has(id)),
  ...(known.value ?? []).map((one) => one.id).filter((id) => wanted.value.has(id) && !chosen.value?.includes(id)),
])

function toggle(id: string): void {
  const next = new Set(wanted.value)
  if (!next.delete(id)) next.add(id)
  wanted.value = next
}

async function keep(): Promise<void> {
  refused.value = ''
  try {
    await api.chooseDestinations(props.masterId, ordered.value)
    open.value = false
    emit('changed')
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be kept.'
  }
}
</script>

<template>
  <ElDialog v-model="open" title="Where it goes" width="860" align-center>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <form id="lanes-form" @submit.prevent="keep">
      <label v-for="one in chosen ? known : []" :key="one.id" class="one">
        <input type="checkbox" :checked="wanted.has(one.id)" @change="toggle(one.id)" />
        <span>
          <b class="slab">{{ one.name }}</b> · {{ one.placement }} <span class="quiet tiny">{{ one.kind }}</span>
          <span class="takes">{{ one.takes }}</span>
        </span>
        <span class="age tiny quiet">
          sheet checked {{ one.age_days === 0 ? 'today' : one.age_days === 1 ? 'yesterday' : `${one.age_days} days ago` }}
          <b v-if="one.reminder" :title="one.reminder"> · old</b>
        </span>
      </label>
    </form>
    <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
    <template #footer>
      <div class="row">
        <RouterLink :to="{ name: 'sheets' }">Rule sheets</RouterLink>
        <span class="grow" />
        <ElButton @click="open = false">Not now</ElButton>
        <ElButton native-type="submit" form="lanes-form" :disabled="!wanted.size">Show {{ wanted.size === 1 ? 'this lane' : `these ${wanted.size} lanes` }}</ElButton>
      </div>
    </template>
  </ElDialog>
</template>

<style scoped>
.one {
  display: grid;
  grid-template-columns: 20px 1fr 180px;
  gap: 8px;
  padding: 7px 0;
  border-bottom: 1px dashed var(--line);
  cursor: pointer;
}

.one input {
  margin-top: 4px;
  accent-color: var(--ink);
}

.takes {
  display: block;
  font-size: 13px;
  color: var(--second-ink);
}

.age {
  text-align: right;
}

.refused {
  font-weight: 700;
}
</style>
