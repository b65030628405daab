<script setup lang="ts">
import { ElButton, ElCheckbox } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type Job, type Master } from '../../data/api'
import { bytes, place, rate, ratio, signed, stem } from '../../data/words'
import StampMark from '../../parts/StampMark.vue'

const props = defineProps<{ master: Master; jobs: Job[]; chosen: boolean }>()
const emit = defineEmits<{ remove: []; choose: [on: boolean, range: boolean] }>()
const SHOWN = 3
/** Shift selects a range; the checkbox itself does not say which keys were held. */
const shifted = ref(false)
const facts = computed(() => props.master.facts)
const video = computed(() => facts.value?.video)
const shown = computed(() => {
  const upright = video.value && video.value.display_height > video.value.display_width
  const made = [...props.master.strip].sort((a, b) => a - b)
  const count = Math.min(made.length, upright ? 6 : 3)
  return Array.from({ length: count }, (_, i) => made[Math.floor(((i + 0.5) * made.length) / count)])
})
const wanting = computed(() => props.master.stamps.filter((stamp) => stamp.outcome !== 'cleared' && !stamp.done))
const mended = computed(() => props.master.stamps.filter((stamp) => stamp.done).length)
const checked = computed(() => props.master.picture_checked && (!facts.value?.audio || props.master.sound_checked))
const share = computed(() => {
  const shares = props.jobs.map((job) => job.progress?.share ?? 0)
  return shares.length ? Math.min(...shares) : 0
})
</script>

<template>
  <article class="sheet parcel" :class="[master.state, { chosen }]">
    <span class="raised select" @click.capture="shifted = $event.shiftKey" @keydown.capture="shifted = $event.shiftKey">
      <ElCheckbox
        :model-value="chosen"
        :aria-label="`Select ${stem(master.name)}`"
        @change="emit('choose', Boolean($event), shifted)"
      />
    </span>
    <div class="strip">
      <template v-if="shown.length"
        ><img v-for="number in shown" :key="number" :src="api.stripPicture(master, number)" alt=""
      /></template>
      <span v-else class="quiet">{{
        master.state === 'unreadable' ? 'no picture' : master.arriving ? 'still arriving…' : 'reading the video…'
      }}</span>
    </div>
    <div class="label">
      <h2 class="cut" :title="master.name">
        <RouterLink
          v-if="facts && master.state === 'ready'"
          class="whole"
          :to="{ name: 'lanes', params: { masterId: master.id } }"
          >{{ stem(master.name) }}</RouterLink
        >
        <template v-else>{{ stem(master.name) }}</template>
      </h2>
      <template v-if="facts && video && master.state === 'ready'">
        <p class="mono cut">
          {{ video.display_width }}×{{ video.display_height }} · {{ rate(video.frame_rate) }} frames/s ·
          {{ place(ratio(facts.duration_s)) }}
        </p>
        <p class="mono quiet cut">
          {{ bytes(master.size_bytes)
          }}<template v-if="facts.audio?.integrated_lufs != null">
            · {{ signed(facts.audio.integrated_lufs) }} LUFS</template
          >
          <template v-if="master.excerpts.length">
            · {{ master.excerpts.length }} {{ master.excerpts.length === 1 ? 'excerpt' : 'excerpts' }}</template
          >
        </p>
        <p class="stamps">
          <RouterLink
            v-for="stamp in wanting.slice(0, SHOWN)"
            :key="stamp.code"
            class="raised"
            :to="{ name: 'master', params: { masterId: master.id } }"
          >
            <StampMark :outcome="stamp.outcome" in-link :text="stamp.matter" :explanation="stamp.seen" />
          </RouterLink>
          <RouterLink
            v-if="wanting.length > SHOWN"
            class="raised tiny"
            :to="{ name: 'master', params: { masterId: master.id } }"
            >and {{ wanting.length - SHOWN }} more</RouterLink
          >
          <StampMark
            v-if="checked && !wanting.length"
            outcome="cleared"
            :text="mended ? 'fixed when packed' : 'no problems'"
          />
          <span v-if="!checked" class="quiet tiny">{{
            jobs.length ? `checking, ${Math.floor(share * 100)} %` : 'not fully checked'
          }}</span>
        </p>
      </template>
      <template v-else-if="master.problem && master.state === 'unreadable'">
        <p><StampMark outcome="held" text="can't be read" /></p>
        <p>{{ master.problem.what }} {{ master.problem.todo }}</p>
      </template>
      <p v-else-if="master.arriving" class="quiet">
        {{ bytes(master.size_bytes) }} so far. It is read once it stops growing.
      </p>
      <p v-else class="quiet">{{ bytes(master.size_bytes) }}</p>
    </div>
    <p class="acts raised tiny">
      <RouterLink v-if="facts && master.state === 'ready'" :to="{ name: 'master', params: { masterId: master.id } }"
        >Details and checks</RouterLink
      >
      <ElButton link size="small" :aria-label="`Remove from shelf: ${stem(master.name)}`" @click="emit('remove')"
        >Remove from shelf</ElButton
      >
    </p>
  </article>
</template>

<style scoped>
.parcel {
  position: relative;
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 14px 16px 8px 34px;
  transition: border-color 150ms;
}

.parcel.ready:hover {
  border-color: var(--ink);
}

.whole {
  text-decoration: none;
}

.whole::after {
  content: '';
  position: absolute;
  inset: 0;
}

.raised {
  position: relative;
  z-index: 1;
  text-decoration: none;
}

.acts {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-top: auto;
  padding-top: 6px;
}

.acts a {
  text-decoration: underline;
}

.select {
  position: absolute;
  left: 9px;
  top: 4px;
}

.chosen {
  border-color: var(--ink);
  box-shadow: 0 0 0 1px var(--ink);
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
  align-items: center;
  gap: 6px;
  margin-top: 6px;
}
</style>
