<script setup lang="ts">
import type { Master } from '../../data/api'
import { place, ratio } from '../../data/words'
import type { ExcerptPoints } from '../../data/useExcerptPoints'
import PlaceField from '../../parts/PlaceField.vue'

/** The excerpts of this master: which one is worked on, its points typed or taken from the place looked at. */
const props = defineProps<{ master: Master; points: ExcerptPoints; at: number; picture: number }>()
const emit = defineEmits<{
  choose: [number: number | null]
  add: [value: { in_s: string; out_s: string }]
  drop: [number: number]
}>()

function here(end: 'in' | 'out'): void {
  props.points.move(end, end === 'in' ? props.at : props.at + props.picture)
  void props.points.settle()
}
function another(): void {
  const duration = props.points.duration.value
  const from = Math.min(props.at, duration - props.picture)
  emit('add', { in_s: from.toFixed(6), out_s: Math.min(duration, from + Math.max(1, duration / 4)).toFixed(6) })
}
const length = (one: { in_s: string; out_s: string }) => place(ratio(one.out_s) - ratio(one.in_s))
</script>

<template>
  <div class="bar">
    <div class="chips" role="group" aria-label="Excerpts">
      <button type="button" class="chip" :aria-pressed="master.excerpt_number == null" @click="emit('choose', null)">Whole master</button>
      <span v-for="one in master.excerpts" :key="one.number" class="pair">
        <button type="button" class="chip" :aria-pressed="master.excerpt_number === one.number" @click="emit('choose', one.number)">
          {{ one.title }} <span class="mono">{{ length(one.excerpt) }}</span>
        </button>
        <button type="button" class="chip drop" :aria-label="`Drop ${one.title}`" title="drop this excerpt" @click="emit('drop', one.number)">×</button>
      </span>
      <button type="button" class="link" @click="another">another excerpt from here</button>
    </div>
    <span class="grow" />
    <PlaceField v-for="{ end, name } in points.ends" :key="end" :at="points.at.value[end]" :label="name.toLowerCase()" @typed="points.typed(end, $event)">
      <button type="button" class="link" :aria-label="`${name} here`" @click="here(end)">here</button>
    </PlaceField>
    <b class="mono">{{ place(points.at.value.out - points.at.value.in) }} will be packed</b>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 18px;
  margin: 8px 8px 0;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}

.pair {
  display: inline-flex;
}

.pair .chip:first-child {
  border-radius: var(--corner) 0 0 var(--corner);
}

.drop {
  padding: 1px 7px;
  border-left: none;
  border-radius: 0 var(--corner) var(--corner) 0;
}
</style>
