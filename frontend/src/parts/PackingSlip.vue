<script setup lang="ts">
import type { ParcelSummary } from '../data/api'

/** The plan, line by line; `told` is what the encoder hears, by its own names. */
defineProps<{ slip: ParcelSummary['slip']; told?: Record<string, string> }>()
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
    <slot name="guidance" />
    <dl>
      <div v-for="row in slip" :key="row.setting">
        <dt>{{ row.setting }}</dt>
        <dd>
          <span class="mono" :title="row.exact ?? undefined">{{ row.value }}</span>
          <span class="because">{{ row.because }}</span>
          <span v-if="row.instead" class="because instead">we would have taken {{ row.instead }}: {{ row.instead_because }}</span>
        </dd>
      </div>
    </dl>
    <details v-if="told && Object.keys(told).length">
      <summary class="tiny">what the encoder is told</summary>
      <p class="mono told">
        <span v-for="(value, name) in told" :key="name">{{ name }} <b>{{ value }}</b></span>
      </p>
    </details>
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

.instead {
  padding-left: 8px;
  border-left: 2px solid var(--twine);
}

details {
  padding-top: 5px;
  border-top: 1px solid var(--declaration-line);
}

summary {
  cursor: pointer;
}

.told {
  display: flex;
  flex-wrap: wrap;
  gap: 1px 12px;
  font-size: 12px;
}
</style>
