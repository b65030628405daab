<script setup lang="ts">
import { computed } from 'vue'

import type { KeptReceipt } from '../../data/api'
import { bytes } from '../../data/words'

/** Two receipts beside one another, what was measured on each; what differs is marked. */
const props = defineProps<{ two: [KeptReceipt, KeptReceipt] }>()
const rows = computed(() => {
  const [left, right] = props.two.map(({ receipt }) => receipt)
  const codes = [...new Set([...left.rows, ...right.rows].map((row) => row.code))]
  const found = codes.map((code) => {
    const [a, b] = [left, right].map((one) => one.rows.find((row) => row.code === code))
    return { setting: (a ?? b)!.setting, left: a?.measured ?? '—', right: b?.measured ?? '—' }
  })
  return [{ setting: 'File size', left: bytes(left.size_bytes), right: bytes(right.size_bytes) }, ...found]
})
</script>

<template>
  <section class="sheet two" aria-label="Two receipts beside one another">
    <table>
      <thead><tr><th></th><th v-for="kept in two" :key="kept.job_id" class="cut">{{ kept.receipt.file_name }}</th></tr></thead>
      <tbody>
        <tr v-for="row in rows" :key="row.setting" :class="{ apart: row.left !== row.right }">
          <th scope="row">{{ row.setting }}</th><td class="mono">{{ row.left }}</td><td class="mono">{{ row.left === row.right ? 'the same' : row.right }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.two {
  margin-top: 12px;
  padding: 12px 18px;
}

table {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
}

th {
  width: 170px;
  padding: 2px 10px 2px 0;
  text-align: left;
  font-weight: 400;
}

thead th {
  width: auto;
  font: 600 15px var(--slab);
  border-bottom: 1px solid var(--ink);
}

tbody tr {
  border-bottom: 1px solid var(--line);
}

.apart td {
  font-weight: 700;
}

tr:not(.apart) {
  color: var(--second-ink);
}
</style>
