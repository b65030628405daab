<script setup lang="ts">
import { ElButton, ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { useClipboard } from '@vueuse/core'

import { api, type TrustView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { stem } from '../../data/words'
import StampMark from '../../parts/StampMark.vue'
import TroubleNote from '../../parts/TroubleNote.vue'

/** The way of a sheet from a help page to forecasts that can be trusted: what is done, what is next, and how far its figures hold. */
const props = defineProps<{ sheetId: string }>()
const events = useEvents()
const router = useRouter()
const { value: paths, trouble, again } = useAnswer((signal) => api.trust(props.sheetId, signal), [() => props.sheetId], [events.of('returned', 'sheets', 'receipt')])
const { value: sheets } = useAnswer((signal) => api.sheets(signal), [], [events.of('sheets')])
const { value: shelf } = useAnswer((signal) => api.shelf(signal), [], [events.of('master')])
const sheet = computed(() => sheets.value?.find((one) => one.sheet.id === props.sheetId)?.sheet)
const masters = computed(() => (shelf.value?.masters ?? []).filter((one) => one.state === 'ready'))
const master = ref('')
/** What was chosen for each placement, and what went wrong there. */
const parcel = reactive<Record<string, string>>({})
const best = ref(true)
const problem = reactive<Record<string, string>>({})
const { copy, copied, text } = useClipboard()

async function plan(path: TrustView): Promise<void> {
  problem[path.destination_id] = ''
  try {
    const lanes = await api.lanes(master.value)
    const shown = [...new Set(lanes.lanes.map((view) => view.lane.destination_id))]
    if (!shown.includes(path.destination_id)) await api.chooseDestinations(master.value, [...shown, path.destination_id])
    const now = shown.includes(path.destination_id) ? lanes : await api.lanes(master.value)
    const lane = now.lanes.find((view) => view.lane.destination_id === path.destination_id)
    await router.push(lane ? { name: 'bench', params: { parcelId: lane.lane.parcel.id } } : { name: 'lanes', params: { masterId: master.value } })
  } catch (error) {
    problem[path.destination_id] = (error as Error).message
  }
}
const bringing = ref('')
async function bring(path: TrustView, event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  problem[path.destination_id] = ''
  bringing.value = file.name
  try {
    await api.bringFileBack(file, parcel[path.destination_id] || path.parcels[0].job_id, best.value)
    await again()
  } catch (error) {
    problem[path.destination_id] = (error as Error).message
  }
  bringing.value = ''
}
</script>

<template>
  <div class="page">
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="paths">
      <div class="row">
        <h1 class="cut"><RouterLink :to="{ name: 'sheets', params: { sheetId } }">{{ sheet?.name ?? sheetId }}</RouterLink>, from help page to forecast</h1>
      </div>
      <p v-if="!paths.length" class="first-sentence">It takes no picture, so there is nothing to forecast.</p>
      <section v-for="path in paths" :key="path.destination_id" class="way" :aria-label="path.placement">
        <h2 v-if="paths.length > 1">{{ path.placement }}</h2>
        <p class="first-sentence">{{ path.trust }}</p>
        <p v-if="problem[path.destination_id]" role="alert" class="refused">{{ problem[path.destination_id] }}</p>
        <ol>
          <li v-for="(step, place) in path.steps" :key="step.key" class="sheet" :class="{ next: step.key === path.next_step }" :aria-current="step.key === path.next_step ? 'step' : undefined">
            <span class="number slab">{{ place + 1 }}</span>
            <div class="what">
              <h3>{{ step.title }} <StampMark v-if="step.done" outcome="cleared" text="done" /><span v-else-if="step.key === path.next_step" class="mark">next</span></h3>
              <p>{{ step.told }}</p>
              <p v-if="step.key === 'guidance' || step.key === 'handling'" class="row act">
                <RouterLink :to="{ name: 'sheets', params: { sheetId }, query: { edit: '' } }">{{ step.done ? 'Look at it in the sheet' : step.key === 'guidance' ? 'Paste it into the sheet' : 'Choose in the sheet' }}</RouterLink>
              </p>
              <template v-else-if="step.key === 'sent'">
                <ul v-if="path.parcels.length">
                  <li v-for="one in path.parcels.slice(0, 4)" :key="one.job_id">
                    <RouterLink :to="{ name: 'receipts', hash: `#${one.job_id}` }">{{ one.file_name }}</RouterLink>
                    <button type="button" class="link tiny" @click="copy(one.path)">{{ copied && text === one.path ? 'copied' : 'copy its path' }}</button>
                  </li>
                </ul>
                <p class="row act">
                  <ElSelect v-model="master" size="small" class="choice" placeholder="of which master?" aria-label="Master of the test parcel"><ElOption v-for="one in masters" :key="one.id" :value="one.id" :label="stem(one.name)" /></ElSelect>
                  <ElButton size="small" :disabled="!master" @click="plan(path)">Plan it for {{ sheet?.name }}</ElButton>
                </p>
              </template>
              <template v-else-if="step.key === 'returned'">
                <ul v-if="path.returned.length">
                  <li v-for="one in path.returned.slice(0, 4)" :key="one.id">
                    <RouterLink :to="{ name: 'learn', params: { returnedId: one.id } }">{{ one.file_name }}</RouterLink>
                    <span class="quiet">{{ one.problem || (one.measured ? 'measured' : 'being measured') }}</span>
                  </li>
                </ul>
                <p v-if="path.parcels.length" class="row act">
                  <ElSelect v-if="path.parcels.length > 1" v-model="parcel[path.destination_id]" size="small" class="choice" placeholder="of the latest parcel" aria-label="Of which parcel it is"><ElOption v-for="one in path.parcels" :key="one.job_id" :value="one.job_id" :label="one.file_name" /></ElSelect>
                  <ElCheckbox v-model="best" size="small">nothing better is served there</ElCheckbox>
                  <label class="button">{{ bringing ? `Taking ${bringing}…` : 'Bring it back' }}<input type="file" accept="video/*" class="hidden" :disabled="!!bringing" @change="bring(path, $event)" /></label>
                </p>
              </template>
              <p v-else-if="path.returned.some((one) => one.measured)" class="row act">
                <RouterLink :to="{ name: 'learn', params: { returnedId: path.returned.find((one) => one.measured)!.id } }">{{ step.done ? 'See what it taught' : 'See what it would change, and correct' }}</RouterLink>
              </p>
            </div>
            <p class="trust"><span class="quiet tiny">How far the figures hold then</span>{{ step.trust }}</p>
          </li>
        </ol>
      </section>
    </template>
    <p v-else-if="!trouble" class="quiet">Looking how far it is…</p>
  </div>
</template>

<style scoped>
.way {
  margin-top: 12px;
}

ol {
  display: flex;
  flex-direction: column;
  gap: 8px;
  margin: 12px 0 0;
  padding: 0;
  list-style: none;
}

ol > li {
  display: grid;
  grid-template-columns: 34px minmax(0, 5fr) minmax(0, 3fr);
  gap: 16px;
  padding: 10px 16px;
}

.next {
  box-shadow: inset 5px 0 var(--kraft);
}

.mark {
  padding: 0 8px;
  background: var(--kraft);
  font: 600 13px/20px var(--slab);
}

.number {
  font-size: 26px;
  line-height: 30px;
}

.trust {
  padding-left: 16px;
  border-left: 1px dashed var(--line);
}

.trust .tiny {
  display: block;
}

.act {
  flex-wrap: wrap;
  margin-top: 6px;
}

.choice {
  width: 250px;
}

ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}

ul li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
}

.button {
  position: relative;
  padding: 1px 11px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  font-size: 12.5px;
  line-height: 20px;
  cursor: pointer;
}

.hidden {
  position: absolute;
  inset: 0;
  width: 100%;
  opacity: 0;
  cursor: pointer;
}

.button:focus-within {
  outline: 2px solid var(--ink);
  outline-offset: 2px;
}
</style>
