<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'

import type { Aim, Choices, ParcelView } from '../../data/api'
import { bytes } from '../../data/words'

/** The one recommendation: what it is, why, what it risks, and what the choice here costs against it; a larger frame beside it. */
const props = defineProps<{ view: ParcelView; unkept: boolean }>()
const emit = defineEmits<{ take: [part: Partial<Choices>]; aim: [aim: Aim] }>()
const advice = computed(() => props.view.recommended ?? undefined)
const AIMS: Aim[] = ['best quality', 'safe', 'smallest']
</script>

<template>
  <div v-if="advice" class="advice" role="group" aria-label="Recommended">
    <p>
      <span class="tag" :class="{ good: advice.taken }">Recommended</span>
      <b>{{ advice.option }}</b>, about {{ bytes(advice.size_bytes) }}. {{ advice.because }} {{ advice.risk }}
      <span v-if="!advice.taken" class="quiet">Against this plan: {{ advice.against }}.</span>
    </p>
    <div class="row">
      <label class="quiet tiny" for="aim">{{ view.summary.destination.sheet_name }}:</label>
      <ElSelect id="aim" :model-value="view.aim" class="aim" size="small" @change="emit('aim', $event as Aim)">
        <ElOption v-for="aim in AIMS" :key="aim" :label="aim" :value="aim" />
      </ElSelect>
      <ElButton v-if="!advice.taken" class="leads" size="small" :disabled="unkept" @click="emit('take', advice.part as Partial<Choices>)">Use recommended</ElButton>
    </div>
  </div>
  <div v-else-if="view.summary.suggestions?.length" class="row">
    <ElButton v-for="one in view.summary.suggestions" :key="one.code" size="small" :disabled="unkept" :title="one.sentence" @click="emit('take', one.part as Partial<Choices>)">{{ one.button }}</ElButton>
  </div>
</template>

<style scoped>
.advice {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 6px 10px;
  background: var(--sheet);
  border: 1px solid var(--line);
}

.advice :deep(.el-button) {
  margin: 0;
  flex: none;
}

.advice p {
  flex: 1;
  min-width: 0;
}

.advice .row {
  flex: none;
  gap: 8px;
}

.tag {
  margin-right: 6px;
  padding: 0 6px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  font: 600 12px/18px var(--slab);
  color: var(--second-ink);
}

.tag.good {
  color: var(--cleared);
  border-color: var(--cleared);
}

.aim {
  flex: none;
  width: 118px;
}
</style>
