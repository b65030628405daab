<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { ElButton, ElDialog, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, Trouble, type Master } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useUploads } from '../../data/uploads'
import { bytes, ratio, stem } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'
import ArrivalList from './ArrivalList.vue'
import ShelfParcel from './ShelfParcel.vue'

const events = useEvents()
const router = useRouter()
const { value: shelf, trouble, again } = useAnswer((signal) => api.shelf(signal), [], [events.of('shelf', 'master', 'content', 'strip')])

const uploads = useUploads()
const wanted = ref('')
const order = useLocalStorage<Order>('shelf-order', 'newest first')
type Order = 'newest first' | 'by name' | 'longest first' | 'needing care first'
const orders: Record<Order, (a: Master, b: Master) => number> = {
  'newest first': (a, b) => b.added_at - a.added_at,
  'by name': (a, b) => stem(a.name).localeCompare(stem(b.name), undefined, { numeric: true }),
  'longest first': (a, b) => length(b) - length(a),
  'needing care first': (a, b) => cares(b) - cares(a),
}
const length = (master: Master) => (master.facts ? ratio(master.facts.duration_s) : 0)
const cares = (master: Master) => master.stamps.filter((stamp) => stamp.outcome !== 'cleared' && !stamp.done).length + (master.state === 'unreadable' ? 100 : 0)
const listed = computed(() => {
  const words = wanted.value.toLowerCase().split(/\s+/).filter(Boolean)
  const fits = (master: Master) => {
    const text = [master.name, ...master.stamps.filter((stamp) => stamp.outcome !== 'cleared').map((stamp) => stamp.matter)].join(' ').toLowerCase()
    return words.every((word) => text.includes(word))
  }
  return [...(shelf.value?.masters ?? [])].filter(fits).sort(orders[order.value] ?? orders['newest first'])
})
const jobsOf = (master: Master) => events.open.filter((job) => job.master_id === master.id && (job.kind === 'check' || job.kind === 'listen'))

const removing = ref<Master>()
async function remove(): Promise<void> {
  const master = removing.value!
  removing.value = undefined
  try {
    await api.removeMaster(master.id)
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'It could not be taken off the shelf.'
  }
  await again()
}

const chooser = ref<HTMLInputElement>()
function chosen(): void {
  uploads.add(chooser.value?.files ?? [])
  chooser.value!.value = ''
}

const path = ref('')
const refused = ref('')
const sentence = computed(() => {
  const found = shelf.value?.masters ?? []
  const ready = found.filter((master) => master.state === 'ready')
  const reading = found.filter((master) => master.state === 'reading').length
  const caring = ready.filter((master) => cares(master)).length
  const bad = found.filter((master) => master.state === 'unreadable').length
  const total = bytes(ready.reduce((sum, master) => sum + master.size_bytes, 0))
  if (!ready.length) return reading ? `${reading === 1 ? 'One master is' : `${reading} masters are`} being read.` : 'No master could be read.'
  const count = ready.length === 1 ? 'One master stands' : `${ready.length} masters stand`
  return (
    `${count} ready to be packed, ${total} in all` +
    (caring ? `; ${caring === 1 ? 'one wants care before it is sent' : `${caring} want care before they are sent`}` : '') +
    (reading ? `; ${reading} being read` : '') +
    (bad ? `; ${bad} could not be read` : '') +
    '.'
  )
})

async function open(): Promise<void> {
  refused.value = ''
  try {
    const master = await api.open(path.value.trim())
    path.value = ''
    if (master.state === 'ready') await router.push({ name: 'lanes', params: { masterId: master.id } })
    else await again()
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'This could not be opened.'
  }
}
</script>

<template>
  <div class="page">
    <div class="row head">
      <h1>Shelf</h1>
      <span class="grow" />
      <template v-if="shelf?.masters.length">
        <label class="row"><span class="quiet">Search</span><ElInput v-model="wanted" class="search" placeholder="a name, or interlaced" clearable /></label>
        <label class="row">
          <span class="quiet">Sorted</span>
          <select v-model="order"><option v-for="(_, name) in orders" :key="name">{{ name }}</option></select>
        </label>
      </template>
      <ElButton @click="chooser?.click()">Choose films…</ElButton>
      <input ref="chooser" type="file" multiple accept="video/*,.mkv,.mxf,.mts,.m2ts,.ts,.dv" class="visually-hidden" tabindex="-1" aria-label="Films to send to the shelf" @change="chosen" />
    </div>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="shelf">
      <p v-if="shelf.masters.length" class="first-sentence">{{ sentence }}</p>
      <ArrivalList />
      <p v-if="shelf.stray_links.length" role="status" class="sheet odd">
        <span class="mono">{{ shelf.stray_links.join(', ') }}</span> in the inbox {{ shelf.stray_links.length === 1 ? 'leads' : 'lead' }} to a folder that Hardy
        Parcel may not use. Allow that folder on <RouterLink to="/machine">Line &amp; machine</RouterLink>, or put the film itself there.
      </p>
      <p v-if="shelf.unusable_names.length" role="status" class="sheet odd">
        {{ shelf.unusable_names.length === 1 ? 'One file in the inbox has a name' : `${shelf.unusable_names.length} files in the inbox have names` }} that cannot
        be read as text: <span class="mono">{{ shelf.unusable_names.join(', ') }}</span>. Rename {{ shelf.unusable_names.length === 1 ? 'it' : 'them' }} to take it up.
      </p>
      <section v-if="!shelf.masters.length" class="sheet empty">
        <h2>Nothing on the shelf yet</h2>
        <p>Drop a finished edit anywhere on this page, or put it into the inbox folder, where it is taken up by itself and not copied:</p>
        <p class="mono">{{ shelf.inbox }}</p>
      </section>
      <ul v-else-if="listed.length" class="parcels" aria-label="Masters">
        <li v-for="master in listed" :key="master.id"><ShelfParcel :master="master" :jobs="jobsOf(master)" @remove="removing = master" /></li>
      </ul>
      <p v-else class="none">No master fits “{{ wanted }}”. <button type="button" class="link" @click="wanted = ''">Show all</button></p>
      <form class="open" @submit.prevent="open">
        <label for="open-path">Open a film where it lies</label>
        <ElInput id="open-path" v-model="path" placeholder="/home/keeper/films/Gale over the skerry.mp4" class="path mono" />
        <ElButton native-type="submit" :disabled="!path.trim()">Open</ElButton>
        <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
        <p v-else class="quiet tiny">Nothing is copied or changed. Films may be dropped anywhere on the page; files in <span class="mono">{{ shelf.inbox }}</span> appear by themselves.</p>
      </form>
    </template>
    <p v-else-if="!trouble" class="quiet">Looking at the shelf…</p>
    <ElDialog :model-value="!!removing" title="Take it off the shelf?" width="460" @close="removing = undefined">
      <p v-if="removing?.uploaded"><b>{{ stem(removing.name) }}</b> was sent to the shelf from a browser. Its copy in the inbox is deleted.</p>
      <p v-else><b>{{ removing ? stem(removing.name) : '' }}</b> leaves the shelf. The file stays where it is, untouched.</p>
      <p>Receipts and packed files are kept.</p>
      <template #footer>
        <ElButton @click="removing = undefined">Keep it</ElButton>
        <ElButton @click="remove">Take it off</ElButton>
      </template>
    </ElDialog>
  </div>
</template>

<style scoped>
.parcels {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(376px, 1fr));
  gap: 18px;
  margin: 16px 0 22px;
  padding: 0;
  list-style: none;
}

.head {
  gap: 16px;
}

.search {
  width: 200px;
}

select {
  height: 32px;
  padding: 0 8px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
}

.none {
  margin: 16px 0;
}

.empty {
  margin: 16px 0 22px;
  padding: 26px;
}

.odd {
  margin: 10px 0;
  padding: 8px 14px;
  overflow-wrap: anywhere;
}

.open {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  max-width: 980px;
}

.path {
  flex: 1;
  min-width: 300px;
}

.open p {
  flex-basis: 100%;
}

.refused {
  font-weight: 700;
}
</style>
