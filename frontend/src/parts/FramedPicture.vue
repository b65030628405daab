<script setup lang="ts">
import { computed } from 'vue'

import { api, type Framing, type Master } from '../data/api'

/** A picture of the master as it will stand in the packed frame: cropped, between bars, or over its own blur. */
const props = defineProps<{ master: Master; framing: Framing; height: number; number?: number; source?: string }>()

const box = computed(() => ({
  width: `${(props.height * props.framing.width) / props.framing.height}px`,
  height: `${props.height}px`,
}))

/** Where the whole master's picture lies so that its kept part fills a window of this size in px at this place. */
function placed(left: number, top: number, width: number, height: number, zoom: number) {
  const { crop } = props.framing
  const video = props.master.facts!.video
  return {
    width: `${video.display_width * zoom}px`,
    height: `${video.display_height * zoom}px`,
    left: `${left + width / 2 - (crop.x + crop.width / 2) * zoom}px`,
    top: `${top + height / 2 - (crop.y + crop.height / 2) * zoom}px`,
  }
}
const picture = computed(() => {
  const { width, height, crop, picture: inner } = props.framing
  const scale = props.height / height
  const cover = Math.max((width * scale) / crop.width, (height * scale) / crop.height)
  return {
    window: { left: `${inner.x * scale}px`, top: `${inner.y * scale}px`, width: `${inner.width * scale}px`, height: `${inner.height * scale}px` },
    image: placed(0, 0, inner.width * scale, inner.height * scale, (inner.width / crop.width) * scale),
    behind: {
      left: `${(width * scale - crop.width * cover) / 2}px`, top: `${(height * scale - crop.height * cover) / 2}px`,
      width: `${crop.width * cover}px`, height: `${crop.height * cover}px`,
      filter: `blur(${(Math.min(width, height) * scale * 0.04).toFixed(1)}px)`,
    },
    copy: placed(0, 0, crop.width * cover, crop.height * cover, cover),
  }
})
const blurred = computed(() => {
  const { width, height, picture: inner } = props.framing
  return props.framing.mode === 'blur' && (inner.width < width || inner.height < height)
})
const strip = computed(() => (props.master.strip.includes(props.number ?? 6) ? (props.number ?? 6) : (props.master.strip[0] ?? 0)))
/** None before the first picture of the strip is made. */
const shown = computed(() => props.source ?? (props.master.strip.length ? api.stripPicture(props.master, strip.value) : undefined))
</script>

<template>
  <div class="frame" :style="box">
    <div v-if="blurred && shown" class="window behind" :style="picture.behind"><img :src="shown" alt="" :style="picture.copy" /></div>
    <div class="window" :style="picture.window">
      <img v-if="shown" :src="shown" alt="" :style="picture.image" />
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

/* A little larger, since a blur lets the ground shine in at its edges. */
.behind {
  transform: scale(1.08);
}

img {
  position: absolute;
  max-width: none;
}
</style>
