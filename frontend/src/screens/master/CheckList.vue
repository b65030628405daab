<script setup lang="ts">
import { computed } from 'vue'

import type { CheckStamp, Job, Master } from '../../data/api'
import { place, rate } from '../../data/words'
import StampMark from '../../parts/StampMark.vue'

/** What was found, each with where, why it matters, and a remedy where there is one; what cleared stands folded below. */
const props = defineProps<{ master: Master; jobs: Job[]; busy: boolean }>()
const emit = defineEmits<{ jump: [at: number]; remedy: [stamp: CheckStamp, on: boolean, rate?: string]; read: [stamp: CheckStamp]; again: []; stop: [] }>()

const found = computed(() =>
  props.master.stamps
    .filter((stamp) => stamp.outcome !== 'cleared' || (stamp.done && stamp.remedy))
    .sort((a, b) => Number(a.done) - Number(b.done)),
)
const cleared = computed(() => props.master.stamps.filter((stamp) => !found.value.includes(stamp)))
const unfinished = computed(() => !props.master.picture_checked || (props.master.facts?.audio && !props.master.sound_checked))
const choosable = (stamp: CheckStamp) => stamp.remedy && !['square_pixels', 'constant_rate', 'read_colour'].includes(stamp.remedy)
const chosenRate = computed(() => props.master.facts?.mending?.constant_rate ?? props.master.facts?.video.frame_rate)
</script>

<template>
  <section class="checks" aria-label="Checks">
    <div v-for="job in jobs" :key="job.id" class="running" role="status">
      <span>{{ job.progress?.doing ?? 'waits its turn' }}</span>
      <progress :value="job.progress?.share ?? 0" max="1" :aria-label="job.title" />
    </div>
    <button v-if="jobs.length" type="button" class="link tiny" @click="emit('stop')">stop checking</button>
    <p v-else-if="unfinished" class="row">
      <span class="quiet">The checks are not through.</span>
      <button type="button" class="link" @click="emit('again')">check now</button>
    </p>
    <p v-if="master.problem" role="alert" class="trouble">{{ master.problem.what }} {{ master.problem.todo }}</p>
    <ul>
      <li v-for="stamp in found" :key="stamp.code">
        <p class="row top">
          <StampMark :outcome="stamp.outcome" :text="stamp.matter" />
          <button v-if="stamp.at_s != null && stamp.at_s > 0" type="button" class="link mono" @click="emit('jump', stamp.at_s)">{{ place(stamp.at_s) }}</button>
          <span class="grow" />
          <template v-if="choosable(stamp)">
            <span v-if="stamp.done" class="done">{{ stamp.remedy_words }}</span>
            <button type="button" class="remedy" :disabled="busy" @click="emit('remedy', stamp, !stamp.done)">
              {{ stamp.done ? 'undo' : stamp.remedy_words }}
            </button>
          </template>
          <button v-else-if="stamp.remedy === 'read_colour'" type="button" class="remedy" :disabled="busy" @click="emit('read', stamp)">{{ stamp.remedy_words }}</button>
          <span v-else-if="stamp.done" class="done">{{ stamp.remedy_words || 'fixed when packed' }}</span>
        </p>
        <p class="seen">{{ stamp.seen }}</p>
        <p class="why quiet">{{ stamp.why }}</p>
        <p v-if="stamp.remedy === 'constant_rate'" class="row rates">
          <span class="quiet">or at</span>
          <button v-for="one in stamp.rates" :key="one" type="button" class="link mono" :aria-pressed="one === chosenRate" :disabled="busy" @click="emit('remedy', stamp, true, one)">
            {{ rate(one) }}
          </button>
        </p>
      </li>
    </ul>
    <details v-if="cleared.length">
      <summary>{{ cleared.length }} {{ cleared.length === 1 ? 'check' : 'checks' }} cleared</summary>
      <ul class="plain">
        <li v-for="stamp in cleared" :key="stamp.code"><span class="tick" aria-hidden="true">✓</span> {{ stamp.seen }}</li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
.checks {
  min-width: 0;
  max-height: 352px;
  overflow-y: auto;
  padding-right: 6px;
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  padding: 5px 0 6px;
}

li + li {
  border-top: 1px solid var(--line);
}

.top {
  gap: 8px;
  flex-wrap: wrap;
}

.top :deep(.stamp) {
  flex: none;
}

.why {
  font-size: var(--tiny);
}

.remedy {
  padding: 1px 10px;
  border: 1px solid var(--ink);
  border-radius: var(--corner);
  background: transparent;
  color: inherit;
  font: 600 14px var(--slab);
  cursor: pointer;
  white-space: nowrap;
}

.remedy:hover:not(:disabled) {
  background: var(--ink);
  color: var(--sheet);
}

.done {
  color: var(--cleared);
  font-size: var(--tiny);
}

.rates {
  gap: 10px;
}

.rates [aria-pressed='true'] {
  font-weight: 700;
  text-decoration-thickness: 2px;
}

.running {
  display: grid;
  grid-template-columns: 1fr 140px;
  align-items: center;
  gap: 10px;
}

.trouble {
  font-weight: 700;
}

summary {
  padding: 5px 0;
  cursor: pointer;
  color: var(--cleared);
  font: 600 14px var(--slab);
}

.plain li {
  padding: 1px 0;
  border: none;
}

.tick {
  color: var(--cleared);
}
</style>
