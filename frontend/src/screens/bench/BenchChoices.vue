<script setup lang="ts">
import { computed } from 'vue'

import type { Choices, Offer, ParcelView } from '../../data/api'
import { bytes } from '../../data/words'

/** What may be chosen beside the bit rate, each with what it means. Empty is what the plan would take. */
const props = defineProps<{ view: ParcelView }>()
const emit = defineEmits<{ change: [part: Partial<Choices>] }>()
type Key = keyof ParcelView['offers']

const names: { key: Key; name: string }[] = [
  { key: 'method', name: 'Sent' },
  { key: 'codec', name: 'Codec' },
  { key: 'short_side_px', name: 'Frame size' },
  { key: 'frame_rate', name: 'Frame rate' },
  { key: 'rate_control', name: 'Rate control' },
  { key: 'effort', name: 'Effort' },
  { key: 'container', name: 'Container' },
  { key: 'sound_codec', name: 'Sound' },
  { key: 'max_bytes', name: 'Size limit' },
]
const shown = computed(() => names.filter(({ key }) => (props.view.offers[key]?.length ?? 0) > 1))

/** What stands chosen: the creator's choice, or what the plan took of itself. */
function value(key: Key): string {
  const { choices, plan } = props.view.parcel
  const chosen = choices[key]
  if (chosen != null && offered(key).some((offer) => offer.value === String(chosen))) return String(chosen)
  if (key === 'codec') return plan.video?.codec.value ?? ''
  if (key === 'rate_control') return plan.video?.rate_control.value ?? ''
  if (key === 'effort') return plan.video?.effort.value ?? ''
  if (key === 'container') return plan.container.value
  if (key === 'sound_codec') return plan.audio?.codec.value ?? ''
  return ''
}
/** A limit that was typed is offered too, since it stands chosen. */
function offered(key: Key): Offer[] {
  const found = props.view.offers[key] ?? []
  const own = props.view.parcel.choices.max_bytes
  if (key !== 'max_bytes' || own == null || found.some((offer) => offer.value === String(own))) return found
  return [...found, { value: String(own), words: bytes(own), because: 'your choice' }]
}
const because = (key: Key) => offered(key).find((offer) => offer.value === value(key))?.because ?? ''

function choose(key: Key, text: string): void {
  const value = text === '' ? null : key === 'short_side_px' || key === 'max_bytes' ? Number(text) : text
  emit('change', { [key]: value } as Partial<Choices>)
}
</script>

<template>
  <section v-if="shown.length" class="choices" aria-label="Choices">
    <label v-for="{ key, name } in shown" :key="key">
      <span class="slab">{{ name }}</span>
      <select :aria-label="name" :value="value(key)" @change="choose(key, ($event.target as HTMLSelectElement).value)">
        <option v-for="offer in offered(key)" :key="offer.value" :value="offer.value">{{ offer.words }}</option>
      </select>
      <span class="tiny quiet why" :title="because(key)">{{ because(key) }}</span>
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
