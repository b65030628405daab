<script setup lang="ts">
import { ElTooltip } from 'element-plus'

/** A stamp: what a check found. Care names its matter; held is boxed in ink. Its explanation is shown on hover, focus and touch. */
defineProps<{ outcome: string; text: string; explanation?: string; inLink?: boolean }>()
</script>

<template>
  <ElTooltip
    :disabled="!explanation"
    :content="explanation"
    placement="top"
    :trigger="['hover', 'focus', 'click']"
    popper-class="explains"
  >
    <span class="stamp" :class="outcome.split(' ')[0]" :tabindex="explanation && !inLink ? 0 : undefined">
      <template v-if="outcome === 'handle with care'">care: </template>
      <template v-else-if="outcome === 'held'">held: </template>{{ text }}
    </span>
  </ElTooltip>
</template>

<style scoped>
.stamp {
  display: inline-block;
  padding: 0 7px;
  border: 1.5px solid;
  border-radius: var(--corner);
  font: 600 13px/20px var(--slab);
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  vertical-align: bottom;
}

.cleared {
  color: var(--cleared);
}

.handle {
  color: var(--care);
  background: var(--care-ground);
}

.held {
  color: var(--sheet);
  background: var(--ink);
  border-color: var(--ink);
}
</style>
