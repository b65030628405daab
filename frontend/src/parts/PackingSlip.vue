<script setup lang="ts">
import type { Parcel } from '../data/api'

defineProps<{ slip: Parcel['slip'] }>()
</script>

<template>
  <section class="slip" aria-labelledby="slip-title">
    <header>
      <div>
        <h2 id="slip-title">Packing slip</h2>
        <p class="quiet tiny">every value, and why</p>
      </div>
      <slot />
    </header>
    <dl>
      <div v-for="row in slip" :key="row.setting">
        <dt>{{ row.setting }}</dt>
        <dd>
          <span class="mono" :title="row.exact ?? undefined">{{ row.value }}</span>
          <span class="because">{{ row.because }}</span>
        </dd>
      </div>
    </dl>
  </section>
</template>

<style scoped>
.slip {
  padding: 14px 18px;
  background: var(--declaration);
  border: 1px solid var(--declaration-line);
}

header {
  display: flex;
  justify-content: space-between;
  align-items: center;
}

dl {
  margin: 6px 0 0;
}

dl > div {
  display: grid;
  grid-template-columns: 92px 1fr;
  gap: 10px;
  padding: 4px 0 3px;
  border-top: 1px solid var(--declaration-line);
}

dt {
  color: var(--second-ink);
}

dd {
  margin: 0;
}

.because {
  display: block;
  font-size: var(--tiny);
  line-height: 1.3;
  color: var(--second-ink);
}
</style>
