<script setup lang="ts">
import type { Choices } from '../../data/api'

/** Changes that go to every lane at once; each keeps its own numbers. */
const emit = defineEmits<{ change: [part: Partial<Choices>, timesGuidance: number | null] }>()
const menus: { name: string; options: { words: string; part: Partial<Choices>; times?: number }[] }[] = [
  {
    name: 'Bit rate', options: [
      { words: 'what is enough', part: { times_enough: 1, video_bitrate_bps: null } }, { words: 'what is enough, and 20 % more', part: { times_enough: 1.2, video_bitrate_bps: null } },
      { words: 'as each plan takes', part: { video_bitrate_bps: null } }, { words: 'half the guidance’s top', part: {}, times: 0.5 },
      { words: 'the guidance’s top', part: {}, times: 1 }, { words: '1.5 × guidance', part: {}, times: 1.5 }, { words: '2 × guidance', part: {}, times: 2 },
    ],
  },
  {
    name: 'Framing', options: [
      { words: 'fit, with bars', part: { framing: 'fit' } }, { words: 'fill, cropped', part: { framing: 'fill' } },
      { words: 'over its own blur', part: { framing: 'blur' } },
    ],
  },
  {
    name: 'Effort', options: [
      { words: 'quick', part: { effort: 'quick' } }, { words: 'medium', part: { effort: null } }, { words: 'careful', part: { effort: 'careful' } },
    ],
  },
  {
    name: 'Size limit', options: [
      { words: 'none of your own', part: { max_bytes: null } }, { words: '25 MB each', part: { max_bytes: 25_000_000 } },
      { words: '100 MB each', part: { max_bytes: 100_000_000 } }, { words: '500 MB each', part: { max_bytes: 500_000_000 } },
    ],
  },
  { name: 'Sound', options: [{ words: 'packed', part: { sound: true } }, { words: 'left out', part: { sound: false } }] },
]
function choose(event: Event, options: (typeof menus)[number]['options']): void {
  const select = event.target as HTMLSelectElement
  const option = options[select.selectedIndex - 1]
  select.selectedIndex = 0
  if (option) emit('change', option.part, option.times ?? null)
}
</script>

<template>
  <div class="row together" role="group" aria-label="All lanes together">
    <span class="slab">All lanes:</span>
    <select v-for="{ name, options } in menus" class="menu" :key="name" :aria-label="`${name} of all lanes`" @change="choose($event, options)">
      <option value="">{{ name }}…</option>
      <option v-for="option in options" :key="option.words" :value="option.words">{{ option.words }}</option>
    </select>
  </div>
</template>

<style scoped>
.menu {
  max-width: 132px;
}

.together {
  flex-wrap: wrap;
  gap: 8px;
}
</style>
