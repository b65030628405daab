<script setup lang="ts">
import type { DraftPlacement } from './useSheetDraft'

/** The sound beside the picture, or alone. */
const place = defineModel<DraftPlacement>({ required: true })
const props = defineProps<{ path: string; wrong: (path: string) => string }>()
const at = (field: string) => props.wrong(`${props.path}.audio.${field}`)
const CODECS = [['aac', 'AAC'], ['opus', 'Opus'], ['mp3', 'MP3'], ['flac', 'FLAC'], ['pcm', 'PCM']] as const
const NAMES: Record<string, string> = Object.fromEntries(CODECS)
const value = (event: Event) => (event.target as HTMLInputElement).value
const level = (field: 'target_lufs' | 'true_peak_limit_dbtp', text: string) =>
  (place.value.audio[field] = text.trim() === '' ? null : Number(text.replace('−', '-')))
const lower = (field: 'stereo_low_bps' | 'mono_low_bps', text: string) =>
  (place.value.audio[field] = text.trim() === '' ? null : Math.round(Number(text) * 1000))
const rates = (text: string) => (place.value.audio.sample_rates_hz = text.split(/[^\d]+/).filter(Boolean).map(Number))
function toggle(codec: (typeof CODECS)[number][0]): void {
  const now = place.value.audio.codecs ?? []
  place.value.audio.codecs = now.includes(codec) ? now.filter((one) => one !== codec) : [...now, codec]
}
</script>

<template>
  <h3>Sound</h3>
  <fieldset class="fields">
    <label>Stereo, kbit/s <input :value="place.audio.stereo_bps / 1000" @input="place.audio.stereo_bps = Math.round(Number(value($event)) * 1000)" /><span class="fault">{{ at('stereo_bps') }}</span></label>
    <label>Mono, kbit/s <input :value="place.audio.mono_bps / 1000" @input="place.audio.mono_bps = Math.round(Number(value($event)) * 1000)" /><span class="fault">{{ at('mono_bps') }}</span></label>
    <label>Lower end, stereo <input :value="place.audio.stereo_low_bps == null ? '' : place.audio.stereo_low_bps / 1000" placeholder="none" @input="lower('stereo_low_bps', value($event))" /><span class="fault">{{ at('stereo_low_bps') }}</span></label>
    <label>Lower end, mono <input :value="place.audio.mono_low_bps == null ? '' : place.audio.mono_low_bps / 1000" placeholder="none" @input="lower('mono_low_bps', value($event))" /><span class="fault">{{ at('mono_low_bps') }}</span></label>
    <label>Sample rates, Hz <input :value="place.audio.sample_rates_hz?.join(', ')" @change="rates(value($event))" /><span class="fault">{{ at('sample_rates_hz') }}</span></label>
    <label>Loudness, LUFS <input :value="place.audio.target_lufs ?? ''" placeholder="left alone" @input="level('target_lufs', value($event))" /><span class="fault">{{ at('target_lufs') }}</span></label>
    <label>True peak, dBTP <input :value="place.audio.true_peak_limit_dbtp ?? ''" placeholder="left alone" @input="level('true_peak_limit_dbtp', value($event))" /><span class="fault">{{ at('true_peak_limit_dbtp') }}</span></label>
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
