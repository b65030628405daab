<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Choices, ParcelView } from '../../data/api'
import { rate } from '../../data/words'
import DraftInput from '../../parts/DraftInput.vue'
import SharpeningDialog from './SharpeningDialog.vue'

/** Every value that the pickers do not show, typed. An empty field is left to the plan, whose value stands in it, pale. */
const props = defineProps<{ view: ParcelView; masterId: string }>()
const emit = defineEmits<{ change: [part: Partial<Choices>] }>()
const plan = computed(() => props.view.parcel.plan)
const choices = computed(() => props.view.parcel.choices)
const video = computed(() => plan.value.video)
const audio = computed(() => plan.value.audio)
const copied = computed(() => plan.value.method.value !== 'encoded')

const looking = ref(false)
const scaledDown = computed(() => {
  const framing = video.value?.framing.value
  return !!framing && framing.picture.width < framing.crop.width
})

interface Field {
  key: keyof Choices
  name: string
  unit: string
  planned: string
  /** How many of the choice's units one of the field's is. */
  times: number
}
const mega = (bps: number | null | undefined) => (bps == null ? '' : String(bps / 1e6))
const fields = computed<Field[]>(() => {
  const found: Field[] = []
  const seconds = video.value ? Number(rate(video.value.frame_rate.value)) : 1
  if (video.value && !copied.value) {
    const { value: framing } = video.value.framing
    const { value: ceiling } = video.value.ceiling_bps
    if (video.value.rate_control.value !== 'fixed by the codec') {
      found.push({ key: 'video_bitrate_bps', name: 'Bit rate', unit: 'Mbit/s', planned: mega(video.value.target_bps.value), times: 1e6 })
      if (ceiling != null) found.push({ key: 'ceiling_bps', name: 'Ceiling', unit: 'Mbit/s', planned: mega(ceiling), times: 1e6 })
      if (ceiling) found.push({ key: 'buffer_s', name: 'Buffer', unit: 's', planned: String((video.value.buffer_bits.value ?? 0) / ceiling), times: 1 })
      found.push({ key: 'keyframe_interval_s', name: 'Keyframes every', unit: 's', planned: String((video.value.keyframe_interval_frames.value ?? 1) / seconds), times: 1 })
    }
    if (video.value.quality.value != null) found.push({ key: 'quality', name: 'Quality value', unit: '', planned: String(video.value.quality.value), times: 1 })
    found.push({ key: 'short_side_px', name: 'Short side', unit: 'px', planned: String(Math.min(framing.width, framing.height)), times: 1 })
    found.push({ key: 'frame_rate', name: 'Frame rate', unit: '1/s', planned: rate(video.value.frame_rate.value), times: 0 })
  }
  if (audio.value && !copied.value) {
    if (audio.value.bitrate_bps.value != null && audio.value.codec.value !== 'pcm')
      found.push({ key: 'sound_bitrate_bps', name: 'Sound', unit: 'kbit/s', planned: String(audio.value.bitrate_bps.value / 1000), times: 1000 })
    found.push({ key: 'sample_rate_hz', name: 'Sample rate', unit: 'Hz', planned: String(audio.value.sample_rate_hz.value), times: 1 })
    found.push({ key: 'channels', name: 'Channels', unit: '', planned: String(audio.value.channels.value), times: 1 })
    found.push({ key: 'gain_db', name: 'Gain', unit: 'dB', planned: String(audio.value.gain_db.value), times: 1 })
  }
  found.push({ key: 'max_bytes', name: 'Size limit', unit: 'MB', planned: String(plan.value.size_cap.value / 1e6), times: 1e6 })
  return found
})
const shown = ({ key, times }: Field) => {
  const value = choices.value[key]
  return value == null ? '' : times > 1 ? String(Number(value) / times) : String(value)
}
function typed({ key, times }: Field, text: string): void {
  const clean = text.trim().replace(',', '.').replace('−', '-')
  const value = clean === '' ? null : times === 0 ? clean : times > 1 ? Math.round(Number(clean) * times) : Number(clean)
  emit('change', { [key]: value } as Partial<Choices>)
}
</script>

<template>
  <details class="more">
    <summary>every other value</summary>
    <div class="fields">
      <label v-for="field in fields" :key="field.key">
        <span>{{ field.name }}<template v-if="field.unit">, {{ field.unit }}</template></span>
        <DraftInput class="value" :text="shown(field)" :placeholder="field.planned" @typed="typed(field, $event)" />
      </label>
    </div>
    <p v-if="!copied" class="switches">
      <label v-if="plan.fast_start.because.code !== 'no_index'"><input type="checkbox" :checked="plan.fast_start.value" @change="emit('change', { fast_start: !plan.fast_start.value })" /> index first</label>
      <label><input type="checkbox" :checked="choices.sound !== false" @change="emit('change', { sound: choices.sound === false })" /> sound</label>
      <label v-if="view.parcel.destination.placement.picture !== false"><input type="checkbox" :checked="choices.picture !== false" @change="emit('change', { picture: choices.picture === false })" /> picture</label>
      <label v-if="video && !copied"><input type="checkbox" :checked="choices.sharpen === true" @change="emit('change', { sharpen: choices.sharpen !== true })" /> sharpen lightly</label>
      <button v-if="video && !copied" type="button" class="link" :disabled="!scaledDown" :title="scaledDown ? '' : 'Nothing is scaled down here'" @click="looking = true">
        {{ scaledDown ? 'see what it does' : 'nothing is scaled down to sharpen' }}
      </button>
    </p>
    <SharpeningDialog
      v-if="looking" v-model="looking" :master-id="masterId" :destination-id="view.parcel.destination.id" :on="choices.sharpen === true"
      @choose="emit('change', { sharpen: $event })"
    />
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
}

.fields {
  display: grid;
  grid-template-columns: repeat(6, minmax(0, 1fr));
  gap: 6px 14px;
  margin-top: 6px;
}

.fields label {
  font-size: 12.5px;
  color: var(--second-ink);
}

.value {
  width: 100%;
  padding: 2px 6px;
  color: var(--ink);
  font: 13px var(--mono);
}

.value::placeholder {
  color: var(--second-ink);
  opacity: 1;
}

.switches {
  display: flex;
  gap: 18px;
  margin-top: 6px;
}

input[type='checkbox'] {
  accent-color: var(--ink);
}
</style>
