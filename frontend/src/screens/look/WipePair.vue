<script setup lang="ts">
import { ref, watch } from 'vue'

/** Two pictures of the same moment on the same raster, with a wipe between them; on neutral grey. */
const props = defineProps<{ left: string; right: string; leftName: string; rightName: string; raster?: [number, number] }>()
const at = ref(50)
const stage = ref<HTMLElement>()
const loaded = ref(new Set<string>())
const failed = ref('')
watch(() => [props.left, props.right], () => (failed.value = ''))

function grab(event: PointerEvent): void {
  const target = event.currentTarget as HTMLElement
  target.setPointerCapture(event.pointerId)
  const to = (moved: PointerEvent) => {
    const box = stage.value!.getBoundingClientRect()
    at.value = Math.min(100, Math.max(0, ((moved.clientX - box.left) / box.width) * 100))
  }
  to(event)
  target.onpointermove = to
  target.onpointerup = () => (target.onpointermove = target.onpointerup = null)
}

function nudge(event: KeyboardEvent): void {
  const steps: Record<string, number> = { ArrowLeft: -2, ArrowRight: 2, Home: -100, End: 100 }
  if (!(event.key in steps)) return
  event.preventDefault()
  at.value = Math.min(100, Math.max(0, at.value + steps[event.key]))
}
</script>

<template>
  <div class="ground">
    <div ref="stage" class="stage" :style="raster ? { aspectRatio: `${raster[0]} / ${raster[1]}` } : {}" @pointerdown.prevent="grab">
      <img :src="right" :alt="`the picture as ${rightName}`" draggable="false" @load="loaded.add(right)" @error="failed = rightName" />
      <img :src="left" :alt="`the picture as ${leftName}`" draggable="false" :style="{ clipPath: `inset(0 ${100 - at}% 0 0)` }" @load="loaded.add(left)" @error="failed = leftName" />
      <span class="name left">{{ leftName }}</span>
      <span class="name right">{{ rightName }}</span>
      <span
        class="edge"
        role="slider"
        tabindex="0"
        aria-label="Wipe"
        aria-valuemin="0"
        aria-valuemax="100"
        :aria-valuenow="Math.round(at)"
        :style="{ left: `${at}%` }"
        @keydown="nudge"
      />
      <p v-if="failed" role="alert" class="over">The {{ failed }} picture could not be made. Choose another moment.</p>
      <p v-else-if="!loaded.has(left) || !loaded.has(right)" class="over">Fetching the pictures…</p>
    </div>
  </div>
</template>

<style scoped>
.ground {
  display: flex;
  justify-content: center;
  padding: 10px;
  background: var(--neutral);
}

.stage {
  position: relative;
  height: calc(100vh - 330px);
  min-height: 260px;
  max-width: 100%;
  user-select: none;
  touch-action: none;
  cursor: ew-resize;
}

img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}

.edge {
  position: absolute;
  inset-block: 0;
  width: 2px;
  margin-left: -1px;
  background: #fff;
  outline-offset: 3px;
}

.name {
  position: absolute;
  top: 8px;
  padding: 0 8px;
  background: #14233bd9;
  color: #fff;
  font: 600 14px/22px var(--slab);
}

.name.left {
  left: 8px;
}

.name.right {
  right: 8px;
}

.over {
  position: absolute;
  inset: auto 0 0;
  padding: 6px 12px;
  background: #14233bd9;
  color: #fff;
}
</style>
