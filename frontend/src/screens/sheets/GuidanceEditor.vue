<script setup lang="ts">
import { ElButton } from 'element-plus'
import { useDebounceFn } from '@vueuse/core'
import { onMounted, ref, shallowRef } from 'vue'

import NumberField from '../../parts/NumberField.vue'
import { api, type GuidanceRow, type Pasted } from '../../data/api'
import type { DraftPlacement } from './useSheetDraft'

/** The guidance as rows, typed or pasted; a paste is shown before it is taken, with whatever was not understood. */
const place = defineModel<DraftPlacement>({ required: true })
const props = defineProps<{ path: string; wrong: (path: string) => string }>()
const CODECS = { h264: 'H.264', hevc: 'HEVC', vp9: 'VP9', av1: 'AV1' }
const text = ref('')
const pasted = shallowRef<Pasted>()
/** A sheet without guidance begins with a paste, which is how nearly everybody comes by it. */
const pasting = ref(!place.value.guidance?.length)
const field = ref<HTMLTextAreaElement>()
onMounted(() => pasting.value && field.value?.focus())
const problem = ref('')

const read = useDebounceFn(async () => {
  problem.value = ''
  if (!text.value.trim()) return void (pasted.value = undefined)
  try {
    pasted.value = await api.pasteTable(text.value)
  } catch {
    problem.value = 'This could not be read. Try again.'
  }
}, 200)

/** Tables keep their cells when they come as HTML, so that is taken where the clipboard has it. */
function fromClipboard(event: ClipboardEvent): void {
  const html = event.clipboardData?.getData('text/html') ?? ''
  if (!/<t[rdh]\b/i.test(html)) return
  event.preventDefault()
  text.value = html.replace(/^[\s\S]*?(?=<table)/i, '').replace(/(<\/table>)[\s\S]*$/i, '$1')
  void read()
}

const same = (a: GuidanceRow, b: GuidanceRow) =>
  a.short_side_px === b.short_side_px && a.frame_rate_class === b.frame_rate_class && a.codec === b.codec && a.dynamic_range === b.dynamic_range
function take(instead: boolean): void {
  const rows = pasted.value?.rows ?? []
  const others = instead ? [] : (place.value.guidance ?? []).filter((row) => !rows.some((other) => same(row, other)))
  if (rows.length) place.value.guidance = [...others, ...rows]
  for (const row of pasted.value?.sound ?? []) takeSound(row)
  text.value = ''
  pasted.value = undefined
  pasting.value = false
}
/** What is asked of the sound goes to the sound's own fields, by codec where one was named; a line that names no channels is taken for stereo. */
function takeSound(row: Pasted['sound'][number]): void {
  const low = row.low_bps < row.high_bps ? row.low_bps : null
  const audio = place.value.audio
  if (row.codec) {
    const channels = row.channels ?? 2
    const others = (audio.by_codec ?? []).filter((one) => one.codec !== row.codec || one.channels !== channels)
    audio.by_codec = [...others, { codec: row.codec, channels, low_bps: low, high_bps: row.high_bps }]
  } else if (row.channels === 1) Object.assign(place.value.audio, { mono_bps: row.high_bps, mono_low_bps: low })
  else Object.assign(place.value.audio, { stereo_bps: row.high_bps, stereo_low_bps: low })
  if (row.codec && !place.value.audio.codecs?.includes(row.codec)) place.value.audio.codecs = [...(place.value.audio.codecs ?? []), row.codec]
}
const kbps = (row: { low_bps: number; high_bps: number }) => (row.low_bps === row.high_bps ? '' : `${row.low_bps / 1000}–`) + `${row.high_bps / 1000} kbit/s`
function add(): void {
  const last = place.value.guidance?.at(-1)
  place.value.guidance = [...(place.value.guidance ?? []), last ? { ...last, short_side_px: 720 } : { short_side_px: 1080, frame_rate_class: 'standard', dynamic_range: 'sdr', codec: 'h264', low_bps: 0, high_bps: 0 }]
}
const ends = (row: GuidanceRow) => (row.low_bps === row.high_bps ? `${row.low_bps / 1e6}` : `${row.low_bps / 1e6}–${row.high_bps / 1e6}`)
const factor = (codec: string, times: number | null | undefined) => {
  const { [codec]: _, ...others } = (place.value.guidance_factors ?? {}) as Record<string, number>
  place.value.guidance_factors = (times ? { ...others, [codec]: times } : others) as typeof place.value.guidance_factors
}
</script>

<template>
  <div class="row title">
    <h3>Guidance</h3>
    <span v-if="!place.guidance?.length" class="quiet">Nothing can be planned for it before it has some.</span>
    <span class="fault">{{ wrong(`${path}.guidance`) && !(place.guidance?.length) ? wrong(`${path}.guidance`) : '' }}</span>
    <span class="grow" />
    <button type="button" class="link" @click="add">another row</button>
    <button type="button" class="link" :aria-expanded="pasting" @click="pasting = !pasting">paste a table</button>
  </div>
  <div v-if="pasting" class="paste">
    <label class="tiny quiet" :for="`${path}-paste`">A table of sizes, frame rates and bit rates, as it stands on the help page</label>
    <textarea :id="`${path}-paste`" ref="field" v-model="text" rows="5" spellcheck="false" placeholder="1080p   24, 25, 30 fps   7–9.1 Mbit/s" @input="read" @paste="fromClipboard" />
    <p v-if="problem" role="alert" class="fault">{{ problem }}</p>
    <div v-if="pasted" class="found" aria-live="polite">
      <p>
        <b>{{ pasted.rows.length === 0 ? 'No row' : pasted.rows.length === 1 ? 'One row' : `${pasted.rows.length} rows` }} understood.</b>
        <span v-for="row in pasted.rows" :key="`${row.short_side_px}${row.frame_rate_class}${row.codec}${row.dynamic_range}`" class="mono bit">
          {{ row.short_side_px }} {{ row.frame_rate_class }}{{ row.codec === 'h264' ? '' : ` ${CODECS[row.codec!]}` }}{{ row.dynamic_range === 'hdr' ? ' HDR' : '' }}: {{ ends(row) }}
        </span>
      </p>
      <p v-if="pasted.sound.length">
        <b>Sound:</b>
        <span v-for="row in pasted.sound" :key="`${row.channels}${row.codec}`" class="mono bit">
          {{ row.channels === 1 ? 'mono' : row.channels === 2 ? 'stereo' : 'channels not named' }}{{ row.codec ? ` ${row.codec.toUpperCase()}` : '' }}: {{ kbps(row) }}
        </span>
      </p>
      <ul v-if="pasted.not_understood.length" aria-label="Not understood">
        <li v-for="lost in pasted.not_understood" :key="lost.number"><b>line {{ lost.number }}</b>, {{ lost.why }}: <span class="mono">{{ lost.text }}</span></li>
      </ul>
      <div class="row">
        <ElButton size="small" :disabled="!pasted.rows.length && !pasted.sound.length" @click="take(true)">{{ place.guidance?.length ? 'Take these instead' : 'Take these' }}</ElButton>
        <ElButton v-if="place.guidance?.length" size="small" :disabled="!pasted.rows.length && !pasted.sound.length" @click="take(false)">Add these</ElButton>
      </div>
    </div>
  </div>
  <table v-if="place.guidance?.length">
    <thead>
      <tr><th>short side, px</th><th>frame rates</th><th>range</th><th>codec</th><th>low, Mbit/s</th><th>high, Mbit/s</th><th /></tr>
    </thead>
    <tbody>
      <tr v-for="(row, index) in place.guidance" :key="index">
        <td><NumberField v-model="row.short_side_px" label="Short side" /></td>
        <td>
          <select v-model="row.frame_rate_class" aria-label="Frame rates"><option value="standard">standard, to 30</option><option value="high">high, 31 to 60</option></select>
        </td>
        <td>
          <select v-model="row.dynamic_range" aria-label="Dynamic range"><option value="sdr">SDR</option><option value="hdr">HDR</option></select>
        </td>
        <td>
          <select v-model="row.codec" aria-label="Codec"><option v-for="(name, codec) in CODECS" :key="codec" :value="codec">{{ name }}</option></select>
        </td>
        <td><NumberField v-model="row.low_bps" :scale="1e6" label="Low" /></td>
        <td><NumberField v-model="row.high_bps" :scale="1e6" label="High" /></td>
        <td><button type="button" class="link" :aria-label="`Drop row ${index + 1}`" @click="place.guidance!.splice(index, 1)">drop</button></td>
        <td class="fault">{{ wrong(`${props.path}.guidance.${index}`) }}</td>
      </tr>
    </tbody>
  </table>
  <p class="factors tiny">
    <span class="quiet">For codecs without rows, × the H.264 rows:</span>
    <label v-for="codec in ['hevc', 'vp9', 'av1'] as const" :key="codec">{{ CODECS[codec] }} <NumberField :model-value="place.guidance_factors?.[codec] ?? null" optional placeholder="—" @update:model-value="factor(codec, $event)" /></label>
    <label>HDR <NumberField v-model="place.hdr_factor" optional placeholder="—" /></label>
    <span class="fault">{{ wrong(`${path}.guidance_factors`) || wrong(`${path}.hdr_factor`) }}</span>
  </p>
</template>

<style scoped>
.title {
  gap: 16px;
}

.paste {
  padding: 8px 12px;
  background: var(--declaration);
  border: 1px solid var(--declaration-line);
}

.paste label {
  display: block;
  margin-bottom: 5px;
}

.found p > b {
  margin-right: 10px;
}

.found ul {
  margin: 4px 0;
  padding-left: 18px;
}

.bit + .bit::before {
  content: ' · ';
}

td .number-field {
  max-width: 96px;
}

.factors {
  display: flex;
  gap: 16px;
  align-items: center;
  margin-top: 4px;
}

.factors .number-field {
  width: 56px !important;
}
</style>
