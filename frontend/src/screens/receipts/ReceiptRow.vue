<script setup lang="ts">
import { ElButton, ElCheckbox, ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { useClipboard } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, type HandoffFound, type KeptReceipt, type SentBrief } from '../../data/api'
import { bytes } from '../../data/words'
import StampMark from '../../parts/StampMark.vue'
import ReceiptPanel from './ReceiptPanel.vue'
import SendDialog from './SendDialog.vue'

/** One line of a receipt that opens to all of it. */
const props = defineProps<{ kept: KeptReceipt; open: boolean; ticked: boolean; sent?: SentBrief }>()
const emit = defineEmits<{ toggle: []; tick: [on: boolean]; remove: []; sums: [] }>()
const receipt = computed(() => props.kept.receipt)
const path = computed(() => `${receipt.value.folder}/${receipt.value.file_name}`)
const differing = computed(() => receipt.value.rows.filter((row) => row.match === 'differs'))
const rate = computed(() => receipt.value.rows.find((row) => row.code === 'bitrate')?.measured ?? '')
const when = computed(() => {
  const made = new Date(props.kept.made_at * 1000)
  return made.toDateString() === new Date().toDateString() ? made.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' }) : made.toLocaleDateString()
})
const router = useRouter()
/** Sound alone has nothing to look at. */
const pictured = computed(() => receipt.value.pictures > 0)
const { copy, copied } = useClipboard()
const carried = ref<HandoffFound | null>(null)
const said = ref('')
const playing = ref(false)
const sending = ref(false)
async function act(name: string): Promise<void> {
  if (name === 'send') sending.value = true
  if (name === 'look') void router.push({ name: 'film-look', params: { receiptId: props.kept.job_id } })
  if (name === 'play') playing.value = !playing.value
  if (name === 'path') void copy(path.value)
  if (name === 'show') {
    try {
      const { shown } = await api.showInFolder(props.kept.job_id)
      said.value = shown ? '' : `No desktop opens folders from here; it is ${path.value}`
      if (!shown) void copy(path.value)
    } catch (error) {
      said.value = (error as Error).message
    }
  }
  if (name === 'txt' || name === 'json') window.open(api.slip(props.kept.job_id, name), '_blank', 'noopener')
  if (name === 'sums') emit('sums')
  if (name === 'remove') emit('remove')
  if (name === 'lockbox' || name === 'natterline') {
    carried.value = null
    said.value = `On its way by ${name === 'lockbox' ? 'Lockbox' : 'Natterline'}…`
    try {
      carried.value = await api.tryCourier(props.kept.job_id, name)
      said.value = `By ${name === 'lockbox' ? 'Lockbox' : 'Natterline'}: ${carried.value.sentence}`
    } catch (error) {
      said.value = (error as Error).message
    }
  }
}
</script>

<template>
  <article :id="kept.job_id" class="receipt">
    <div class="line">
      <ElCheckbox :model-value="ticked" :aria-label="`Compare ${receipt.file_name}`" @change="emit('tick', !!$event)" />
      <button type="button" class="link name cut" :aria-expanded="open" :title="path" @click="emit('toggle')">{{ receipt.file_name }}</button>
      <span class="quiet cut">{{ receipt.serves?.length ? receipt.serves.join(', ') : kept.destination_id.replace('-', ' ') }}</span>
      <span class="mono right">{{ bytes(receipt.size_bytes) }}</span>
      <span class="mono right cut">{{ rate }}</span>
      <span v-if="receipt.judged" class="right" :title="`Measured on the file beside its master, on a laptop: ${receipt.judged.words}`"><b class="slab">{{ receipt.judged.condition.toFixed(0) }}</b> <span class="quiet tiny">of 100</span></span>
      <span v-else />
      <StampMark v-if="differing.length" outcome="handle with care" :text="differing.length === 1 ? `${differing[0].setting.toLowerCase()} differs` : `${differing.length} values differ`" />
      <StampMark v-else outcome="cleared" text="as planned" />
      <span class="quiet right">{{ when }}</span>
      <ElButton size="small" :aria-label="`${sent ? 'Send again' : 'Send'} ${receipt.file_name}`" @click="sending = true">{{ sent ? 'Send again' : 'Send' }}</ElButton>
      <ElDropdown trigger="click" placement="bottom-end" @command="act">
        <ElButton text class="dots" :aria-label="`More about ${receipt.file_name}`">…</ElButton>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem command="send">{{ sent ? 'Send it again' : 'Send it to its platform' }}</ElDropdownItem>
            <ElDropdownItem v-if="pictured" command="look">Look at its pictures</ElDropdownItem>
            <ElDropdownItem command="play">{{ playing ? 'Stop playing' : 'Play it here' }}</ElDropdownItem>
            <ElDropdownItem command="show">Show it in its folder</ElDropdownItem>
            <ElDropdownItem command="path">Copy its path</ElDropdownItem>
            <ElDropdownItem command="txt" divided>Save the slip as text</ElDropdownItem>
            <ElDropdownItem command="json">Save the slip as JSON</ElDropdownItem>
            <ElDropdownItem command="sums">Write SHA256SUMS into its folder</ElDropdownItem>
            <ElDropdownItem command="lockbox" divided>Try the courier Lockbox</ElDropdownItem>
            <ElDropdownItem command="natterline">Try the courier Natterline</ElDropdownItem>
            <ElDropdownItem command="remove" divided>Remove the receipt, not the file</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </ElDropdown>
    </div>
    <p v-if="copied" class="tiny quiet said" role="status">Copied: <span class="mono">{{ path }}</span></p>
    <p v-if="said" class="said" role="status">{{ said }}</p>
    <video v-if="playing" :src="api.packedFile(kept.job_id)" controls class="film" :aria-label="receipt.file_name" />
    <p v-if="sent && !open" class="sent tiny"><span class="slab">{{ sent.state === 'arrived' ? '◆ returned' : sent.state === 'refused' ? '✕ refused' : sent.state === 'failed' ? '✕ not done' : '→ sent' }}</span> {{ sent.sentence }}</p>
    <SendDialog v-if="sending" v-model="sending" :kept="kept" @sent="open || emit('toggle')" />
    <ReceiptPanel v-if="open" :kept="kept" />
  </article>
</template>

<style scoped>
.receipt {
  border-bottom: 1px dashed var(--line);
}

.line {
  display: grid;
  grid-template-columns: 16px minmax(200px, 1.6fr) minmax(110px, 0.6fr) 72px 96px 66px 132px 82px 92px 28px;
  gap: 12px;
  align-items: center;
  min-height: 42px;
}

.line > * {
  min-width: 0;
}

.name {
  text-align: left;
  font: 600 15px/1.3 var(--slab);
}

.right {
  text-align: right;
}

.line :deep(.stamp) {
  justify-self: start;
  max-width: 100%;
}

.sent {
  padding: 0 0 7px 28px;
}

.said {
  padding: 0 0 6px 28px;
}

.film {
  display: block;
  max-width: min(100%, 640px);
  max-height: 360px;
  margin: 4px 0 10px 28px;
  background: #000;
}

@media (max-width: 1099px) {
  .line {
    grid-template-columns: 16px minmax(160px, 1.6fr) 0 66px 90px 60px 122px 62px 82px 28px;
    gap: 9px;
  }
}
</style>
