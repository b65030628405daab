<script setup lang="ts">
import { ElInput } from 'element-plus'
import { computed, nextTick, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { api, type KeptReceipt } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import TroubleNote from '../../parts/TroubleNote.vue'
import HandoffCheck from './HandoffCheck.vue'
import ReceiptRow from './ReceiptRow.vue'
import TwoReceipts from './TwoReceipts.vue'

const events = useEvents()
const route = useRoute()
const { value: receipts, trouble, again, set } = useAnswer((signal) => api.receipts(signal), [], [events.of('receipt')])
const { value: briefs } = useAnswer((signal) => api.sentBriefs(signal), [], [events.of('sending', 'receipt')])
const brief = (id: string) => briefs.value?.find((one) => one.receipt_id === id)
const { value: returned } = useAnswer((signal) => api.returned(signal), [], [events.of('returned')])
const sentence = computed(() => {
  const found = receipts.value ?? []
  const differing = found.filter((kept) => kept.receipt.rows.some((row) => row.match === 'differs')).length
  if (!found.length) return ''
  const count = found.length === 1 ? 'One file was packed and read back to its end' : `${found.length} files were packed and read back to their ends`
  return differing ? `${count}; ${differing === 1 ? 'one differs' : `${differing} differ`} from the plan, and ${differing === 1 ? 'says' : 'say'} where.` : `${count}; everything came out as planned.`
})
const wanted = ref('')
const shown = computed(() => {
  const words = wanted.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (receipts.value ?? []).filter(({ receipt, master_name, destination_id }) => {
    const text = `${receipt.file_name} ${receipt.folder} ${master_name} ${destination_id} ${receipt.serves?.join(' ') ?? ''} ${receipt.sha256}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
})
const opened = ref<string[]>([])
const toggle = (id: string) => (opened.value = opened.value.includes(id) ? opened.value.filter((one) => one !== id) : [...opened.value, id])
const ticked = ref<string[]>([])
const tick = (id: string, on: boolean) => (ticked.value = on ? [...ticked.value.slice(-1), id] : ticked.value.filter((one) => one !== id))
const two = computed(() => {
  const found = ticked.value.map((id) => receipts.value?.find((kept) => kept.job_id === id)).filter((one): one is KeptReceipt => !!one)
  return found.length === 2 ? ([found[0], found[1]] as [KeptReceipt, KeptReceipt]) : null
})
const said = ref('')
const attempt = async (act: () => Promise<string>) => {
  try {
    said.value = await act()
  } catch (error) {
    said.value = (error as Error).message
  }
}
const remove = (kept: KeptReceipt) => attempt(async () => (set(await api.removeReceipt(kept.job_id)), `The receipt of ${kept.receipt.file_name} is removed; the file stays where it is.`))
const sums = (kept: KeptReceipt) => attempt(async () => {
  const written = await api.writeSums(kept.receipt.folder)
  return `${written.path} names ${written.files === 1 ? 'one file' : `${written.files} files`}; sha256sum -c checks ${written.files === 1 ? 'it' : 'them'}.`
})
watch([receipts, () => route.hash], async ([now], [before]) => {
  const id = route.hash.slice(1)
  if (!now || !id || (before && opened.value.includes(id))) return
  opened.value = [...opened.value, id]
  await nextTick()
  document.getElementById(id)?.scrollIntoView({ block: 'start' })
})
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Receipts</h1>
      <span class="grow" />
      <ElInput v-if="(receipts?.length ?? 0) > 1" v-model="wanted" class="search" clearable placeholder="Search file, film, destination or checksum" aria-label="Search receipts" />
    </div>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="receipts">
      <p v-if="receipts.length" class="first-sentence">{{ sentence }}</p>
      <section v-else class="sheet empty">
        <h2>No receipts yet</h2>
        <p>Pack a parcel from the <RouterLink :to="{ name: 'shelf' }">shelf</RouterLink>; what came out is compared here with what was planned.</p>
      </section>
      <HandoffCheck v-if="receipts.length" :receipts="receipts" />
      <p v-if="said" role="status" class="said">{{ said }}</p>
      <TwoReceipts v-if="two" :two="two" />
      <p v-else-if="ticked.length" class="tiny quiet said">Tick a second one to see the two beside one another.</p>
      <div v-if="shown.length" class="lines">
        <ReceiptRow
          v-for="kept in shown" :key="kept.job_id" :kept="kept" :open="opened.includes(kept.job_id)" :ticked="ticked.includes(kept.job_id)" :sent="brief(kept.job_id)"
          @toggle="toggle(kept.job_id)" @tick="tick(kept.job_id, $event)" @remove="remove(kept)" @sums="sums(kept)"
        />
      </div>
      <p v-if="receipts.length && !shown.length" class="quiet said">No receipt says that. <button type="button" class="link" @click="wanted = ''">Show all</button></p>
      <section v-if="returned?.length" class="returned" aria-label="What platforms served">
        <h2>What platforms served</h2>
        <ul>
          <li v-for="one in returned" :key="one.id"><RouterLink :to="{ name: 'learn', params: { returnedId: one.id } }">{{ one.file_name }}</RouterLink> <span class="quiet">{{ one.destination_name }} · {{ one.sentence }}</span></li>
        </ul>
      </section>
    </template>
  </div>
</template>

<style scoped>
.empty {
  margin-top: 16px;
  padding: 26px;
}

.search {
  width: 360px;
}

.lines {
  margin-top: 10px;
  border-top: 2px solid var(--ink);
}

.returned {
  margin-top: 22px;
}

.returned h2 {
  font-size: 17px;
}

.returned ul {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}

.returned li {
  padding: 4px 0;
  border-bottom: 1px dashed var(--line);
}

.said {
  margin-top: 8px;
}
</style>
