<script setup lang="ts">
import { computed } from 'vue'

import type { Master, ShapeHere } from '../../data/api'
import FramedPicture from '../../parts/FramedPicture.vue'

/** One destination's shape: what it keeps, and how it will stand on a phone, a laptop and a TV, all to one scale. */
const props = defineProps<{ master: Master; shape: ShapeHere; chosen: boolean; source?: string; scale: number }>()
defineEmits<{ choose: [] }>()
const MODES = { fit: 'with bars', fill: 'filled', blur: 'over its blur' }
const figures = computed(() => {
  const { enlargement, kept, own } = props.shape
  const size =
    enlargement > 1.001
      ? `enlarged ${enlargement.toFixed(2)} ×`
      : enlargement < 0.999
        ? `scaled to ${Math.round(enlargement * 100)} %`
        : 'pixel for pixel'
  return own ? size : `${Math.round(kept * 100)} % kept, ${size}`
})
</script>

<template>
  <div class="shape" :class="{ chosen }">
    <button type="button" class="what" :aria-pressed="chosen" @click="$emit('choose')">
      <span class="slab name">{{ shape.name }}</span>
      <span class="quiet tiny cut" :title="shape.placement">{{ shape.placement }}</span>
      <span class="slab">{{ shape.shape }}</span>
      <span class="tiny">{{ shape.own ? 'as the picture is' : MODES[shape.mode] }}</span>
      <span class="tiny figures">{{ figures }}</span>
    </button>
    <figure
      v-for="stand in shape.stands"
      :key="stand.screen"
      :style="{ width: `${Math.max(stand.screen_width * scale, 70)}px` }"
    >
      <div
        class="device"
        :class="stand.screen"
        :style="{ width: `${stand.screen_width * scale}px`, height: `${stand.screen_height * scale}px` }"
      >
        <FramedPicture
          :master="master"
          :framing="shape.framing"
          :height="stand.frame_height * scale"
          :source="source"
        />
      </div>
      <figcaption
        class="tiny"
        :title="`The picture is ${stand.picture_height} of the ${stand.screen_height} pixels high that an eye tells apart on this screen`"
      >
        {{ stand.picture_height }} of {{ stand.screen_height }}
      </figcaption>
    </figure>
  </div>
</template>

<style scoped>
.shape {
  display: grid;
  grid-template-columns: minmax(150px, 1fr) auto auto auto;
  gap: 14px;
  align-items: center;
  padding: 5px 10px;
  border: 1px solid transparent;
  border-bottom: 1px dashed var(--line);
}

.shape.chosen {
  border: 1px solid var(--ink);
  background: var(--sheet);
}

.what {
  min-width: 0;
  padding: 0;
  border: none;
  background: none;
  color: inherit;
  font: inherit;
  line-height: 1.35;
  text-align: left;
  cursor: pointer;
}

.name {
  font-size: 16px;
  text-decoration: underline;
  text-decoration-color: var(--twine);
  text-underline-offset: 3px;
}

.what .cut,
.figures {
  display: block;
}

figure {
  display: grid;
  justify-items: center;
  gap: 2px;
  margin: 0;
}

.device {
  display: grid;
  place-items: center;
  background: #000;
  outline: 1.5px solid var(--second-ink);
}

figcaption {
  color: var(--second-ink);
  white-space: nowrap;
}
</style>
