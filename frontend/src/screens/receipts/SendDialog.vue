<script setup lang="ts">
import { ElButton, ElCheckbox, ElDialog, ElInput, ElInputTag, ElOption, ElRadio, ElRadioGroup, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'

import { api, type KeptReceipt } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import { bytes, mbps, seconds } from '../../data/words'
import { useSendDraft } from './useSendDraft'

/** Send a packed file to a stand-in platform: what goes along with it, and over which line. */
const props = defineProps<{ kept: KeptReceipt }>()
const emit = defineEmits<{ sent: [] }>()
const open = defineModel<boolean>({ required: true })
const { value: known } = useAnswer((signal) => api.sendings(props.kept.job_id, signal))
const { title, description, tags, to } = useSendDraft(known)
const line = ref<'own' | 'quick'>('quick')
const unsteady = ref(false)
const refused = ref('')
const takes = (upload_s?: number) => (upload_s === undefined ? '' : upload_s < 1 ? 'a moment' : `about ${seconds(upload_s)}`)
const uplink = computed(() => mbps(known.value?.uplink_bps ?? 0))
const name = computed(() => known.value?.choices.find((one) => one.destination_id === to.value)?.name ?? 'the platform')
async function send(): Promise<void> {
  refused.value = ''
  try {
    await api.send(props.kept.job_id, {
      destination_id: to.value || null, quick: line.value === 'quick', unsteady: unsteady.value,
      words: { title: title.value.trim(), description: description.value.trim(), tags: tags.value },
    })
    open.value = false
    emit('sent')
  } catch (error) {
    refused.value = (error as Error).message
  }
}
</script>

<template>
  <ElDialog v-model="open" :title="`Send to ${name}`" width="620" align-center>
    <p class="cut"><span class="mono">{{ kept.receipt.file_name }}</span> · {{ bytes(kept.receipt.size_bytes) }}</p>
    <p v-if="known && !known.docks" role="alert" class="refused">No stand-in platforms are running. Start the service without --no-docks.</p>
    <form v-else class="fields" @submit.prevent="send">
      <template v-if="(known?.choices.length ?? 0) > 1">
        <label for="send-to">To</label>
        <ElSelect id="send-to" v-model="to"><ElOption v-for="one in known!.choices" :key="one.destination_id" :value="one.destination_id" :label="one.name" /></ElSelect>
      </template>
      <label for="send-title">Title</label>
      <ElInput id="send-title" v-model="title" maxlength="300" placeholder="what viewers read above it" />
      <label for="send-words">Description</label>
      <ElInput id="send-words" v-model="description" type="textarea" :rows="3" maxlength="5000" />
      <label for="send-tags">Tags</label>
      <ElInputTag id="send-tags" v-model="tags" :max="40" placeholder="Enter after each" aria-label="Tags" />
      <span id="send-line">Line</span>
      <div>
        <ElRadioGroup v-model="line" aria-labelledby="send-line">
          <ElRadio value="quick">quick: {{ takes(known?.quick_s) }}</ElRadio>
          <ElRadio value="own">as mine, {{ uplink }}: {{ takes(known?.own_s) }}</ElRadio>
        </ElRadioGroup>
        <ElCheckbox v-model="unsteady">unsteady: it swings, and is cut now and then</ElCheckbox>
      </div>
    </form>
    <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
    <p class="quiet tiny note">It goes to a stand-in on this machine that knows only its own rules and this file. What it serves is fetched, measured against the master and held against the forecast.</p>
    <template #footer>
      <ElButton @click="open = false">Not now</ElButton>
      <ElButton class="sends" :disabled="!known?.docks" @click="send">Send</ElButton>
    </template>
  </ElDialog>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 10px 12px;
  align-items: start;
  margin-top: 12px;
}

.fields > label,
.fields > span {
  padding-top: 5px;
}

.refused {
  margin-top: 10px;
  font-weight: 700;
}

.fields :deep(.el-radio) {
  font-weight: 400;
}

.note {
  margin-top: 12px;
}
</style>
