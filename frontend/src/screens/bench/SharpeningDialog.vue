<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'

import { api } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import TroubleNote from '../../parts/TroubleNote.vue'

/** What light sharpening does to the worst picture: the same place with and without it, pixel for pixel. */
const props = defineProps<{ parcelId: string; on: boolean }>()
const emit = defineEmits<{ choose: [on: boolean] }>()
const open = defineModel<boolean>({ required: true })
const { value: effect, trouble, again } = useAnswer(() => api.sharpening(props.parcelId))
</script>

<template>
  <ElDialog v-model="open" title="Light sharpening, pixel for pixel" width="740" align-center>
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-else-if="effect">
      <div class="pair">
        <figure><img :src="effect.off" :width="effect.width" :height="effect.height" alt="Without sharpening" /><figcaption>without</figcaption></figure>
        <figure><img :src="effect.on" :width="effect.width" :height="effect.height" alt="With light sharpening" /><figcaption>with</figcaption></figure>
      </div>
      <p class="quiet">
        Picture {{ effect.number }}, {{ effect.why }}; the part with most fine detail, before it is encoded. Edges look crisper, grain and noise
        do too, and both cost bits. Condition is always measured against the master as it is.
      </p>
    </template>
    <p v-else class="quiet">Making both pictures…</p>
    <template #footer>
      <ElButton @click="open = false">Leave it</ElButton>
      <ElButton @click="emit('choose', !on), (open = false)">{{ on ? 'Pack without sharpening' : 'Sharpen lightly' }}</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.pair {
  display: flex;
  justify-content: center;
  gap: 18px;
  padding: 14px;
  background: var(--neutral);
}

figure {
  margin: 0;
}

img {
  display: block;
}

figcaption {
  margin-top: 4px;
  padding: 0 6px;
  background: var(--sheet);
  font-family: var(--slab);
  font-weight: 600;
  text-align: center;
}

p {
  margin-top: 10px;
}
</style>
