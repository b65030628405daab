<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, watch } from 'vue'

import type { Choices, ParcelSummary, Seen } from '../../data/api'

/** What a knowledgeable friend would change here, a button each; what the one in hand brings and costs is said beside them. */
const props = defineProps<{ summary: ParcelSummary; seen: Seen; unkept: boolean }>()
const emit = defineEmits<{ take: [part: Partial<Choices>] }>()
const all = computed(() => [...props.seen.suggestions, ...props.summary.suggestions])
const inHand = ref('')
watch(all, () => (inHand.value = ''))
const said = computed(() => (all.value.find((one) => one.code === inHand.value) ?? all.value[0])?.sentence)
</script>

<template>
  <div v-if="all.length" class="suggestions" role="group" aria-label="Worth changing">
    <div class="row">
      <ElButton
        v-for="one in all" :key="one.code" size="small" :disabled="unkept" :title="one.sentence" @mouseenter="inHand = one.code" @focus="inHand = one.code"
        @click="emit('take', one.part as Partial<Choices>)"
      >{{ one.button }}</ElButton>
    </div>
    <p class="quiet" aria-live="polite">{{ said }}</p>
  </div>
</template>

<style scoped>
.suggestions {
  margin: 0 0 8px;
}

.row {
  flex-wrap: wrap;
  gap: 6px;
}

.row :deep(.el-button) {
  margin: 0;
}

p {
  min-height: 20px;
  margin: 3px 0 0;
}
</style>
