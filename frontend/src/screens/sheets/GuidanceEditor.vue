<script setup lang="ts">
import { ElButton, ElCheckbox } from 'element-plus'
import { useDebounceFn } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'

import NumberField from '../../parts/NumberField.vue'
import { api, Trouble, type GuidanceRow, type Pasted } from '../../data/api'
import { bytes, seconds } from '../../data/words'
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
    agreed.value = new Set()
  } catch {
    problem.value = 'This could not be read. Try again.'
  }
}, 200)

/** Tables keep their cells when they come as HTML, so that is taken where the clipboard has it, with the text around them. */
function fromClipboard(event: ClipboardEvent): void {
  const html = event.clipboardData?.getData('text/html') ?? ''
  if (!/<t[rdh]\b/i.test(html)) return
  event.preventDefault()
  text.value = html.replace(/<!--[\s\S]*?-->/g, '').replace(/^[\s\S]*?<body[^>]*>/i, '').replace(/<\/body>[\s\S]*$/i, '').trim()
  void read()
}

/** What is asked and was answered with yes; of two lines for the same thing only one can be. */
const agreed = ref(new Set<number>())
const key = (row: GuidanceRow) => [row.short_side_px, row.frame_rate_class, row.codec, row.dynamic_range].join(' ')
const things = (one: Pasted['asked'][number]) => [
  ...one.rows.map(key), ...one.sound.map((row) => `sound ${row.channels} ${row.codec}`),
  ...Object.keys(one.limits).filter((name) => one.limits[name as keyof typeof one.limits] != null),
]
function agree(at: number, yes: boolean): void {
  const asked = pasted.value?.asked ?? []
  const mine = new Set(things(asked[at]!))
  const others = [...agreed.value].filter((other) => other !== at && !things(asked[other]!).some((thing) => mine.has(thing)))
  agreed.value = new Set(yes ? [...others, at] : [...agreed.value].filter((other) => other !== at))
}
const agreedOnes = computed(() => (pasted.value?.asked ?? []).filter((_, at) => agreed.value.has(at)))
const anything = computed(() => {
  const found = pasted.value
  return !!found && (found.rows.length > 0 || found.sound.length > 0 || agreed.value.size > 0 || limitTexts(found.limits).length > 0)
})
/** What beside the guidance was changed by the last paste. */
const changed = ref<string[]>([])

async function take(instead: boolean): Promise<void> {
  const found = pasted.value
  if (!found) return
  const parts = [found, ...agreedOnes.value]
  const rows = parts.flatMap((one) => one.rows).reverse()
  const limits = Object.assign({}, ...parts.map((one) => Object.fromEntries(Object.entries(one.limits).filter(([, value]) => value != null))))
  const taken = {
    rows: rows.filter((row, at) => rows.findIndex((other) => key(other) === key(row)) === at).reverse(),
    sound: parts.flatMap((one) => one.sound), limits,
  }
  problem.value = ''
  try {
    const answer = await api.takePasted(place.value, taken, instead)
    place.value = answer.draft
    changed.value = answer.changed
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be taken. Try again.'
    return
  }
  text.value = ''
  pasted.value = undefined
  pasting.value = false
}
const rowText = (row: GuidanceRow) =>
  `${row.short_side_px} ${row.frame_rate_class}${row.codec === 'h264' ? '' : ` ${CODECS[row.codec!]}`}${row.dynamic_range === 'hdr' ? ' HDR' : ''}: ${ends(row)} Mbit/s`
const soundText = (row: Pasted['sound'][number]) =>
  `${row.channels === 1 ? 'mono' : row.channels === 2 ? 'stereo' : 'sound'}${row.codec ? ` ${row.codec.toUpperCase()}` : ''}: ${kbps(row)}`
function limitTexts(limits: Pasted['limits']): string[] {
  const said: string[] = []
  if (limits.max_bytes) said.push(`files up to ${bytes(limits.max_bytes)}`)
  if (limits.max_duration_s) said.push(`films up to ${seconds(limits.max_duration_s)}`)
  if (limits.max_long_side_px) said.push(`frames up to ${limits.max_long_side_px}×${limits.max_short_side_px}`)
  if (limits.max_frame_rate) said.push(`up to ${limits.max_frame_rate} frames/s`)
  if (limits.codecs) said.push(limits.codecs.map((codec) => CODECS[codec as keyof typeof CODECS] ?? codec).join(', '))
  if (limits.containers) said.push(limits.containers.map((one) => one.toUpperCase()).join(', '))
  if (limits.sound_codecs) said.push(`sound in ${limits.sound_codecs.map((one) => one.toUpperCase()).join(', ')}`)
  return said
}
const wouldBe = (one: Pasted['asked'][number]) => [...one.rows.map(rowText), ...one.sound.map(soundText), ...limitTexts(one.limits)].join(' · ')
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
    <label class="tiny quiet" :for="`${path}-paste`">A table of sizes, frame rates and bit rates, or the text around it, as it stands on the help page</label>
    <textarea :id="`${path}-paste`" ref="field" v-model="text" rows="5" spellcheck="false" placeholder="1080p   24, 25, 30 fps   7–9.1 Mbit/s" @input="read" @paste="fromClipboard" />
    <p v-if="problem" role="alert" class="fault">{{ problem }}</p>
    <div v-if="pasted" class="found" aria-live="polite">
      <p>
        <b>{{ pasted.rows.length === 0 ? 'No row' : pasted.rows.length === 1 ? 'One row' : `${pasted.rows.length} rows` }} understood.</b>
        <span v-for="row in pasted.rows" :key="`${row.short_side_px}${row.frame_rate_class}${row.codec}${row.dynamic_range}`" class="mono bit">
          {{ rowText(row) }}
        </span>
      </p>
      <p v-if="pasted.sound.length">
        <b>Sound:</b> <span v-for="row in pasted.sound" :key="`${row.channels}${row.codec}`" class="mono bit">{{ soundText(row) }}</span>
      </p>
      <p v-if="limitTexts(pasted.limits).length">
        <b>Limits:</b> <span v-for="limit in limitTexts(pasted.limits)" :key="limit" class="bit">{{ limit }}</span>
      </p>
      <template v-if="pasted.asked.length">
        <p><b>{{ pasted.asked.length === 1 ? 'One line is uncertain.' : `${pasted.asked.length} lines are uncertain.` }}</b> Tick what holds; the rest is left out.</p>
        <ul class="asked" aria-label="Uncertain">
          <li v-for="(one, at) in pasted.asked" :key="at">
            <ElCheckbox :model-value="agreed.has(at)" @update:model-value="agree(at, !!$event)">
              <span class="mono">{{ wouldBe(one) }}</span>
            </ElCheckbox>
            <p class="tiny">{{ one.question }}</p>
            <p class="tiny quiet">Line {{ one.number }}: <span class="mono">{{ one.text }}</span></p>
          </li>
        </ul>
      </template>
      <template v-if="pasted.not_understood.length">
        <p><b>Not understood:</b></p>
        <ul aria-label="Not understood">
          <li v-for="(lost, at) in pasted.not_understood" :key="at">line {{ lost.number }}, {{ lost.why }}: <span class="mono">{{ lost.text }}</span></li>
        </ul>
      </template>
      <div class="row">
        <ElButton size="small" :disabled="!anything" @click="take(true)">{{ place.guidance?.length ? 'Take these instead' : 'Take these' }}</ElButton>
        <ElButton v-if="place.guidance?.length" size="small" :disabled="!anything" @click="take(false)">Add these</ElButton>
      </div>
    </div>
  </div>
  <p v-if="changed.length" role="status" class="tiny">{{ changed.join(' ') }}</p>
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

.found {
  overflow-wrap: anywhere;
}

.found p > b {
  margin-right: 10px;
}

.found ul {
  margin: 4px 0;
  padding-left: 18px;
}

.found .asked {
  padding: 0;
  list-style: none;
}

.asked li {
  padding: 4px 0;
}

.asked p {
  margin: 0 0 0 22px;
  overflow-wrap: anywhere;
}

.asked .el-checkbox {
  height: auto;
  white-space: normal;
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
