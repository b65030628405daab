<script setup lang="ts">
import { ref, watch } from 'vue'

/** Two pictures of the same moment beside each other, each in its own shape, on neutral grey. */
const props = defineProps<{ pictures: { url: string; name: string; raster: [number, number] }[] }>()
const loaded = ref(new Set<string>())
const failed = ref('')
watch(() => props.pictures.map((one) => one.url).join(), () => (failed.value = ''))
</script>

<template>
  <div class="ground">
    <figure v-for="picture in pictures" :key="picture.url" :style="{ '--shape': picture.raster[0] / picture.raster[1] }">
      <img :src="picture.url" :alt="`the picture as ${picture.name}`" draggable="false" @load="loaded.add(picture.url)" @error="failed = picture.name" />
      <figcaption class="cut">{{ picture.name }}</figcaption>
    </figure>
    <p v-if="failed" role="alert" class="over">The picture of {{ failed }} could not be made. Choose another moment.</p>
    <p v-else-if="pictures.some((one) => !loaded.has(one.url))" class="over">Fetching the pictures…</p>
  </div>
</template>

<style scoped>
.ground {
  --high: max(160px, calc(100vh - 340px));
  position: relative;
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 10px;
  padding: 10px;
  background: var(--neutral);
}

figure {
  position: relative;
  flex: 0 1 calc(var(--high) * var(--shape));
  aspect-ratio: var(--shape);
  min-width: 0;
  max-width: calc(50% - 5px);
  margin: 0;
}

img {
  display: block;
  width: 100%;
  height: 100%;
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
