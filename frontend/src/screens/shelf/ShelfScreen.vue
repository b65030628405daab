<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, Trouble } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { bytes } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'
import ShelfParcel from './ShelfParcel.vue'

const events = useEvents()
const router = useRouter()
const { value: shelf, trouble, again } = useAnswer((signal) => api.shelf(signal), [() => events.changes])

const path = ref('')
const refused = ref('')
const sentence = computed(() => {
  const found = shelf.value?.masters ?? []
  const ready = found.filter((master) => master.state === 'ready')
  const reading = found.filter((master) => master.state === 'reading').length
  const bad = found.filter((master) => master.state === 'unreadable').length
  const total = bytes(ready.reduce((sum, master) => sum + master.size_bytes, 0))
  if (!ready.length) return reading ? `${reading === 1 ? 'One master is' : `${reading} masters are`} being read.` : 'No master could be read.'
  const count = ready.length === 1 ? 'One master stands' : `${ready.length} masters stand`
  return (
    `${count} ready to be packed, ${total} in all` +
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
    <h1>Shelf</h1>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="shelf">
      <p v-if="shelf.masters.length" class="first-sentence">{{ sentence }}</p>
      <section v-if="!shelf.masters.length" class="sheet empty">
        <h2>Nothing on the shelf yet</h2>
        <p>Put a finished edit into the inbox folder and it appears here by itself:</p>
        <p class="mono">{{ shelf.inbox }}</p>
      </section>
      <ul v-else class="parcels" aria-label="Masters">
        <li v-for="master in shelf.masters" :key="master.id"><ShelfParcel :master="master" /></li>
      </ul>
      <form class="open" @submit.prevent="open">
        <label for="open-path">Open a film where it lies</label>
        <ElInput id="open-path" v-model="path" placeholder="/home/keeper/films/Gale over the skerry.mp4" class="path mono" />
        <ElButton native-type="submit" :disabled="!path.trim()">Open</ElButton>
        <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
        <p v-else class="quiet tiny">Nothing is copied or changed. Files in <span class="mono">{{ shelf.inbox }}</span> appear by themselves.</p>
      </form>
    </template>
    <p v-else-if="!trouble" class="quiet">Looking at the shelf…</p>
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

.empty {
  margin: 16px 0 22px;
  padding: 26px;
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
