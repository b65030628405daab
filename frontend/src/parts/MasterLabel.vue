<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import type { Master } from '../data/api'
import type { ExcerptPoints } from '../data/useExcerptPoints'
import { bytes, mbps, place, rate, ratio, signed, stem } from '../data/words'
import ExcerptStrip from './ExcerptStrip.vue'

/** The master's label, with an airmail edge; the strip on it carries the in and out points. */
const props = defineProps<{ master: Master; points: ExcerptPoints }>()
const emit = defineEmits<{ choose: [number: number | null] }>()
const facts = computed(() => props.master.facts!)
const video = computed(() => facts.value.video)
const careful = computed(() => props.master.stamps.filter((stamp) => stamp.outcome !== 'cleared' && !stamp.done).map((stamp) => stamp.matter))
</script>

<template>
  <section class="sheet master" aria-label="Master">
    <div class="what">
      <h1 class="cut" :title="master.name">
        <RouterLink :to="{ name: 'lanes', params: { masterId: master.id } }">{{ stem(master.name) }}</RouterLink>
      </h1>
      <RouterLink class="more" :to="{ name: 'master', params: { masterId: master.id } }">
        {{ careful.length ? `care: ${careful.slice(0, 2).join(', ')}${careful.length > 2 ? '…' : ''}` : 'Details and checks' }}
      </RouterLink>
      <p class="mono cut">
        {{ video.display_width }}×{{ video.display_height }} · {{ rate(video.frame_rate) }} frames/s · {{ master.codec_name }}
        {{ video.profile ?? '' }} {{ video.level ?? '' }}
      </p>
      <p class="mono cut">
        {{ place(ratio(facts.duration_s)) }} · {{ bytes(facts.size_bytes) }} · {{ mbps(facts.bitrate_bps) }} ·
        <template v-if="!facts.audio">no sound</template>
        <template v-else-if="facts.audio.integrated_lufs == null">silent</template>
        <template v-else>{{ signed(facts.audio.integrated_lufs) }} LUFS</template>
      </p>
    </div>
    <ExcerptStrip :master="master" :points="points" @choose="emit('choose', $event)" />
  </section>
</template>

<style scoped>
.master {
  display: flex;
  gap: 26px;
  padding: 12px 18px 16px;
  border-bottom: none;
  position: relative;
}

.master::after {
  content: '';
  position: absolute;
  inset: auto 0 0;
  height: 5px;
  background: repeating-linear-gradient(
    115deg,
    var(--stamp-red) 0 16px,
    var(--sheet) 16px 26px,
    var(--airmail) 26px 42px,
    var(--sheet) 42px 52px
  );
}

@media (max-width: 899px) {
  .master {
    flex-wrap: wrap;
    gap: 10px;
  }

  .master .what {
    flex-basis: 100%;
  }
}

.what {
  flex: 0 0 370px;
  min-width: 0;
}

.what h1 a {
  text-decoration: none;
}

.what {
  position: relative;
}

h1 {
  max-width: 232px;
}

.more {
  position: absolute;
  right: 0;
  top: 4px;
  max-width: 132px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: var(--tiny);
}
</style>
