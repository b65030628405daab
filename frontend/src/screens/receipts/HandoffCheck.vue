<script setup lang="ts">
import { ElButton, ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, type HandoffFound, type KeptReceipt } from '../../data/api'
import { useHandoff } from '../../data/useHandoff'

/** A file that came back from a phone, a colleague or a drive: dropped or chosen, and told what became of it. */
const props = defineProps<{ receipts: KeptReceipt[] }>()
const { name, file, found, trouble, busy, check, clear } = useHandoff()
const router = useRouter()
const picker = ref<HTMLInputElement>()
const words: Record<HandoffFound['outcome'], string> = {
  same_bytes: 'the same, bit for bit', re_wrapped: 're-wrapped, nothing lost', tags_changed: 'only tags changed', sound_changed: 'the sound was changed',
  recompressed: 'recompressed', another_film: 'another film',
}
const good = (outcome: HandoffFound['outcome']) => ['same_bytes', 're_wrapped', 'tags_changed'].includes(outcome)
const chosen = ref('')
const best = ref(true)
const wrong = ref('')
/** Served by a platform: of which parcel, as was found or as is named. */
const parcel = computed(() => found.value?.job_id ?? chosen.value)
const films = computed(() => props.receipts.filter((kept) => kept.receipt.rows.some((row) => row.code === 'codec')))
async function learn(): Promise<void> {
  wrong.value = ''
  try {
    const { record } = await api.bringFileBack(file.value!, parcel.value, best.value)
    clear()
    await router.push({ name: 'learn', params: { returnedId: record.id } })
  } catch (error) {
    wrong.value = (error as Error).message
  }
}
function picked(event: Event): void {
  const input = event.target as HTMLInputElement
  if (input.files?.[0]) void check(input.files[0])
  input.value = ''
}
</script>

<template>
  <section class="handoff" aria-label="A file that came back">
    <p v-if="busy" role="status">Holding <b>{{ name }}</b> against what was packed…</p>
    <p v-else-if="trouble" role="alert"><b>{{ name }}</b>: {{ trouble }} <ElButton size="small" @click="clear">Leave it</ElButton></p>
    <div v-else-if="found" role="status">
      <p class="row"><b class="cut">{{ name }}</b> <span class="verdict" :class="{ good: good(found.outcome) }">{{ good(found.outcome) ? '✓' : '≠' }} {{ words[found.outcome] }}</span> <span class="grow" /> <a v-if="found.job_id" :href="`#${found.job_id}`">its receipt</a> <ElButton size="small" @click="clear">Leave it</ElButton></p>
      <p>{{ found.sentence }}</p>
      <p v-if="found.judged?.length" class="mono tiny quiet">{{ found.judged.map((one) => `${one.screen} ${one.condition.toFixed(0)}, ${one.words}`).join(' · ') }}</p>
    </div>
    <p v-if="!busy && file && (found?.outcome === 'recompressed' || trouble)" class="row served">
      <span>Did a platform serve it?</span>
      <ElSelect v-if="!found" v-model="chosen" size="small" class="which" placeholder="of which parcel?" aria-label="Of which parcel it is"><ElOption v-for="kept in films" :key="kept.job_id" :value="kept.job_id" :label="kept.receipt.file_name" /></ElSelect>
      <ElCheckbox v-model="best">nothing better is served there</ElCheckbox>
      <ElButton size="small" :disabled="!parcel" @click="learn">Measure it and learn from it</ElButton>
    </p>
    <p v-if="wrong" role="alert"><b>{{ wrong }}</b></p>
    <p v-if="!busy && !trouble && !found" class="row quiet">Got a file back from a phone, a colleague or a drive? Drop it on this page, or <ElButton size="small" @click="picker?.click()">choose it</ElButton> to see whether it is still what was packed.</p>
    <input ref="picker" type="file" accept="video/*,audio/*" class="hidden" aria-label="A file that came back" @change="picked" />
  </section>
</template>

<style scoped>
.handoff {
  margin-top: 12px;
  padding: 10px 14px;
  border: 1.5px dashed var(--twine);
}

.row {
  flex-wrap: wrap;
}

.served {
  margin-top: 6px;
}

.which {
  width: 320px;
}

.verdict {
  font-weight: 700;
}

.good {
  color: var(--cleared);
}

.hidden {
  display: none;
}
</style>
