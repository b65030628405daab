<script setup lang="ts">
import { computed, nextTick, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'

import { api } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import TroubleNote from '../../parts/TroubleNote.vue'
import ReceiptPanel from './ReceiptPanel.vue'

const events = useEvents()
const route = useRoute()
const { value: receipts, trouble, again } = useAnswer((signal) => api.receipts(signal), [], [events.of('receipt')])
const sentence = computed(() => {
  const found = receipts.value ?? []
  const differing = found.filter((kept) => kept.receipt.rows.some((row) => row.match === 'differs')).length
  if (!found.length) return ''
  const count = found.length === 1 ? 'One file was packed and read back to its end' : `${found.length} files were packed and read back to their ends`
  return differing ? `${count}; ${differing} differ from the plan, and say where.` : `${count}; everything came out as planned.`
})
watch(receipts, async (_, before) => {
  if (before || !route.hash) return
  await nextTick()
  document.getElementById(route.hash.slice(1))?.scrollIntoView({ block: 'start' })
})
</script>

<template>
  <div class="page">
    <h1>Receipts</h1>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="receipts">
      <p v-if="receipts.length" class="first-sentence">{{ sentence }}</p>
      <section v-else class="sheet empty">
        <h2>No receipts yet</h2>
        <p>Pack a parcel from the <RouterLink :to="{ name: 'shelf' }">shelf</RouterLink>; what came out is compared here with what was planned.</p>
      </section>
      <ReceiptPanel v-for="kept in receipts" :id="kept.job_id" :key="kept.job_id" :kept="kept" />
    </template>
  </div>
</template>

<style scoped>
.empty {
  margin-top: 16px;
  padding: 26px;
}
</style>
