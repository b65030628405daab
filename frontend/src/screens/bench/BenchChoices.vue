<script setup lang="ts">
import { computed } from 'vue'

import type { Choices, Offered, ParcelView } from '../../data/api'

/** What may be chosen beside the bit rate, each with what it means; and which part of the master is packed. */
const props = defineProps<{ view: ParcelView }>()
const emit = defineEmits<{ change: [part: Partial<Choices>]; excerpt: [at: number] }>()
const because = ({ offers, value }: Offered) => offers.find((offer) => offer.value === value)?.because ?? ''
const excerpts = computed(() => props.view.excerpts ?? [])

function choose({ key, number }: Offered, text: string): void {
  emit('change', { [key]: text === '' ? null : number ? Number(text) : text } as Partial<Choices>)
}
</script>

<template>
  <section v-if="view.offers?.length || excerpts.length > 1" class="choices" aria-label="Choices">
    <label v-if="excerpts.length > 1">
      <span class="slab">Excerpt</span>
      <select aria-label="Excerpt" :value="excerpts.findIndex((one) => one.chosen)" @change="emit('excerpt', Number(($event.target as HTMLSelectElement).value))">
        <option v-for="(one, at) in excerpts" :key="at" :value="at">{{ one.name }}</option>
      </select>
      <span class="tiny quiet why">of this parcel alone</span>
    </label>
    <label v-for="offered in view.offers" :key="offered.key">
      <span class="slab">{{ offered.name }}</span>
      <select :aria-label="offered.name" :value="offered.value" @change="choose(offered, ($event.target as HTMLSelectElement).value)">
        <option v-for="offer in offered.offers" :key="offer.value" :value="offer.value">{{ offer.words }}</option>
      </select>
      <span class="tiny quiet why" :title="because(offered)">{{ because(offered) }}</span>
    </label>
  </section>
</template>

<style scoped>
.choices {
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 6px 14px;
}

label {
  display: block;
  min-width: 0;
}

.slab {
  display: block;
  font-size: 13px;
}

select {
  width: 100%;
  padding: 2px 4px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: 13px var(--mono);
}

.why {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
