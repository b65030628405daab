<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'
import { ref, watch } from 'vue'

import { api, type Choices, type Excerpt, type OtherOption } from '../data/api'
import { useAnswer } from '../data/useAnswer'
import { seconds } from '../data/words'

/** What a lane beside this one might do otherwise, each with the time until its first figure. `made` tells the id of the new
 * parcel, and whether it is to be changed by hand. */
const props = defineProps<{ parcelId: string; name: string }>()
const emit = defineEmits<{ made: [parcelId: string, byHand: boolean] }>()
const open = defineModel<boolean>({ required: true })
const { value: options, trouble } = useAnswer((signal) => api.otherOptions(props.parcelId, signal), [() => props.parcelId])
const refused = ref('')
watch(open, () => (refused.value = ''))

async function make(option?: OtherOption): Promise<void> {
  refused.value = ''
  try {
    const made = await api.tryAnotherOption(props.parcelId, option?.part as Partial<Choices>, option?.excerpt as Excerpt | null)
    open.value = false
    emit('made', made.summary.parcel.id, !option)
  } catch (error) {
    refused.value = (error as Error).message
  }
}
const capital = (text: string) => text[0].toUpperCase() + text.slice(1)
function time(option: OtherOption): string {
  if (option.test_s == null) return 'needs no test'
  return option.test_s === 0 ? 'tested already' : `first figure in about ${seconds(option.test_s)}`
}
</script>

<template>
  <ElDialog v-model="open" title="Try another option" width="560" align-center>
    <p>Each stands as a lane of its own beside {{ name }}, to be compared and packed.</p>
    <p v-if="refused || trouble" role="alert"><b>{{ refused || trouble!.message }}</b></p>
    <p v-if="!options && !trouble" class="quiet">Fetching what could be tried…</p>
    <ul class="options">
      <li v-for="option in options" :key="option.words">
        <span class="words">{{ capital(option.words) }}</span><span class="quiet">{{ time(option) }}</span>
        <ElButton size="small" :aria-label="`Try it: ${option.words}`" @click="make(option)">Try it</ElButton>
      </li>
      <li>
        <span class="words">The same, to change by hand</span>
        <ElButton size="small" aria-label="Try it: the same, to change by hand" @click="make()">Try it</ElButton>
      </li>
    </ul>
  </ElDialog>
</template>

<style scoped>
.options {
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
}

.options li {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}

.words {
  flex: 1;
}
</style>
