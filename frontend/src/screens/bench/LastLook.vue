<script setup lang="ts">
import type { LastLook } from '../../data/api'

/** The master beside its parcel; what changes stands out, all else is quiet. */
defineProps<{ look: LastLook }>()
</script>

<template>
  <table class="look">
    <thead>
      <tr><th scope="col"><span class="visually-hidden">Matter</span></th><th scope="col">Master</th><th scope="col">Parcel</th></tr>
    </thead>
    <tbody>
      <tr v-for="row in look.rows" :key="row.matter" :class="{ changes: row.changes }">
        <th scope="row">{{ row.matter }}</th>
        <td>{{ row.master }}</td>
        <td><span v-if="row.changes" aria-label="becomes">→ </span>{{ row.parcel }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.look {
  width: 100%;
  margin-top: 12px;
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}

th,
td {
  width: 40%;
  padding: 2px 10px 2px 0;
  text-align: left;
  font-weight: 400;
  color: var(--second-ink);
  vertical-align: top;
}

th:first-child {
  width: 20%;
}

thead th {
  border-bottom: 1px solid var(--ink);
}

thead th,
.changes td {
  color: var(--ink);
}

.changes td:last-child {
  font-weight: 700;
}
</style>
