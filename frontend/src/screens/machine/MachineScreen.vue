<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput, ElInputNumber } from 'element-plus'
import { reactive, ref, watch } from 'vue'

import { api, Trouble, type MachineView } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import { bytes } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'
import EncodingSpeed from './EncodingSpeed.vue'

const { value: machine, trouble, again } = useAnswer((signal) => api.machine(signal))
const form = reactive({ uplink: 9.6, steadiness: 80, price: 0, currency: '', allowance: undefined as number | undefined, minutes: undefined as number | undefined, folder: '', cache: 20, probing: true, pattern: '', folders: [] as string[], jobs: 1000, days: 90 })
const adding = ref('')
const braced = (field: string | number) => `{${field}}`
const said = ref('')
const refused = ref('')

function show(view: MachineView): void {
  form.uplink = view.line.uplink_mbps ?? 9.6
  form.steadiness = Math.round((view.line.steadiness ?? 0.8) * 100)
  form.price = view.line.price_per_gb ?? 0
  form.currency = view.line.currency ?? ''
  form.allowance = view.line.allowance_gb ?? undefined
  form.minutes = view.line.upload_minutes ?? undefined
  form.folder = view.output_folder
  form.cache = view.cache_gb
  form.probing = view.probing
  form.pattern = view.file_pattern
  form.folders = [...view.folders]
  form.jobs = view.jobs_listed
  form.days = view.jobs_days
}
watch(machine, (view) => view && show(view))


async function save(): Promise<void> {
  said.value = refused.value = ''
  try {
    machine.value = await api.saveMachine({
      line: {
        uplink_mbps: form.uplink, steadiness: form.steadiness / 100, price_per_gb: form.price,
        currency: form.currency, allowance_gb: form.allowance ?? null, upload_minutes: form.minutes ?? null,
      },
      output_folder: form.folder.trim() || null,
      cache_gb: form.cache,
      probing: form.probing,
      file_pattern: form.pattern,
      folders: [...form.folders, ...(adding.value.trim() ? [adding.value.trim()] : [])],
      jobs_listed: form.jobs,
      jobs_days: form.days,
    })
    adding.value = ''
    said.value = 'Kept. Every figure follows from now on.'
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be kept.'
  }
}
</script>

<template>
  <div class="page">
    <h1>Line &amp; machine</h1>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="machine">
      <p class="first-sentence">Your line carries about {{ bytes(machine.hour_bytes) }} an hour; upload times and data costs are reckoned with it.</p>
      <div class="sheets">
        <form class="sheet" novalidate @submit.prevent="save">
          <fieldset>
            <legend>Line</legend>
            <label for="uplink">Uplink</label>
            <div><ElInputNumber id="uplink" v-model="form.uplink" :min="0.05" :max="100000" :controls="false" /> Mbit/s</div>
            <label for="steadiness">At bad times</label>
            <div><ElInputNumber id="steadiness" v-model="form.steadiness" :min="1" :max="100" :controls="false" /> % of it is there</div>
            <label for="price">Price</label>
            <div>
              <ElInputNumber id="price" v-model="form.price" :min="0" :max="1000" :controls="false" />
              <ElInput v-model="form.currency" class="currency" maxlength="8" placeholder="£" aria-label="Currency" /> a GB
            </div>
            <label for="minutes">An upload may take</label>
            <div><ElInputNumber id="minutes" v-model="form.minutes" :min="0.1" :controls="false" placeholder="any time" /> minutes, as an edge on every curve</div>
            <label for="allowance">Allowance left</label>
            <div><ElInputNumber id="allowance" v-model="form.allowance" :min="0.001" :controls="false" placeholder="none" /> GB this month</div>
          </fieldset>
          <fieldset>
            <legend>Folders</legend>
            <label for="folder">Parcels go to</label>
            <ElInput id="folder" v-model="form.folder" class="mono" />
            <span>Masters come from</span>
            <span class="mono wrap">{{ machine.inbox }}</span>
            <span class="top">May be used</span>
            <ul class="folders">
              <li v-for="folder in machine.allowed" :key="folder"><span class="mono wrap">{{ folder }}</span> <span class="quiet">and what is in it</span></li>
              <li v-for="(folder, at) in form.folders" :key="folder"><span class="mono wrap">{{ folder }}</span> <ElButton size="small" :aria-label="`Allow ${folder} no more`" @click="form.folders.splice(at, 1)">No more</ElButton></li>
              <li><ElInput v-model="adding" class="mono" placeholder="/media/drive/films" aria-label="Another folder that may be used" /></li>
              <li class="quiet tiny">Films may be opened from these folders, and parcels written to them; nothing outside is ever touched.</li>
            </ul>
          </fieldset>
          <fieldset>
            <legend>File names</legend>
            <label for="pattern">Pattern</label>
            <ElInput id="pattern" v-model="form.pattern" class="mono" />
            <span>Comes to</span>
            <span class="mono wrap">{{ machine.example_name }}<span v-if="form.pattern !== machine.file_pattern" class="quiet"> before; keep it to see what it comes to now</span></span>
            <span class="top">May hold</span>
            <p class="fields"><span v-for="(means, field) in machine.pattern_fields" :key="field"><button type="button" class="link mono" @click="form.pattern += ` ${braced(field)}`">{{ braced(field) }}</button> {{ means }}</span></p>
          </fieldset>
          <fieldset>
            <legend>Trying</legend>
            <span>In the background</span>
            <ElCheckbox v-model="form.probing">test sample clips of what is opened, so that every lane tells what arrives</ElCheckbox>
            <label for="cache">May keep on disk</label>
            <div>
              <ElInputNumber id="cache" v-model="form.cache" :min="1" :max="10000" :controls="false" /> GB; they have
              {{ machine.cache_bytes ? bytes(machine.cache_bytes) : 'nothing' }} now. The oldest go first; their figures stay.
            </div>
          </fieldset>
          <fieldset>
            <legend>Finished jobs</legend>
            <label for="jobs">Keep in the list</label>
            <div>
              the last <ElInputNumber id="jobs" v-model="form.jobs" :min="50" :max="10000" :controls="false" />, for
              <ElInputNumber v-model="form.days" :min="1" :max="3650" :controls="false" aria-label="Days that finished jobs stay" /> days at most. Receipts and measurements always stay.
            </div>
          </fieldset>
          <fieldset>
            <legend>Safety</legend>
            <span class="top">Reading films</span>
            <p :class="{ refused: !machine.confined }">{{ machine.confinement }}</p>
            <span>Made of</span>
            <p><a href="/notices.txt" target="_blank">packages and fonts, with their licences</a></p>
          </fieldset>
          <div class="row">
            <ElButton native-type="submit">Keep</ElButton>
            <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
            <p v-else-if="said" role="status">{{ said }}</p>
          </div>
        </form>
        <EncodingSpeed />
      </div>
    </template>
  </div>
</template>

<style scoped>
.sheets {
  display: flex;
  flex-wrap: wrap;
  gap: 20px;
  align-items: flex-start;
  margin-top: 16px;
}

form {
  flex: 0 1 860px;
  padding: 20px 24px;
}

fieldset {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 10px 16px;
  align-items: center;
  margin: 0 0 22px;
  padding: 0;
  border: none;
}

legend {
  padding: 0 0 8px;
  font: 600 var(--lead) var(--slab);
}

.currency {
  width: 70px;
  margin-left: 6px;
}

.wrap {
  overflow-wrap: anywhere;
}

.top {
  align-self: start;
}

.folders {
  margin: 0;
  padding: 0;
  list-style: none;
}

.folders li {
  padding: 2px 0;
}

.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 18px;
  font-size: 13px;
}

.refused {
  font-weight: 700;
}
</style>
