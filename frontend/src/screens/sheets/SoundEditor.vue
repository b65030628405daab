<script setup lang="ts">
import NumberField from '../../parts/NumberField.vue'
import type { DraftPlacement } from './useSheetDraft'

/** The sound beside the picture, or alone. */
const place = defineModel<DraftPlacement>({ required: true })
const props = defineProps<{ path: string; wrong: (path: string) => string }>()
const at = (field: string) => props.wrong(`${props.path}.audio.${field}`)
const CODECS = [['aac', 'AAC'], ['opus', 'Opus'], ['mp3', 'MP3'], ['flac', 'FLAC'], ['pcm', 'PCM']] as const
const NAMES: Record<string, string> = Object.fromEntries(CODECS)
const value = (event: Event) => (event.target as HTMLInputElement).value
const rates = (text: string) => (place.value.audio.sample_rates_hz = text.split(/[^\d]+/).filter(Boolean).map(Number))
function toggle(codec: (typeof CODECS)[number][0]): void {
  const now = place.value.audio.codecs ?? []
  place.value.audio.codecs = now.includes(codec) ? now.filter((one) => one !== codec) : [...now, codec]
}
</script>

<template>
  <h3>Sound</h3>
  <fieldset class="fields">
    <label>Stereo, kbit/s <NumberField v-model="place.audio.stereo_bps" :scale="1000" /><span class="fault">{{ at('stereo_bps') }}</span></label>
    <label>Mono, kbit/s <NumberField v-model="place.audio.mono_bps" :scale="1000" /><span class="fault">{{ at('mono_bps') }}</span></label>
    <label>Lower end, stereo <NumberField v-model="place.audio.stereo_low_bps" :scale="1000" optional placeholder="none" /><span class="fault">{{ at('stereo_low_bps') }}</span></label>
    <label>Lower end, mono <NumberField v-model="place.audio.mono_low_bps" :scale="1000" optional placeholder="none" /><span class="fault">{{ at('mono_low_bps') }}</span></label>
    <label>Sample rates, Hz <input :value="place.audio.sample_rates_hz?.join(', ')" @change="rates(value($event))" /><span class="fault">{{ at('sample_rates_hz') }}</span></label>
    <label>Loudness, LUFS <NumberField v-model="place.audio.target_lufs" optional placeholder="left alone" /><span class="fault">{{ at('target_lufs') }}</span></label>
    <label>True peak, dBTP <NumberField v-model="place.audio.true_peak_limit_dbtp" optional placeholder="left alone" /><span class="fault">{{ at('true_peak_limit_dbtp') }}</span></label>
  </fieldset>
  <p v-for="(one, index) in place.audio.by_codec ?? []" :key="`${one.codec}${one.channels}`" class="row">
    <span>{{ NAMES[one.codec] }}, {{ one.channels === 1 ? 'mono' : 'stereo' }}: <span class="mono">{{ one.low_bps ? `${one.low_bps / 1000}–` : '' }}{{ one.high_bps / 1000 }} kbit/s</span></span>
    <button type="button" class="link" :aria-label="`Drop ${NAMES[one.codec]} ${one.channels === 1 ? 'mono' : 'stereo'}`" @click="place.audio.by_codec!.splice(index, 1)">drop</button>
  </p>
  <p class="row">
    <label v-for="[codec, name] in CODECS" :key="codec"><input type="checkbox" :checked="place.audio.codecs?.includes(codec)" @change="toggle(codec)" /> {{ name }}</label>
    <label><input type="checkbox" :checked="place.audio.turns === 'down'" @change="place.audio.turns = place.audio.turns === 'down' ? 'both' : 'down'" /> turns down only</label>
    <span class="fault">{{ at('codecs') }}</span>
  </p>
</template>

<style scoped>
p {
  gap: 14px;
  margin-top: 6px;
}
</style>
