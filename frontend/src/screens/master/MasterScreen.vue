<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'

import { api, Trouble, type CheckStamp, type ColourReading, type Master } from '../../data/api'
import { useEvents } from '../../data/events'
import { inOrder } from '../../data/inOrder'
import { useExcerptPoints } from '../../data/useExcerptPoints'
import { useAnswer } from '../../data/useAnswer'
import { useMaster } from '../../data/useParcels'
import { useStepping } from '../../data/useStepping'
import { ratio, stem } from '../../data/words'
import MasterTabs from '../../parts/MasterTabs.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import CheckList from './CheckList.vue'
import ExcerptBar from './ExcerptBar.vue'
import FactTable from './FactTable.vue'
import FilmStrip from './FilmStrip.vue'
import PictureStage from './PictureStage.vue'
import ReadingsDialog from './ReadingsDialog.vue'

const props = defineProps<{ masterId: string }>()
const events = useEvents()
const { master, trouble, again, set, refused } = useMaster(() => props.masterId)
const checks = useAnswer((signal) => api.checks(props.masterId, signal), [() => props.masterId], [() => master.value?.revision])
const view = checks.value

const last = computed(() => view.value?.last_picture ?? 0)
const stepping = useStepping(() => props.masterId, () => last.value)
const rate = computed(() => (master.value?.facts ? ratio(master.value.facts.video.frame_rate) : 25))
const at = computed(() => stepping.wanted.value / rate.value)
const ready = computed(() => !!master.value?.facts && !!view.value)
watch(ready, (now) => now && !stepping.shown.value && stepping.goTo(0), { immediate: true })

const look = (seconds: number) => stepping.goTo(seconds * rate.value)
const jobs = computed(() => events.open.filter((job) => job.master_id === props.masterId && (job.kind === 'check' || job.kind === 'listen')))

const busy = ref(false)
const problem = ref('')
const next = inOrder()
async function change(act: () => Promise<Master | unknown>): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    const answer = await next(act)
    if (answer && typeof answer === 'object' && 'excerpts' in answer) set(answer as Master)
    else await again()
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be changed.'
  } finally {
    busy.value = false
  }
}
const remedy = (stamp: CheckStamp, on: boolean, rateText?: string) => change(() => api.remedy(props.masterId, stamp.remedy!, on, rateText))
const untagged = ref<CheckStamp>()
const read = (reading: ColourReading | null) => change(() => api.remedy(props.masterId, 'read_colour', reading !== null, undefined, reading ?? undefined))
const stopChecks = () => change(() => Promise.all(jobs.value.map((job) => api.cancel(job.id))))
const points = useExcerptPoints(() => master.value, (value) => change(() => api.setExcerpt(props.masterId, value)))
onMounted(() => document.getElementById('main')?.scrollTo(0, 0))
</script>

<template>
  <div class="page">
    <TroubleNote v-if="trouble ?? checks.trouble.value" :trouble="(trouble ?? checks.trouble.value)!" @again="again(), checks.again()" />
    <template v-if="master?.facts && view">
      <div class="row head">
        <h1 class="cut" :title="master.name">{{ stem(master.name) }}</h1>
        <MasterTabs :master-id="masterId" />
      </div>
      <p class="first-sentence">{{ view.sentence }}</p>
      <p v-if="refused || problem" role="alert" class="refused">{{ refused || problem }}</p>
      <div class="columns">
        <PictureStage :master="master" :stepping="stepping" :last="last" />
        <CheckList
          :master="master" :jobs="jobs" :busy="busy" @jump="look" @remedy="remedy" @read="untagged = $event" @stop="stopChecks"
          @again="change(() => api.checkAgain(masterId))"
        />
        <FactTable :rows="view.facts" :seen="view.pictures_seen" :whole="view.pictures_in_film" />
      </div>
      <ReadingsDialog
        v-if="untagged" :model-value="true" :master="master" :readings="untagged.readings" :number="Math.round(at * rate)" @choose="read"
        @update:model-value="untagged = undefined"
      />
      <div class="sheet strip">
        <FilmStrip :master="master" :checks="view" :points="points" :at="at" @look="look" />
        <ExcerptBar
          :master="master" :points="points" :at="at" :picture="1 / rate"
          @choose="(number) => change(() => api.chooseExcerpt(masterId, number))" @add="(value) => change(() => api.addExcerpt(masterId, value))"
          @drop="(number) => change(() => api.dropExcerpt(masterId, number))"
        />
      </div>
    </template>
    <p v-else-if="!trouble && !checks.trouble.value" class="quiet">Fetching the master…</p>
  </div>
</template>

<style scoped>
.head {
  gap: 22px;
}

.columns {
  display: grid;
  grid-template-columns: 560px minmax(0, 1fr) 290px;
  gap: 22px;
  margin-top: 10px;
}

.strip {
  margin-top: 12px;
  padding: 14px 10px 12px;
}

.refused {
  font-weight: 700;
}
</style>
