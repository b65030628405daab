<script setup lang="ts">
import { ref, watch } from 'vue'

/** Two pictures of the same moment beside each other, each in its own shape, on neutral grey. */
const props = defineProps<{ pictures: { url: string; name: string; raster: [number, number] }[] }>()
const failed = ref('')
watch(() => props.pictures.map((one) => one.url).join(), () => (failed.value = ''))
</script>

<template>
  <div class="ground">
    <figure v-for="picture in pictures" :key="picture.url" :style="{ flex: `0 1 ${(picture.raster[0] / picture.raster[1]) * 1000}px` }">
      <img :src="picture.url" :alt="`the picture as ${picture.name}`" :width="picture.raster[0]" :height="picture.raster[1]" draggable="false" @error="failed = picture.name" />
      <figcaption>{{ picture.name }}</figcaption>
    </figure>
    <p v-if="failed" role="alert" class="over">The picture of {{ failed }} could not be made. Choose another moment.</p>
  </div>
</template>

<style scoped>
.ground {
  position: relative;
  display: flex;
  justify-content: center;
  gap: 10px;
  padding: 10px;
  background: var(--neutral);
}

figure {
  position: relative;
  min-width: 0;
  margin: 0;
}

img {
  display: block;
  width: auto;
  max-width: 100%;
  height: auto;
  max-height: calc(100vh - 360px);
  min-height: 120px;
  object-fit: contain;
  margin: 0 auto;
}

figcaption {
  position: absolute;
  top: 8px;
  left: 8px;
  max-width: calc(100% - 16px);
  padding: 0 8px;
  background: #14233bd9;
  color: #fff;
  font: 600 14px/22px var(--slab);
}

.over {
  position: absolute;
  inset: auto 0 0;
  padding: 6px 12px;
  background: #14233bd9;
  color: #fff;
}
</style>
