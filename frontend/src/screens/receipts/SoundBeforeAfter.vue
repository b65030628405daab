<script setup lang="ts">
import { computed } from 'vue'

import type { SoundStory } from '../../data/api'
import { place, signed } from '../../data/words'

/** The master's loudness along the excerpt beside the packed file's, with the level that was aimed at. */
const props = defineProps<{ story: SoundStory }>()
const WIDTH = 800
const HEIGHT = 74
const LOW = -60
const HIGH = 0
const y = (level: number) => ((HIGH - Math.min(HIGH, Math.max(LOW, level))) / (HIGH - LOW)) * HEIGHT
/** Steps along the sound; silence leaves a gap. */
function line(levels: readonly (number | null)[] | undefined): string {
  if (!levels?.length) return ''
  let drawn = ''
  let open = false
  levels.forEach((level, index) => {
    if (level == null) {
      open = false
      return
    }
    const left = (index / levels.length) * WIDTH
    const right = ((index + 1) / levels.length) * WIDTH
    drawn += `${open ? 'L' : 'M'}${left.toFixed(1)} ${y(level).toFixed(1)}L${right.toFixed(1)} ${y(level).toFixed(1)}`
    open = true
  })
  return drawn
}
const level = (lufs: number | null, peak: number | null) =>
  lufs == null ? 'silent' : `${signed(lufs)} LUFS, peak ${peak == null ? 'unknown' : `${signed(peak)} dBTP`}`
const seconds = computed(() => (props.story.after?.length ?? 0) * props.story.step_s)
const told = computed(() => `Loudness along the sound: before ${level(props.story.before_lufs, props.story.before_peak_dbtp)}; after ${level(props.story.after_lufs, props.story.after_peak_dbtp)}`)
</script>

<template>
  <section class="sound" aria-label="Sound before and after">
    <div class="row">
      <h3>Sound</h3>
      <span v-if="story.before_lufs != null"><span class="key before" /> master {{ level(story.before_lufs, story.before_peak_dbtp) }}</span>
      <span><span class="key after" /> packed {{ level(story.after_lufs, story.after_peak_dbtp) }}</span>
      <span v-if="story.target_lufs != null" class="quiet"><span class="key target" /> asked for {{ signed(story.target_lufs) }} LUFS<template v-if="story.limit_dbtp != null">, at most {{ signed(story.limit_dbtp) }} dBTP</template></span>
      <span class="quiet">turned {{ signed(story.gain_db) }} dB</span>
    </div>
    <svg v-if="story.after?.length" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" preserveAspectRatio="none" role="img" :aria-label="told">
      <line v-for="tick in [-15, -30, -45]" :key="tick" x1="0" :x2="WIDTH" :y1="y(tick)" :y2="y(tick)" class="grid" />
      <line v-if="story.target_lufs != null" x1="0" :x2="WIDTH" :y1="y(story.target_lufs)" :y2="y(story.target_lufs)" class="target" />
      <path :d="line(story.before)" class="before" />
      <path :d="line(story.after)" class="after" />
    </svg>
    <p v-if="story.after?.length" class="axis tiny quiet mono"><span>0:00</span><span>momentary loudness, 0 to −60 LUFS</span><span>{{ place(seconds) }}</span></p>
  </section>
</template>

<style scoped>
.sound {
  margin-top: 10px;
}

.row {
  flex-wrap: wrap;
  gap: 2px 18px;
  font-size: 13px;
}

h3 {
  font-size: 15px;
}

svg {
  display: block;
  width: 100%;
  height: 74px;
  margin-top: 4px;
  border: 1px solid var(--line);
}

path,
line {
  fill: none;
  vector-effect: non-scaling-stroke;
}

.grid {
  stroke: var(--line);
}

line.target {
  stroke: var(--twine-ink);
  stroke-width: 1.5;
  stroke-dasharray: 2 4;
}

path.before {
  stroke: var(--second-ink);
  stroke-width: 1.3;
  stroke-dasharray: 5 3;
}

path.after {
  stroke: var(--airmail);
  stroke-width: 2.2;
}

.key {
  display: inline-block;
  width: 22px;
  vertical-align: middle;
  border-top: 2px dashed var(--second-ink);
}

.key.after {
  border-top: 3px solid var(--airmail);
}

.key.target {
  border-top: 2px dotted var(--twine-ink);
}

.axis {
  display: flex;
  justify-content: space-between;
}
</style>
