<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type KeptReceipt } from '../../data/api'
import { bytes, seconds, stem } from '../../data/words'
import SentPanel from './SentPanel.vue'
import SoundBeforeAfter from './SoundBeforeAfter.vue'

const props = defineProps<{ kept: KeptReceipt }>()
const receipt = computed(() => props.kept.receipt)
const when = computed(() => new Date(props.kept.made_at * 1000).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' }))
</script>

<template>
  <section class="sheet receipt" :aria-label="receipt.file_name">
    <p class="quiet">
      {{ when }}, from
      <RouterLink v-if="kept.parcel_id" :to="{ name: 'bench', params: { parcelId: kept.parcel_id } }">{{ stem(kept.master_name) }}</RouterLink>
      <template v-else>{{ stem(kept.master_name) }}</template>
      · {{ bytes(receipt.size_bytes) }} · {{ receipt.pictures }} frames packed in {{ seconds(receipt.encode_s) }}<template v-if="(receipt.tries ?? 1) > 1">, in {{ receipt.tries }} tries until it kept below its limit</template> · in
      <span class="mono">{{ receipt.folder }}</span><template v-if="receipt.beside?.length">, captions in <span class="mono">{{ receipt.beside.join(', ') }}</span></template><template v-if="receipt.serves?.length">. It goes to <b>{{ receipt.serves.join(', ') }}</b></template>
    </p>
    <table>
      <thead>
        <tr><th>Setting</th><th>Planned</th><th>Measured on the file</th><th></th></tr>
      </thead>
      <tbody>
        <tr v-for="row in receipt.rows" :key="row.code" :class="row.match.split(' ')[0]">
          <th scope="row">{{ row.setting }}</th>
          <td class="mono">{{ row.planned }}</td>
          <td class="mono">{{ row.measured }}</td>
          <td><span class="verdict">{{ row.match === 'as planned' ? '✓ as planned' : row.match === 'explained' ? '≈ explained' : '≠ differs' }}</span> <span v-if="row.note" class="quiet tiny">{{ row.note }}</span></td>
        </tr>
      </tbody>
    </table>
    <section v-if="receipt.judged" class="seen" aria-label="Picture before and after">
      <h3>Picture</h3>
      <p>
        Packed, it looks <b>{{ receipt.judged.condition.toFixed(0) }}</b> of 100 on a laptop, {{ receipt.judged.words }}<template v-if="receipt.judged.changed">; {{ receipt.judged.changed }}</template>:
        measured on {{ receipt.judged_pictures }} pictures of the file beside the master. This is its poorest, at {{ seconds(receipt.poorest_s ?? 0) }}.
        <RouterLink :to="{ name: 'film-look', params: { receiptId: kept.job_id } }">Look at every picture</RouterLink>
      </p>
      <div class="pair">
        <figure><img :src="api.still(kept.job_id, 'before')" alt="The master’s picture" loading="lazy" /><figcaption>master</figcaption></figure>
        <figure><img :src="api.still(kept.job_id, 'after')" alt="The packed picture" loading="lazy" /><figcaption>packed</figcaption></figure>
      </div>
    </section>
    <SoundBeforeAfter v-if="receipt.sound" :story="receipt.sound" />
    <SentPanel :receipt-id="kept.job_id" />
    <p class="mono tiny sum">SHA-256 {{ receipt.sha256 }}</p>
  </section>
</template>

<style scoped>
.receipt {
  margin: 2px 0 12px;
  padding: 10px 18px;
}

table {
  width: 100%;
  margin-top: 8px;
  border-collapse: collapse;
  table-layout: fixed;
}

th {
  padding: 2px 10px 2px 0;
  text-align: left;
  font-weight: 400;
}

thead th:first-child {
  width: 150px;
}

thead th:nth-child(2),
thead th:nth-child(3) {
  width: 24%;
}

thead th {
  color: var(--second-ink);
  font-family: var(--slab);
  font-weight: 600;
  border-bottom: 1px solid var(--ink);
}

td {
  padding: 2px 10px 2px 0;
}

tbody tr {
  border-bottom: 1px solid var(--line);
}

.as .verdict {
  color: var(--cleared);
}

.explained .verdict {
  color: var(--care);
}

.differs .verdict {
  font-weight: 700;
}

.seen {
  margin-top: 12px;
}

.pair {
  display: flex;
  gap: 12px;
  margin-top: 6px;
  padding: 10px;
  background: #808080;
}

.pair figure {
  flex: 1 1 0;
  min-width: 0;
  margin: 0;
  text-align: center;
}

.pair img {
  max-width: 100%;
  max-height: 260px;
}

.pair figcaption {
  color: #000;
  font-weight: 700;
}

.sum {
  margin-top: 8px;
  overflow-wrap: anywhere;
  color: var(--second-ink);
}
</style>
