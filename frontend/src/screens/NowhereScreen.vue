<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <div class="page">
    <h1>Nothing is delivered here</h1>
    <p class="first-sentence">There is no such page. <RouterLink :to="{ name: 'shelf' }">Go to the shelf</RouterLink>.</p>
  </div>
</template>
