<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type Master } from '../../data/api'
import { bytes, place, rate, ratio, signed, stem } from '../../data/words'
import StampMark from '../../parts/StampMark.vue'

const props = defineProps<{ master: Master }>()
const video = computed(() => props.master.facts?.video)
const shown = computed(() => {
  const upright = video.value && video.value.display_height > video.value.display_width
  return Array.from({ length: Math.min(upright ? 6 : 3, props.master.strip_pictures) }, (_, i) =>
    upright ? i : Math.min(props.master.strip_pictures - 1, i * 2 + 1),
  )
})
const careful = computed(() => {
  const found: string[] = []
  if (!video.value) return found
  const tags = video.value.colour
  if (!tags?.primaries && !tags?.transfer && !tags?.matrix) found.push('untagged colour')
  if (video.value.variable_rate) found.push('variable frame rate')
  if (video.value.scan?.startsWith('interlaced')) found.push('interlaced')
  if (!props.master.facts?.audio) found.push('no sound')
  return found
})
</script>

<template>
  <component
    :is="master.state === 'ready' ? RouterLink : 'div'"
    :to="{ name: 'lanes', params: { masterId: master.id } }"
    class="sheet parcel"
    :class="master.state"
  >
    <span class="tag" aria-hidden="true" />
    <div class="strip">
      <template v-if="master.strip_pictures">
        <img v-for="number in shown" :key="number" :src="api.stripPicture(master, number)" alt="" />
      </template>
      <span v-else class="quiet">{{ master.state === 'unreadable' ? 'no picture' : 'reading the master…' }}</span>
    </div>
    <div class="label">
      <h2 class="cut" :title="master.name">{{ stem(master.name) }}</h2>
      <template v-if="master.facts && video">
        <p class="mono">{{ video.display_width }}×{{ video.display_height }} · {{ rate(video.frame_rate) }} frames/s · {{ place(ratio(master.facts.duration_s)) }}</p>
        <p class="mono quiet">
          {{ bytes(master.size_bytes) }}<template v-if="master.facts.audio?.integrated_lufs != null"> · {{ signed(master.facts.audio.integrated_lufs) }} LUFS</template>
        </p>
        <p class="stamps">
          <StampMark v-for="matter in careful" :key="matter" outcome="handle with care" :text="matter" />
          <StampMark v-if="!careful.length" outcome="cleared" text="header cleared" />
        </p>
      </template>
      <template v-else-if="master.problem">
        <StampMark outcome="held" text="cannot be read" />
        <p>{{ master.problem.what }} {{ master.problem.todo }}</p>
      </template>
      <p v-else class="quiet">{{ bytes(master.size_bytes) }}</p>
    </div>
  </component>
</template>

<style scoped>
.parcel {
  position: relative;
  display: block;
  height: 100%;
  padding: 14px 16px 12px 34px;
  text-decoration: none;
  transition: border-color 150ms;
}

a.parcel:hover {
  border-color: var(--ink);
}

.tag {
  position: absolute;
  left: 11px;
  top: 50%;
  width: 12px;
  height: 12px;
  border: 2px solid var(--twine);
  border-radius: 50%;
}

.strip {
  display: flex;
  gap: 2px;
  height: 74px;
  overflow: hidden;
  align-items: center;
}

.strip img {
  height: 74px;
  min-width: 0;
  flex: 1;
  object-fit: cover;
}

.label {
  margin-top: 10px;
}

.stamps {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 6px;
}
</style>
