<script setup lang="ts">
import { computed } from 'vue'

import { api, type Framing, type Master } from '../data/api'

/** A poster of the master as it will stand in the packed frame: cropped, or between bars. */
const props = defineProps<{ master: Master; framing: Framing; height: number; number?: number }>()

const box = computed(() => ({
  width: `${(props.height * props.framing.width) / props.framing.height}px`,
  height: `${props.height}px`,
}))
const picture = computed(() => {
  const { width, height, crop, picture: inner } = props.framing
  const video = props.master.facts!.video
  const scale = props.height / height
  const zoom = (inner.width / crop.width) * scale
  return {
    window: {
      left: `${inner.x * scale}px`,
      top: `${inner.y * scale}px`,
      width: `${inner.width * scale}px`,
      height: `${inner.height * scale}px`,
    },
    image: {
      width: `${video.display_width * zoom}px`,
      height: `${video.display_height * zoom}px`,
      left: `${-crop.x * zoom}px`,
      top: `${-crop.y * zoom}px`,
    },
    wide: width > height,
  }
})
const shown = computed(() => (props.master.strip.includes(props.number ?? 6) ? (props.number ?? 6) : (props.master.strip[0] ?? 0)))
</script>

<template>
  <div class="frame" :style="box">
    <div class="window" :style="picture.window">
      <img :src="api.stripPicture(master, shown)" alt="" :style="picture.image" />
    </div>
  </div>
</template>

<style scoped>
.frame {
  position: relative;
  flex: none;
  overflow: hidden;
  background: #000;
}

.window {
  position: absolute;
  overflow: hidden;
}

img {
  position: absolute;
  max-width: none;
}
</style>
