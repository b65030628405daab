<script setup lang="ts">
import { RouterLink, useRoute } from 'vue-router'

/** The screens of one master. */
defineProps<{ masterId: string }>()
const route = useRoute()
const tabs = [
  { name: 'master', text: 'Master' },
  { name: 'lanes', text: 'Lanes' },
  { name: 'framing', text: 'Framing' },
]
</script>

<template>
  <nav class="row" aria-label="This master">
    <RouterLink
      v-for="tab in tabs" :key="tab.name" class="tab" :class="{ here: route.name === tab.name }"
      :aria-current="route.name === tab.name ? 'page' : undefined" :to="{ name: tab.name, params: { masterId } }"
    >{{ tab.text }}</RouterLink>
  </nav>
</template>

<style scoped>
.tab {
  padding: 1px 10px;
  border: 1px solid var(--second-ink);
  border-radius: var(--corner);
  text-decoration: none;
}

.tab.here {
  background: var(--ink);
  border-color: var(--ink);
  color: var(--sheet);
}
</style>
