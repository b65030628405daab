<script setup lang="ts">
import { ElButton, ElDialog, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, Trouble, type Master } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useUploads } from '../../data/uploads'
import { bytes, stem } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'
import ArrivalList from './ArrivalList.vue'
import BatchDialog from './BatchDialog.vue'
import SelectionBar from './SelectionBar.vue'
import ShelfParcel from './ShelfParcel.vue'
import { useBatch } from './useBatch'
import { useSelection } from './useSelection'
import { openFindings, ORDERS, STATES, useShelfFilter } from './useShelfFilter'

const events = useEvents()
const router = useRouter()
const {
  value: shelf,
  trouble,
  again,
} = useAnswer((signal) => api.shelf(signal), [], [events.of('shelf', 'master', 'content', 'strip', 'receipt')])

const uploads = useUploads()
const masters = computed(() => shelf.value?.masters ?? [])
const filter = useShelfFilter(masters)
const { wanted, order, state, folder, listed } = filter
const selection = useSelection(
  computed(() => listed.value.map((master) => master.id)),
  computed(() => masters.value.map((master) => master.id)),
)
const batch = useBatch(selection.ids, again)
const jobsOf = (master: Master) =>
  events.open.filter((job) => job.master_id === master.id && (job.kind === 'check' || job.kind === 'listen'))

const removing = ref<Master>()
async function remove(): Promise<void> {
  const master = removing.value!
  removing.value = undefined
  try {
    await api.removeMaster(master.id)
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'It could not be removed from the shelf.'
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
  const caring = ready.filter((master) => openFindings(master)).length
  const bad = found.filter((master) => master.state === 'unreadable').length
  const total = bytes(ready.reduce((sum, master) => sum + master.size_bytes, 0))
  const count = (number: number, one: string, many: string) => (number === 1 ? `1 ${one}` : `${number} ${many}`)
  if (!ready.length)
    return reading ? `${count(reading, 'video is', 'videos are')} being read.` : 'No video could be read.'
  return [
    `${count(ready.length, 'video is', 'videos are')} ready to pack, ${total} in all.`,
    caring ? `Check ${count(caring, 'video', 'videos')} before packing.` : '',
    reading ? `${count(reading, 'video is', 'videos are')} being read.` : '',
    bad ? `${count(bad, 'video', 'videos')} could not be read.` : '',
  ]
    .filter(Boolean)
    .join(' ')
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
        <ElInput
          v-model="wanted"
          class="search"
          placeholder="Search: a name, or interlaced"
          aria-label="Search"
          clearable
        />
        <ElSelect v-model="state" class="pick" aria-label="Show">
          <ElOption v-for="(_, name) in STATES" :key="name" :value="name" :label="name" />
        </ElSelect>
        <ElSelect v-if="filter.folders.value.length > 1" v-model="folder" class="pick" aria-label="Folder">
          <ElOption value="" label="all folders" />
          <ElOption v-for="name in filter.folders.value" :key="name" :value="name" :label="name" />
        </ElSelect>
        <ElSelect v-model="order" class="pick" aria-label="Sorted">
          <ElOption v-for="(_, name) in ORDERS" :key="name" :value="name" :label="name" />
        </ElSelect>
      </template>
      <ElButton @click="chooser?.click()">Choose videos</ElButton>
      <input
        ref="chooser"
        type="file"
        multiple
        accept="video/*,.mkv,.mxf,.mts,.m2ts,.ts,.dv"
        class="visually-hidden"
        tabindex="-1"
        aria-label="Videos for the shelf"
        @change="chosen"
      />
    </div>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="shelf">
      <p v-if="shelf.masters.length" class="first-sentence">{{ sentence }}</p>
      <ArrivalList />
      <p v-if="shelf.stray_links.length" role="status" class="sheet odd">
        <span class="mono">{{ shelf.stray_links.join(', ') }}</span> in the inbox
        {{ shelf.stray_links.length === 1 ? 'leads' : 'lead' }} to a folder that Hardy Parcel may not use. Allow that
        folder on <RouterLink to="/machine">Line &amp; machine</RouterLink>, or put the film itself there.
      </p>
      <p v-if="shelf.unusable_names.length" role="status" class="sheet odd">
        {{
          shelf.unusable_names.length === 1
            ? 'One file in the inbox has a name'
            : `${shelf.unusable_names.length} files in the inbox have names`
        }}
        that cannot be read as text: <span class="mono">{{ shelf.unusable_names.join(', ') }}</span>. Rename
        {{ shelf.unusable_names.length === 1 ? 'it' : 'them' }} to take it up.
      </p>
      <section v-if="!shelf.masters.length" class="sheet empty">
        <h2>Nothing on the shelf yet</h2>
        <p>
          Drop a finished edit anywhere on this page, or put it into the inbox folder. Hardy Parcel opens it there and
          copies nothing:
        </p>
        <p class="mono">{{ shelf.inbox }}</p>
      </section>
      <template v-else-if="listed.length">
        <SelectionBar
          :count="selection.ids.value.length"
          :listed="listed.length"
          :is-all="selection.isAll.value"
          :busy="batch.busy.value"
          :said="batch.said.value"
          :undoable="!!batch.before.value.length"
          @all="selection.toggleAll"
          @clear="selection.clear"
          @recipe="batch.ask('recipe')"
          @destinations="batch.ask('destinations')"
          @fix="batch.fix"
          @test="batch.test"
          @pack="batch.ask('pack')"
          @remove="batch.remove"
          @undo="batch.undo"
        />
        <ul class="parcels" aria-label="Masters">
          <li v-for="master in listed" :key="master.id">
            <ShelfParcel
              :master="master"
              :jobs="jobsOf(master)"
              :chosen="selection.chosen.value.has(master.id)"
              @remove="removing = master"
              @choose="(on, range) => selection.toggle(master.id, on, range)"
            />
          </li>
        </ul>
      </template>
      <p v-else class="none">No video fits. <ElButton link @click="filter.reset()">Show all</ElButton></p>
      <form class="open" @submit.prevent="open">
        <label for="open-path">Open a file by its path</label>
        <ElInput
          id="open-path"
          v-model="path"
          placeholder="/home/keeper/films/Gale over the skerry.mp4"
          class="path mono"
        />
        <ElButton native-type="submit" :disabled="!path.trim()">Open</ElButton>
        <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
        <p v-else class="quiet tiny">
          Nothing is copied or changed. You can also drop files anywhere on this page, or put them into
          <span class="mono">{{ shelf.inbox }}</span>.
        </p>
      </form>
    </template>
    <p v-else-if="!trouble" class="quiet">Looking at the shelf…</p>
    <BatchDialog
      v-if="batch.doing.value"
      v-model="batch.asking.value"
      :masters="batch.asked.value"
      :doing="batch.doing.value"
      @changed="batch.changed"
      @packed="selection.clear"
    />
    <ElDialog :model-value="!!removing" title="Remove from shelf?" width="460" @close="removing = undefined">
      <p v-if="removing?.uploaded">
        <b>{{ stem(removing.name) }}</b> was uploaded from a browser. Its copy in the inbox is deleted.
      </p>
      <p v-else>
        <b>{{ removing ? stem(removing.name) : '' }}</b> leaves the shelf. Its file stays as it is.
      </p>
      <p>Receipts and packed files stay.</p>
      <template #footer>
        <ElButton @click="removing = undefined">Keep</ElButton>
        <ElButton @click="remove">Remove from shelf</ElButton>
      </template>
    </ElDialog>
  </div>
</template>

<style scoped>
.parcels > li {
  content-visibility: auto;
  contain-intrinsic-size: auto 232px;
}

.parcels {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(376px, 1fr));
  gap: 18px;
  margin: 16px 0 22px;
  padding: 0;
  list-style: none;
}

.head {
  flex-wrap: wrap;
  gap: 8px 12px;
}

.search {
  width: 230px;
}

.pick {
  width: 170px;
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
