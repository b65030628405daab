<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import type { Choices, Master, ParcelSummary } from '../../data/api'
import FramedPicture from '../../parts/FramedPicture.vue'
import ShapeModes from '../../parts/ShapeModes.vue'

/** Where the destination shows another shape than the master's: how its frame is filled. */
const props = defineProps<{ master: Master; summary: ParcelSummary }>()
const emit = defineEmits<{ choose: [mode: Choices['framing']] }>()
const framing = computed(() => props.summary.plan.video!.framing.value)
</script>

<template>
  <section v-if="framing.mode" class="framing sheet" aria-label="Framing">
    <FramedPicture :master="master" :framing="framing" :height="72" />
    <div>
      <h2>Framing <RouterLink class="all" :to="{ name: 'framing', params: { masterId: master.id } }">See every shape</RouterLink></h2>
      <ShapeModes :mode="summary.parcel.choices.framing ?? null" inherits label="Framing" @choose="emit('choose', $event)" />
    </div>
  </section>
</template>

<style scoped>
.framing {
  display: flex;
  gap: 18px;
  align-items: center;
  padding: 7px 14px;
}

.all {
  margin-left: 10px;
  font: var(--body) var(--read);
}
</style>
