<script setup lang="ts">
import { computed } from 'vue'

import type { SuffersView } from '../../data/api'

/** Veils a picture the more the less it suffers there, so that what suffers most lies open; the worst block is framed and told. */
const props = defineProps<{ map: SuffersView }>()
const MOST = 0.82
const blocks = computed(() => {
  const every = props.map.rows.flat()
  const [low, high] = [Math.min(...every), Math.max(...every)]
  return props.map.rows.flatMap((row, y) =>
    row.map((value, x) => ({
      key: `${y}/${x}`, value, worst: y === props.map.worst[0] && x === props.map.worst[1],
      veil: props.map.even ? 0 : (MOST * (value - low)) / (high - low),
    })),
  )
})
</script>

<template>
  <span class="veil" role="img" :aria-label="map.sentence" :style="{ gridTemplateColumns: `repeat(${map.rows[0].length}, 1fr)` }">
    <i v-for="block in blocks" :key="block.key" :class="{ worst: block.worst }" :title="block.value.toFixed(0)" :style="{ background: `rgb(60 60 60 / ${block.veil})` }">
      <b v-if="block.worst">{{ block.value.toFixed(0) }}</b>
    </i>
  </span>
</template>

<style scoped>
.veil {
  display: grid;
  grid-auto-rows: 1fr;
}

i {
  position: relative;
}

.worst {
  outline: 2px solid #fff;
  outline-offset: -1px;
  box-shadow: 0 0 0 3px #14233b;
}

b {
  position: absolute;
  inset: auto 0 0 auto;
  padding: 0 5px;
  background: #14233b;
  color: #fff;
  font: 600 13px/18px var(--slab);
}
</style>
