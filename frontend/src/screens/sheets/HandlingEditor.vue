<script setup lang="ts">
import { computed, ref } from 'vue'

import NumberField from '../../parts/NumberField.vue'
import { api, Trouble } from '../../data/api'
import type { DraftPlacement } from './useSheetDraft'

/** How the platform re-encodes: known as a ladder, not at all, or assumed, which every forecast then says. */
const place = defineModel<DraftPlacement>({ required: true })
const props = defineProps<{ path: string; wrong: (path: string) => string }>()
const handling = computed(() => place.value.handling)
const problem = ref('')
const way = computed(() => handling.value.assumed ?? (handling.value.tiers?.length ? 'ladder' : 'none'))
const WAYS = [
  ['none', 'bit for bit: nothing is re-encoded'], ['gentle', 'assumed gentle'], ['middling', 'assumed middling'], ['harsh', 'assumed harsh'],
  ['ladder', 'a ladder that is known'],
] as const
const rule = () => ({ short_side_px: 1080, codec: 'h264' as const, quality: 25, ceiling_standard_bps: 3_000_000, ceiling_high_bps: 4_500_000 })

async function choose(to: string): Promise<void> {
  problem.value = ''
  if (to === 'none') handling.value.tiers = []
  if (to === 'none' || to === 'ladder') handling.value.assumed = null
  if (to === 'ladder' && !handling.value.tiers?.length) handling.value.tiers = [{ name: 'all uploads', up_to_short_side_px: null, renditions: [rule()] }]
  if (to === 'none' || to === 'ladder') return
  try {
    place.value.handling = await api.assume(place.value, to)
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be assumed.'
  }
}
/** A ladder changed by hand is no assumption of ours any more. */
function own(): void {
  handling.value.assumed = null
}
const text = (event: Event) => (event.target as HTMLInputElement).value.trim()
</script>

<template>
  <h3>Handling</h3>
  <p class="row">
    <select aria-label="Handling" class="way" :value="way" @change="choose(($event.target as HTMLSelectElement).value)">
      <option v-for="[value, words] in WAYS" :key="value" :value="value">{{ words }}</option>
    </select>
    <label>A wrong shape
      <select v-model="handling.wrong_shape" aria-label="A wrong shape"><option value="bars">gets bars</option><option value="crop">is cropped</option><option value="refuse">is refused</option></select>
    </label>
    <span v-if="handling.assumed" class="tiny quiet">forecasts will say “assumed” until a file that it served back has been measured</span>
  </p>
  <p v-if="handling.tiers?.length" class="row tiny">
    <label>Its frame rate cap <input class="cap" :value="handling.frame_rate_cap ?? ''" placeholder="none" @input="(handling.frame_rate_cap = text($event) || null), own()" /></label>
    <label>buffer, s <NumberField v-model="handling.buffer_s" class="small" @change="own" /></label>
    <label>keyframes every, s <NumberField v-model="handling.keyframe_s" class="small" @change="own" /></label>
    <span class="fault">{{ props.wrong(`${path}.handling.frame_rate_cap`) || props.wrong(`${path}.handling.buffer_s`) || props.wrong(`${path}.handling.keyframe_s`) }}</span>
  </p>
  <p v-if="problem" role="alert" class="fault">{{ problem }}</p>
  <div v-for="(tier, index) in handling.tiers" :key="index" class="tier">
    <p class="row tiny">
      <label>Ladder <input v-model="tier.name" class="name" @input="own" /></label>
      <label>for uploads up to <NumberField v-model="tier.up_to_short_side_px" class="small" optional placeholder="any" @change="own" /> px</label>
      <button type="button" class="link" @click="tier.renditions.push(rule()), own()">another step</button>
    </p>
    <table>
      <thead><tr><th>short side, px</th><th>codec</th><th>quality</th><th>ceiling to 30, Mbit/s</th><th>ceiling 31 to 60</th><th /></tr></thead>
      <tbody>
        <tr v-for="(step, number) in tier.renditions" :key="number">
          <td><NumberField v-model="step.short_side_px" label="Short side" @change="own" /></td>
          <td><select v-model="step.codec" aria-label="Codec" @change="own"><option value="h264">H.264</option><option value="vp9">VP9</option><option value="av1">AV1</option></select></td>
          <td><NumberField v-model="step.quality" label="Quality" @change="own" /></td>
          <td><NumberField v-model="step.ceiling_standard_bps" :scale="1e6" label="Ceiling to 30" @change="own" /></td>
          <td><NumberField v-model="step.ceiling_high_bps" :scale="1e6" label="Ceiling above 30" @change="own" /></td>
          <td><button v-if="tier.renditions.length > 1" type="button" class="link" @click="tier.renditions.splice(number, 1), own()">drop</button></td>
          <td class="fault">{{ props.wrong(`${path}.handling.tiers.${index}.renditions.${number}`) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
p {
  gap: 18px;
}

.way {
  width: 280px !important;
}

label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}

.tier {
  margin-top: 8px;
}

.small,
.cap {
  width: 70px !important;
}

td .number-field {
  max-width: 110px;
}
</style>
