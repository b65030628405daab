<script setup lang="ts">
import { ElButton, ElDialog, ElSlider } from 'element-plus'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { api, type Master, type ShapeHere, type ShapeWish } from '../../data/api'
import DraftInput from '../../parts/DraftInput.vue'
import ShapeModes from '../../parts/ShapeModes.vue'

/** The chosen shape: how it is filled, its ratio, its zoom, whether it follows the common focus, and what it cuts away. */
const props = defineProps<{ master: Master; shape: ShapeHere; picture: number }>()
const emit = defineEmits<{ wish: [change: Partial<ShapeWish>]; nudge: [change: Partial<ShapeWish>] }>()
const lost = computed(() => {
  const found = Object.entries(props.shape.lost)
    .filter(([, share]) => share > 0.0005)
    .map(([side, share]) => `${side} ${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`)
  return found.length ? found.join(', ') : 'nothing'
})
const covered = computed(() => {
  const found = Object.entries(props.shape.covered ?? {})
    .filter(([, share]) => share)
    .map(([side, share]) => `${Math.round(Number(share) * 100)} % at the ${side}`)
  return found.join(', ')
})
function typed(text: string): void {
  const clean = text.trim().replace(',', '.').replace(/\s/g, '')
  emit('wish', { shape: clean === '' ? null : clean })
}
/** What the slider was moved to last: keys come faster than answers, and an earlier answer must not take it back. */
const zoomed = ref<number>()
const answered = useDebounceFn(() => (zoomed.value = undefined), 1500)
function zoom(value: number): void {
  zoomed.value = value
  emit('nudge', { zoom: value })
  void answered()
}
watch(
  () => props.shape.parcel_id,
  () => (zoomed.value = undefined),
)
const exact = ref(false)
const exactly = computed(() => api.framedPicture(props.shape.parcel_id, props.picture))
const tall = computed(() => props.shape.framing.height > props.shape.framing.width)
</script>

<template>
  <section class="sheet controls" :aria-label="`Shape of ${shape.name}`">
    <div class="row head">
      <h2>{{ shape.name }}, {{ shape.placement }}</h2>
      <span class="quiet tiny grow cut" :title="shape.sentence">{{ shape.sentence }}</span>
      <ElButton size="small" @click="exact = true">See it as packed</ElButton>
    </div>
    <div class="lines">
      <ShapeModes :mode="shape.own_mode" inherits label="Framing" @choose="emit('wish', { framing: $event })"
        >Framing</ShapeModes
      >
      <label class="row">
        <span>Shape</span>
        <DraftInput
          class="mono ratio"
          :text="shape.wished_shape ? shape.shape : ''"
          :placeholder="shape.shape"
          aria-label="Shape, such as 4:5 or 2.39:1"
          @typed="typed"
        />
        <span class="quiet tiny">takes {{ shape.taken }}</span>
      </label>
      <div class="row zoom">
        <span>Zoom</span>
        <ElSlider
          :min="1"
          :max="4"
          :step="0.01"
          :model-value="zoomed ?? Math.min(4, shape.zoom)"
          :show-tooltip="false"
          aria-label="Zoom"
          @input="zoom(Number($event))"
        />
        <span class="mono">{{ (zoomed ?? shape.zoom).toFixed(2) }} ×</span>
      </div>
      <p v-if="shape.own_focus" class="row">
        <span>placed by hand</span>
        <ElButton link @click="emit('wish', { focus: null })">Use the shared focus point</ElButton>
      </p>
      <p v-else class="quiet">Uses the shared focus point; drag the frame to place it alone</p>
    </div>
    <p class="facts">
      <span
        >Lost: <b>{{ lost }}</b></span
      >
      <span
        >Frame <b class="mono">{{ shape.framing.width }}×{{ shape.framing.height }}</b
        >, kept <b class="mono">{{ shape.framing.crop.width }}×{{ shape.framing.crop.height }}</b></span
      >
      <span v-if="covered"
        >Its own page covers <b>{{ covered }}</b> (shaded)</span
      >
    </p>
    <ElDialog
      v-model="exact"
      :title="`${shape.name}, ${shape.placement}: picture ${picture} as it goes into the encoder`"
      :width="tall ? 460 : 900"
      align-center
    >
      <div class="ground"><img :src="exactly" :alt="`Picture ${picture} in the frame ${shape.shape}`" /></div>
    </ElDialog>
  </section>
</template>

<style scoped>
.controls {
  margin-top: 10px;
  padding: 9px 14px 11px;
}

.lines {
  display: flex;
  flex-wrap: wrap;
  gap: 7px 22px;
  margin-top: 7px;
  align-items: center;
}

.ratio {
  width: 76px;
}

.ratio::placeholder {
  color: var(--second-ink);
  opacity: 1;
}

.zoom :deep(.el-slider) {
  width: 130px;
  margin: 0 8px;
}

.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  margin-top: 8px;
  font-size: 13px;
}

.ground {
  display: grid;
  place-items: center;
  padding: 12px;
  background: var(--neutral);
}

.ground img {
  max-width: 100%;
  max-height: 66vh;
}
</style>
