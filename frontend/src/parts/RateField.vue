<script setup lang="ts">
import { ElButton, ElInput } from 'element-plus'
import { nextTick, ref } from 'vue'

import { mbps } from '../data/words'

/** A bit rate where it stands: a click turns it into a field, and what is typed there (2.3, 2,3 Mbit/s, 2300k) is read by the service. */
const props = defineProps<{ bps: number; name: string; disabled?: boolean }>()
const emit = defineEmits<{ set: [text: string] }>()
const typing = ref(false)
const text = ref('')
const field = ref<InstanceType<typeof ElInput>>()
async function begin(): Promise<void> {
  text.value = mbps(props.bps).replace(' Mbit/s', '')
  typing.value = true
  await nextTick()
  field.value?.select()
}
function enter(): void {
  if (!typing.value) return
  typing.value = false
  const typed = text.value.trim()
  if (typed && typed !== mbps(props.bps).replace(' Mbit/s', '')) emit('set', typed)
}
</script>

<template>
  <ElInput v-if="typing" ref="field" v-model="text" size="small" class="field mono" :aria-label="`Bit rate of ${name}`" @keydown.enter.prevent="enter" @keydown.esc="typing = false" @blur="enter">
    <template #suffix>Mbit/s</template>
  </ElInput>
  <ElButton v-else link class="rate" :disabled="disabled" :aria-label="`Bit rate of ${name}, ${mbps(bps)}: type another`" @click="begin">{{ mbps(bps) }}</ElButton>
</template>

<style scoped>
.rate {
  flex: none;
  height: auto;
  padding: 0;
  color: inherit;
  font: inherit;
  font-weight: 700;
  text-decoration: underline dotted var(--second-ink);
  text-underline-offset: 3px;
  cursor: text;
}

.field {
  flex: none;
  width: 118px;
}
</style>
