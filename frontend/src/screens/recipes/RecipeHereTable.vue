<script setup lang="ts">
import type { RecipeHere } from '../../data/api'

/** What a recipe comes to on a master: what is otherwise than where it was made, and why; and what differs from today's choices. */
defineProps<{ here: RecipeHere }>()
</script>

<template>
  <div v-for="(part, at) in here.parts" :key="at" class="part">
    <h3>{{ part.name ?? part.destination_id }}</h3>
    <p v-if="part.missing" class="quiet">left out: {{ part.missing }}</p>
    <template v-else>
      <p v-if="part.differs.length" class="tiny">
        <b>Differs from what is chosen there now:</b>
        <span v-for="row in part.differs" :key="row.setting" class="differs">{{ row.setting }}: {{ row.before }} <span class="quiet">(now {{ row.after }})</span></span>
      </p>
      <table v-if="part.adapts.length">
        <thead><tr><th>Adapts</th><th>Where it was made</th><th>Here</th><th>Because</th></tr></thead>
        <tbody>
          <tr v-for="row in part.adapts" :key="row.setting">
            <th scope="row">{{ row.setting }}</th>
            <td class="mono">{{ row.before }}</td>
            <td class="mono">{{ row.after }}</td>
            <td class="tiny">{{ row.because }}</td>
          </tr>
        </tbody>
      </table>
      <p v-else class="quiet tiny">Every value comes out as where it was made.</p>
    </template>
  </div>
</template>

<style scoped>
.part {
  margin-top: 8px;
}

h3 {
  font-size: 15px;
}

table {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}

th,
td {
  padding: 2px 10px 2px 0;
  text-align: left;
  vertical-align: top;
  font-weight: 400;
  overflow-wrap: anywhere;
}

th:first-child {
  width: 110px;
}

thead th {
  font-size: 13px;
  color: var(--second-ink);
  border-bottom: 1px solid var(--line);
}

th:nth-child(2),
th:nth-child(3) {
  width: 24%;
}

.differs {
  display: inline-block;
  margin-left: 12px;
}
</style>
