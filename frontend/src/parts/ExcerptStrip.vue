<script setup lang="ts">
import { computed, ref } from 'vue'

import { api, type Master } from '../data/api'
import type { End, ExcerptPoints } from '../data/useExcerptPoints'
import { place } from '../data/words'
import PlaceField from './PlaceField.vue'

/** The poster strip with the in and the out point: dragged, nudged with arrow keys, or typed in seconds. */
const props = defineProps<{ master: Master; points: ExcerptPoints }>()
const emit = defineEmits<{ choose: [number: number | null] }>()
const { at, ends, duration, move, settle, type: nudge, typed } = props.points
const pictures = computed(() => {
  const made = [...props.master.strip].sort((a, b) => a - b)
  return made.length > 10 ? made.filter((_, i) => i % 3 === 1) : made
})

const track = ref<HTMLElement>()
function drag(end: End, event: PointerEvent): void {
  const handle = event.currentTarget as HTMLElement
  handle.setPointerCapture(event.pointerId)
  handle.onpointermove = (moved) => {
    const box = track.value!.getBoundingClientRect()
    move(end, ((moved.clientX - box.left) / box.width) * duration.value)
  }
  handle.onpointerup = () => {
    handle.onpointermove = handle.onpointerup = null
    void settle()
  }
}

const left = computed(() => `${(at.value.in / duration.value) * 100}%`)
const right = computed(() => `${100 - (at.value.out / duration.value) * 100}%`)
</script>

<template>
  <div class="excerpt">
    <div ref="track" class="strip">
      <img v-for="number in pictures" :key="number" :src="api.stripPicture(master, number)" alt="" />
      <span class="veil" :style="{ left: '0', width: left }" />
      <span class="veil" :style="{ right: '0', width: right }" />
      <span
        v-for="{ end, name } in ends"
        :key="end"
        class="point"
        :class="end"
        role="slider"
        tabindex="0"
        :aria-label="name"
        :aria-valuemin="0"
        :aria-valuemax="duration"
        :aria-valuenow="at[end]"
        :aria-valuetext="place(at[end])"
        :style="end === 'in' ? { left } : { right }"
        @pointerdown.prevent="drag(end, $event)"
        @keydown="nudge(end, $event)"
      />
    </div>
    <div class="typed mono">
      <PlaceField v-for="{ end, name } in ends" :key="end" :at="at[end]" :label="name.toLowerCase()" @typed="typed(end, $event)" />
      <span>{{ place(at.out - at.in) }} will be packed</span>
      <button v-if="master.excerpt" type="button" class="link" @click="emit('choose', null)">take the whole master</button>
      <label v-if="master.excerpts.length > 1">
        <span class="quiet">of</span>
        <select
          aria-label="Excerpt" :value="master.excerpt_number ?? ''"
          @change="emit('choose', Number(($event.target as HTMLSelectElement).value) || null)"
        >
          <option value="">the whole master</option>
          <option v-for="one in master.excerpts" :key="one.number" :value="one.number">{{ one.title }}</option>
        </select>
      </label>
    </div>
  </div>
</template>

<style scoped>
.excerpt {
  flex: 1;
  min-width: 0;
}

.strip {
  position: relative;
  display: flex;
  height: 44px;
  margin: 0 7px;
  user-select: none;
  touch-action: none;
  background: var(--neutral);
}

.strip img {
  flex: 1;
  min-width: 0;
  height: 100%;
  object-fit: cover;
  pointer-events: none;
}

.veil {
  position: absolute;
  inset-block: 0;
  background: color-mix(in srgb, var(--sheet) 78%, transparent);
}

.point {
  position: absolute;
  inset-block: -3px;
  width: 7px;
  border: 2px solid var(--ink);
  background: var(--sheet);
  cursor: ew-resize;
}

.point.in {
  margin-left: -7px;
  border-right-width: 3px;
}

.point.out {
  margin-right: -7px;
  border-left-width: 3px;
}

.point::before {
  content: '';
  position: absolute;
  inset: -6px -9px;
}

.typed {
  display: flex;
  align-items: center;
  gap: 18px;
  margin-top: 5px;
}

.typed label {
  display: flex;
  gap: 6px;
  align-items: center;
}

select {
  padding: 0 4px;
  border: 1px solid var(--line);
  border-radius: var(--corner);
  background: var(--sheet);
  color: inherit;
  font: inherit;
}
</style>
