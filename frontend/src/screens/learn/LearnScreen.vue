<script setup lang="ts">
import { ElButton, ElPopconfirm } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import NumbersExplained from '../../parts/NumbersExplained.vue'
import ProgressBar from '../../parts/ProgressBar.vue'
import TroubleNote from '../../parts/TroubleNote.vue'

/** A file that a platform served: where it lies in what was packed, how it looks beside the forecast, and the sheet that would have said so. */
const props = defineProps<{ returnedId: string }>()
const events = useEvents()
const router = useRouter()
const { value: view, trouble, again } = useAnswer((signal) => api.returnedFile(props.returnedId, signal), [() => props.returnedId], [events.of('returned', 'sheets')])
const job = computed(() => events.list.find((one) => one.id === view.value?.job?.id) ?? view.value?.job)
const found = computed(() => view.value?.record.found)
const conditions = computed(() => found.value?.conditions ?? {})
const expected = computed(() => view.value?.expected ?? {})
const screens = [{ key: 'phone', words: 'Phone' }, { key: 'laptop', words: 'Laptop' }, { key: 'tv', words: 'TV' }]
const correction = computed(() => view.value?.correction)
const said = ref('')
const refused = ref('')
async function correct(): Promise<void> {
  refused.value = ''
  try {
    const sheet = await api.correctFromReturned(props.returnedId)
    said.value = `${sheet.name} is version ${sheet.version} now; parcels planned with an older one say so.`
    await again()
  } catch (error) {
    refused.value = (error as Error).message
  }
}
async function forget(): Promise<void> {
  await api.forgetReturned(props.returnedId)
  await router.push({ name: 'receipts' })
}
</script>

<template>
  <div class="page">
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="view">
      <div class="row">
        <h1 class="cut">{{ view.record.file_name }} <span class="quiet">from {{ view.record.destination_name }}</span></h1>
        <span class="grow" />
        <RouterLink :to="{ name: 'receipts', hash: `#${view.record.receipt_id}` }">Its receipt</RouterLink>
        <ElPopconfirm title="Forget it, so that it counts no more?" confirm-button-text="Forget it" cancel-button-text="Keep it" @confirm="forget"><template #reference><ElButton size="small">Forget</ElButton></template></ElPopconfirm>
      </div>
      <p class="first-sentence" :role="view.record.problem ? 'alert' : undefined">{{ view.sentence }}</p>
      <div v-if="job && !found" class="way">
        <ProgressBar :share="job.progress?.share ?? 0" :label="view.sentence" />
        <p class="mono">{{ job.progress?.doing || 'waiting for its turn' }}</p>
      </div>
      <div v-if="found" class="columns">
        <section class="sheet part" aria-label="What came back">
          <h2>What came back</h2>
          <table class="ruled">
            <thead><tr><th>Screen</th><th class="number">Forecast</th><th class="number">Came back</th></tr></thead>
            <tbody>
              <tr v-for="screen in screens" :key="screen.key">
                <th scope="row">{{ screen.words }}</th>
                <td class="number"><template v-if="expected[screen.key]">{{ expected[screen.key].condition.toFixed(0) }} <EvidenceMark :evidence="expected[screen.key].evidence" :band="expected[screen.key].band" /></template><span v-else class="quiet">–</span></td>
                <td class="number"><b class="slab">{{ conditions[screen.key]?.toFixed(0) ?? '–' }}</b> <EvidenceMark evidence="returned" /></td>
              </tr>
            </tbody>
          </table>
          <h3>On the way</h3>
          <p v-if="!view.words.length">Nothing but encoding: every picture is where it was, whole. It is {{ view.sure }} the packed film.</p>
          <ul v-else><li v-for="one in view.words" :key="one">{{ one }}</li></ul>
          <p v-if="view.words.length" class="quiet">It is {{ view.sure }} the packed film, lined up to the picture and to the pixel.</p>
          <template v-if="view.explains.length">
            <h3>Beside its sheet</h3>
            <ul><li v-for="one in view.explains" :key="one">{{ one }}</li></ul>
          </template>
        </section>
        <section class="sheet part" aria-label="The sheet, corrected">
          <h2>The sheet, corrected</h2>
          <template v-if="correction">
            <p>{{ correction.sentence }}</p>
            <table class="ruled" v-if="correction.changes.length">
              <thead><tr><th>Handling</th><th>The sheet says</th><th>What explains it</th></tr></thead>
              <tbody><tr v-for="change in correction.changes" :key="change.what"><th scope="row">{{ change.what }}</th><td class="mono">{{ change.was }}</td><td class="mono"><b>{{ change.becomes }}</b></td></tr></tbody>
            </table>
            <h3>Error on what came back <span class="quiet tiny">points of condition, before and after</span></h3>
            <table class="ruled">
              <tbody>
                <tr v-for="(error, place) in correction.errors" :key="place">
                  <th scope="row" class="cut name">{{ error.file_name }}<span v-if="error.outlier" class="quiet"> · unlike the others, left out</span></th>
                  <td class="number mono">{{ error.before?.toFixed(1) ?? '–' }}</td><td class="number mono">{{ error.after?.toFixed(1) ?? '–' }}</td>
                </tr>
              </tbody>
            </table>
            <p v-if="said" role="status" class="done">{{ said }} <RouterLink :to="{ name: 'sheets', params: { sheetId: correction.sheet.id } }">See the sheet</RouterLink></p>
            <p v-if="refused" role="alert" class="done">{{ refused }}</p>
            <ElButton v-if="correction.changes.length" class="act" @click="correct">Correct the sheet, as version {{ correction.sheet.version }}</ElButton>
            <p class="quiet tiny note">A few windows of the very upload were encoded here at several qualities; the rule is taken that comes nearest to what came back in bits and in condition. Steps of which nothing came back are changed alike. The more films come back, the surer it is.</p>
          </template>
        </section>
      </div>
    </template>
    <p class="quiet"><NumbersExplained brief /></p>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr);
  gap: 16px;
  align-items: start;
  margin-top: 14px;
}

.part {
  padding: 14px 18px;
}

h3 {
  margin-top: 14px;
  font-size: 15px;
}

.name {
  max-width: 330px;
}

ul {
  margin: 4px 0 0;
  padding-left: 18px;
}

.way {
  max-width: 620px;
  margin-top: 10px;
}

.act,
.done,
.note {
  margin-top: 12px;
}

.done {
  font-weight: 700;
}

@media (max-width: 1023px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
