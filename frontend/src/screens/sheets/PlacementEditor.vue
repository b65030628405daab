<script setup lang="ts">
import NumberField from '../../parts/NumberField.vue'
import type { DraftPlacement } from './useSheetDraft'

/** What a placement takes and its limits. */
const place = defineModel<DraftPlacement>({ required: true })
const props = defineProps<{ path: string; wrong: (path: string) => string }>()
const at = (field: string) => props.wrong(`${props.path}.${field}`)
const CODECS = [['h264', 'H.264'], ['hevc', 'HEVC'], ['vp9', 'VP9'], ['av1', 'AV1'], ['vc3', 'VC-3, intra-frame']] as const
const BESIDE = [['mp4', 'MP4'], ['mov', 'MOV'], ['mkv', 'MKV'], ['webm', 'WebM']] as const
const ALONE = [['m4a', 'M4A'], ['mp3', 'MP3'], ['ogg', 'Ogg'], ['flac', 'FLAC'], ['wav', 'WAV']] as const

function toggle<T>(list: T[] | undefined, one: T): T[] {
  const now = list ?? []
  return now.includes(one) ? now.filter((other) => other !== one) : [...now, one]
}
const LEVELLED = CODECS.filter(([codec]) => codec !== 'vc3')
function level(codec: string, text: string): void {
  const { [codec]: _, ...others } = (place.value.max_level ?? {}) as Record<string, string>
  place.value.max_level = text.trim() ? { ...others, [codec]: text.trim() } : others
}
const SIDES = ['left', 'top', 'right', 'bottom'] as const
function cover(side: (typeof SIDES)[number], covered: number): void {
  place.value.covered = { left: 0, top: 0, right: 0, bottom: 0, ...place.value.covered, [side]: covered }
}
/** Shapes are read and typed as width to height, such as 16:9; the sheet keeps them as exact ratios. */
const SHAPES = [['narrowest', 'Narrowest shape', '9:16'], ['widest', 'Widest shape', '16:9'], ['usual_shape', 'Usual shape', '16:9']] as const
function shapeText(ratio: string | undefined): string {
  const text = String(ratio ?? '')
  return text.includes('/') ? text.replace('/', ':') : text && `${text}:1`
}
function setShape(field: (typeof SHAPES)[number][0], text: string): void {
  const [wide, high] = text.trim().split(':')
  place.value[field] = high === undefined ? text.trim() : Number(high) === 1 ? wide.trim() : `${wide.trim()}/${high.trim()}`
}
const value = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <fieldset class="fields">
    <label>Placement <input v-model="place.name" /><span class="fault">{{ at('name') }}</span></label>
    <label>Its id <input v-model="place.id" /><span class="fault">{{ at('id') }}</span></label>
    <template v-if="place.picture !== false">
      <label v-for="[field, name, such] in SHAPES" :key="field">{{ name }} <input :value="shapeText(place[field])" :placeholder="such" @change="setShape(field, value($event))" /><span class="fault">{{ at(field) }}</span></label>
      <label>Usual short side, px <NumberField v-model="place.usual_short_side_px" /><span class="fault">{{ at('usual_short_side_px') }}</span></label>
      <label>Longest long side, px <NumberField v-model="place.max_long_side_px" /><span class="fault">{{ at('max_long_side_px') }}</span></label>
      <label>Longest short side, px <NumberField v-model="place.max_short_side_px" /><span class="fault">{{ at('max_short_side_px') }}</span></label>
      <label>Highest frame rate <input v-model="place.max_frame_rate" placeholder="60" /><span class="fault">{{ at('max_frame_rate') }}</span></label>
    </template>
    <label>Largest file, MB <NumberField v-model="place.max_bytes" :scale="1e6" /><span class="fault">{{ at('max_bytes') }}</span></label>
    <label>Longest film, s <NumberField v-model="place.max_duration_s" /><span class="fault">{{ at('max_duration_s') }}</span></label>
  </fieldset>
  <details class="rare">
    <summary>Limits that few sheets state: quota, peak rate, levels, keyframes, what the page covers</summary>
    <fieldset class="fields">
      <template v-if="place.picture !== false">
        <label>Keyframes every, s <NumberField v-model="place.keyframe_interval_s" /><span class="fault">{{ at('keyframe_interval_s') }}</span></label>
      </template>
      <label>Quota, MB <NumberField v-model="place.quota_bytes" :scale="1e6" optional placeholder="none" /><span class="fault">{{ at('quota_bytes') }}</span></label>
      <label v-if="place.quota_bytes != null">in days <NumberField v-model="place.quota_days" /><span class="fault">{{ at('quota_days') }}</span></label>
      <label v-if="place.picture !== false">Highest peak, Mbit/s <NumberField v-model="place.peak_bps" :scale="1e6" optional placeholder="any" /><span class="fault">{{ at('peak_bps') }}</span></label>
      <template v-if="place.picture !== false">
        <label v-for="side in SIDES" :key="side">Its page covers, {{ side }}, % <NumberField :model-value="place.covered?.[side] || null" :scale="0.01" optional placeholder="0" @update:model-value="cover(side, $event ?? 0)" /><span class="fault">{{ at(`covered.${side}`) }}</span></label>
      </template>
      <label v-for="[codec, name] in LEVELLED.filter(([codec]) => place.codecs?.includes(codec))" :key="codec"
        >Highest {{ name }} level <input :value="place.max_level?.[codec] ?? ''" placeholder="any" @input="level(codec, value($event))" /><span class="fault">{{ at(`max_level.${codec}`) }}</span></label
      >
    </fieldset>
  </details>
  <div class="lists">
    <p v-if="place.picture !== false">
      <span class="quiet">Codecs, first choice first:</span>
      <label v-for="[codec, name] in CODECS" :key="codec"><input type="checkbox" :checked="place.codecs?.includes(codec)" @change="place.codecs = toggle(place.codecs, codec)" /> {{ name }}<span v-if="place.codecs?.includes(codec) && place.codecs.length > 1" class="tiny quiet">&nbsp;({{ place.codecs.indexOf(codec) + 1 }})</span></label>
      <span class="fault">{{ at('codecs') }}</span>
    </p>
    <p>
      <span class="quiet">Containers:</span>
      <label v-for="[container, name] in place.picture === false ? ALONE : BESIDE" :key="container"><input type="checkbox" :checked="place.containers.includes(container)" @change="place.containers = toggle(place.containers, container)" /> {{ name }}</label>
      <span class="fault">{{ at('containers') }}</span>
    </p>
    <p>
      <span class="quiet">Keeps:</span>
      <label v-for="kept in ['chapters', 'captions'] as const" :key="kept"><input type="checkbox" :checked="place.keeps?.includes(kept)" @change="place.keeps = toggle(place.keeps, kept)" /> {{ kept }}</label>
    </p>
  </div>
</template>

<style scoped>
.rare {
  margin-top: 8px;
}

.lists {
  margin-top: 8px;
}

.lists p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}
</style>
