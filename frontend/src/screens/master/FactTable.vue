<script setup lang="ts">
import type { CheckView } from '../../data/api'

/** The facts, with the measurement beside the flag where the two disagree. */
defineProps<{ rows: CheckView['facts']; seen: number; whole: number }>()
</script>

<template>
  <section class="facts" aria-label="Facts">
    <dl>
      <template v-for="row in rows" :key="row.name">
        <dt>{{ row.name }}</dt>
        <dd>
          {{ row.value }}<b v-if="row.measured" class="measured">{{ row.measured }}</b>
        </dd>
      </template>
    </dl>
    <p v-if="seen" class="tiny quiet">Measured on {{ seen }} of {{ whole }} pictures<template v-if="seen < whole">, spread over the film</template>.</p>
  </section>
</template>

<style scoped>
.facts {
  max-height: 352px;
  overflow-y: auto;
}

dl {
  display: grid;
  grid-template-columns: 82px 1fr;
  gap: 3px 10px;
  margin: 0;
  font-size: 13px;
}

dt {
  color: var(--second-ink);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

.measured {
  display: block;
  color: var(--care);
}
</style>
