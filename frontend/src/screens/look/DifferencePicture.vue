<script setup lang="ts">
import { ref, watch } from 'vue'

/** What one picture has more or less than another, so many times amplified, about neutral grey: lighter where the second is brighter. */
const props = defineProps<{ left: string; right: string; factor: number }>()
const emit = defineEmits<{ ready: []; failed: [] }>()
const canvas = ref<HTMLCanvasElement>()

async function fetched(url: string): Promise<ImageData> {
  const picture = await createImageBitmap(await (await fetch(url)).blob())
  const made = new OffscreenCanvas(picture.width, picture.height)
  const pen = made.getContext('2d', { willReadFrequently: true })!
  pen.drawImage(picture, 0, 0)
  return pen.getImageData(0, 0, picture.width, picture.height)
}
let asked = 0
async function draw(): Promise<void> {
  const mine = (asked += 1)
  try {
    const [one, other] = await Promise.all([fetched(props.left), fetched(props.right)])
    if (mine !== asked || !canvas.value || one.width !== other.width || one.height !== other.height) return
    const made = new ImageData(one.width, one.height)
    for (let at = 0; at < made.data.length; at += 4) {
      for (let part = 0; part < 3; part += 1) made.data[at + part] = 128 + props.factor * (other.data[at + part] - one.data[at + part])
      made.data[at + 3] = 255
    }
    canvas.value.width = one.width
    canvas.value.height = one.height
    canvas.value.getContext('2d')!.putImageData(made, 0, 0)
    emit('ready')
  } catch {
    if (mine === asked) emit('failed')
  }
}
watch(() => [props.left, props.right, props.factor], draw, { immediate: true })
</script>

<template>
  <canvas ref="canvas" role="img" :aria-label="`the difference, ${factor} times amplified`" />
</template>
