<script setup lang="ts">
import { ElButton } from 'element-plus'

import type { Trouble } from '../data/api'

defineProps<{ trouble: Trouble }>()
const emit = defineEmits<{ again: [] }>()
</script>

<template>
  <div class="note" role="alert">
    <p>{{ trouble.message }}</p>
    <ElButton size="small" @click="emit('again')">Try again</ElButton>
  </div>
</template>

<style scoped>
.note {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 10px 14px;
  border: 2px solid var(--ink);
  border-radius: var(--corner);
  background: var(--sheet);
}
</style>
