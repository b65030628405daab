<script setup lang="ts">
/** A stamp: what a check found. Care names its matter; held is boxed in ink. */
defineProps<{ outcome: string; text: string; title?: string }>()
</script>

<template>
  <span class="stamp" :class="outcome.split(' ')[0]" :title="title">
    <template v-if="outcome === 'handle with care'">care: </template>
    <template v-else-if="outcome === 'held'">held: </template>{{ text }}
  </span>
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
