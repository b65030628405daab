<script setup lang="ts">
import { computed, ref } from 'vue'

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
const mega = (event: Event) => Math.round(Number((event.target as HTMLInputElement).value) * 1e6)
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
    <label>Its frame rate cap <input class="small" :value="handling.frame_rate_cap ?? ''" placeholder="none" @input="(handling.frame_rate_cap = text($event) || null), own()" /></label>
    <label>buffer, s <input class="small" :value="handling.buffer_s" @input="(handling.buffer_s = Number(text($event))), own()" /></label>
    <label>keyframes every, s <input class="small" :value="handling.keyframe_s" @input="(handling.keyframe_s = Number(text($event))), own()" /></label>
    <span class="fault">{{ props.wrong(`${path}.handling.frame_rate_cap`) || props.wrong(`${path}.handling.buffer_s`) || props.wrong(`${path}.handling.keyframe_s`) }}</span>
  </p>
  <p v-if="problem" role="alert" class="fault">{{ problem }}</p>
  <div v-for="(tier, index) in handling.tiers" :key="index" class="tier">
    <p class="row tiny">
      <label>Ladder <input v-model="tier.name" class="name" @input="own" /></label>
      <label>for uploads up to <input class="small" :value="tier.up_to_short_side_px ?? ''" placeholder="any" @input="(tier.up_to_short_side_px = ($event.target as HTMLInputElement).value ? Number(($event.target as HTMLInputElement).value) : null), own()" /> px</label>
      <button type="button" class="link" @click="tier.renditions.push(rule()), own()">another step</button>
    </p>
    <table>
      <thead><tr><th>short side, px</th><th>codec</th><th>quality</th><th>ceiling to 30, Mbit/s</th><th>ceiling 31 to 60</th><th /></tr></thead>
      <tbody>
        <tr v-for="(step, number) in tier.renditions" :key="number">
          <td><input :value="step.short_side_px" aria-label="Short side" @input="(step.short_side_px = Number(($event.target as HTMLInputElement).value)), own()" /></td>
          <td><select v-model="step.codec" aria-label="Codec" @change="own"><option value="h264">H.264</option><option value="vp9">VP9</option><option value="av1">AV1</option></select></td>
          <td><input :value="step.quality" aria-label="Quality" @input="(step.quality = Number(($event.target as HTMLInputElement).value)), own()" /></td>
          <td><input :value="step.ceiling_standard_bps / 1e6" aria-label="Ceiling to 30" @input="(step.ceiling_standard_bps = mega($event)), own()" /></td>
          <td><input :value="step.ceiling_high_bps / 1e6" aria-label="Ceiling above 30" @input="(step.ceiling_high_bps = mega($event)), own()" /></td>
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

input.small {
  width: 70px !important;
}

td input {
  max-width: 110px;
}
</style>
