<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import type { Choices, Master, ParcelSummary } from '../../data/api'
import FramedPicture from '../../parts/FramedPicture.vue'

/** Where the destination shows another shape than the master's: bars around all of it, or its centre. */
const props = defineProps<{ master: Master; summary: ParcelSummary }>()
const emit = defineEmits<{ choose: [mode: Choices['framing']] }>()
const framing = computed(() => props.summary.plan.video!.framing.value)
const modes = [
  { mode: 'fit' as const, name: 'Fit', text: 'the whole picture between bars' },
  { mode: 'fill' as const, name: 'Fill', text: 'a crop, to the edges' },
  { mode: 'blur' as const, name: 'Blur', text: 'over its own blur' },
]
</script>

<template>
  <section v-if="framing.mode" class="framing sheet" aria-label="Framing">
    <FramedPicture :master="master" :framing="framing" :height="72" />
    <div>
      <h2>Framing <RouterLink class="all" :to="{ name: 'framing', params: { masterId: master.id } }">place it, beside all other shapes</RouterLink></h2>
      <div class="row" role="radiogroup" aria-label="Framing">
        <button
          v-for="{ mode, name, text } in modes"
          :key="mode"
          type="button"
          role="radio"
          :aria-checked="framing.mode === mode"
          :class="{ chosen: framing.mode === mode }"
          @click="emit('choose', mode)"
        >
          <span class="slab">{{ name }}</span> {{ text }}
        </button>
      </div>
    </div>
  </section>
</template>

<style scoped>
.framing {
  display: flex;
  gap: 18px;
  align-items: center;
  padding: 7px 14px;
}

.all {
  margin-left: 10px;
  font: var(--body) var(--read);
}

button {
  margin-top: 4px;
  padding: 4px 12px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
  cursor: pointer;
}

button.chosen {
  background: var(--ink);
  color: var(--sheet);
}
</style>
