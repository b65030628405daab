<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type Master, type OverTime, type ParcelSummary } from '../../data/api'
import { useViewer } from '../../data/viewer'
import { place, ratio } from '../../data/words'

/**
 * Condition along the film, and the moments that arrive worst. Rehearsed ones are shown as they arrive and lead to the picture
 * bench; of those that were only computed the master's picture is shown, and a click rehearses the rate so that they can be seen.
 */
const props = defineProps<{ summary: ParcelSummary; along: OverTime; master?: Master; busy: boolean }>()
const emit = defineEmits<{ rehearse: [] }>()
const viewer = useViewer()
const rehearsed = computed(() => props.along.evidence === 'rehearsed')
type Moment = OverTime['suffers'][number]

const stills = ref<Record<number, string>>({})
const number = (moment: Moment) => Math.round(ratio(moment.master_s) * ratio(props.master?.facts?.video.frame_rate ?? '25'))
watch(() => [props.along.suffers, props.master?.id] as const, async ([suffers, id]) => {
  if (rehearsed.value || !id) return
  for (const moment of suffers) {
    const at = number(moment)
    if (at in stills.value) continue
    const shown = await api.picture(id, at, true).catch(() => undefined)
    if (shown) stills.value = { ...stills.value, [at]: shown.picture }
  }
}, { immediate: true })
const picture = (moment: Moment) =>
  rehearsed.value
    ? api.lookPicture(props.summary.parcel.id, moment.target_bps, moment.pictures_key, moment.reel_index ?? 0, viewer.screen, viewer.line, 'arrived')
    : stills.value[number(moment)]
const said = (moment: Moment) => `${place(ratio(moment.master_s))} · ${moment.condition.toFixed(0)}`

const from = computed(() => ratio(props.summary.plan.excerpt.in_s))
const until = computed(() => ratio(props.summary.plan.excerpt.out_s))
/** The foot of the bars lies so far below the worst moment that it still shows. */
const low = computed(() => {
  const worst = Math.min(...props.along.moments.map((one) => one.condition))
  return Math.max(0, worst - (100 - worst) / 4)
})
const few = computed(() => props.along.moments.length <= 12)
const bars = computed(() => {
  const length = Math.max(0.01, until.value - from.value)
  return props.along.moments.map((one) => ({
    left: (100 * (ratio(one.master_s) - from.value)) / length,
    height: (100 * (one.condition - low.value)) / Math.max(1, 100 - low.value),
    title: `${place(ratio(one.master_s))}, arrives at ${one.condition.toFixed(0)}`,
    worst: props.along.suffers.some((other) => other.master_s === one.master_s),
  }))
})
</script>

<template>
  <section class="suffers" aria-labelledby="suffers-title">
    <div class="along">
      <h2 id="suffers-title">Suffers most</h2>
      <p class="quiet tiny">{{ rehearsed ? 'as it arrives on a laptop; open one to compare' : along.evidence === 'returned' ? 'measured on what came back, on a laptop; the master’s pictures' : 'computed for a laptop; rehearse to see it arrive' }}</p>
    </div>
    <div class="line" role="img" :aria-label="`Condition along the film, from ${Math.round(low)} at the bottom to 100 at the top`">
      <span v-for="(bar, at) in bars" :key="at" class="bar" :class="{ worst: bar.worst, few }" :style="{ left: `${bar.left}%`, height: `${bar.height}%` }" :title="bar.title" />
      <span class="mark mono tiny top">100</span>
      <span class="mark mono tiny">{{ Math.round(low) }}</span>
    </div>
    <div class="moments">
      <template v-for="moment in along.suffers" :key="moment.master_s">
        <RouterLink v-if="rehearsed" :to="{ name: 'look', params: { parcelId: summary.parcel.id }, query: { rate: moment.target_bps, picture: moment.reel_index } }">
          <img :src="picture(moment)" :alt="`arrived picture at ${place(ratio(moment.master_s))}`" loading="lazy" />
          <span class="mono tiny">{{ said(moment) }}</span>
        </RouterLink>
        <button v-else type="button" :disabled="busy" title="Rehearse this rate, to see the moment as it arrives" @click="emit('rehearse')">
          <img v-if="picture(moment)" :src="picture(moment)" :alt="`the master's picture at ${place(ratio(moment.master_s))}`" />
          <span v-else class="blank" />
          <span class="mono tiny">{{ said(moment) }}</span>
        </button>
      </template>
    </div>
  </section>
</template>

<style scoped>
.suffers {
  display: grid;
  grid-template-columns: 128px 1fr;
  gap: 8px 14px;
}

.along {
  grid-row: span 2;
}

.line {
  position: relative;
  height: 34px;
  margin-right: 30px;
  border-bottom: 1px solid var(--line);
}

.bar {
  position: absolute;
  bottom: 0;
  width: 4px;
  margin-left: -2px;
  background: var(--airmail);
}

.bar.few {
  width: 10px;
  margin-left: -5px;
}

.bar.worst {
  background: var(--ink);
}

.mark {
  position: absolute;
  right: -30px;
  bottom: -4px;
  color: var(--second-ink);
}

.mark.top {
  top: -4px;
  bottom: auto;
}

.moments {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: minmax(0, 1fr);
  gap: 12px;
}

a,
button {
  padding: 0;
  color: inherit;
  font: inherit;
  text-align: center;
  text-decoration: none;
  background: none;
  border: none;
  cursor: pointer;
}

button:disabled {
  cursor: default;
}

img,
.blank {
  display: block;
  width: 100%;
  height: 74px;
  object-fit: contain;
  background: var(--neutral);
}

a:hover img,
button:hover:enabled img {
  outline: 2px solid var(--ink);
}
</style>
