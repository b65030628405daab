<script setup lang="ts">
import { ElRadioButton, ElRadioGroup } from 'element-plus'

import { useViewer } from '../data/viewer'

const viewer = useViewer()
</script>

<template>
  <div class="row">
    <span class="quiet label">Seen on</span>
    <ElRadioGroup v-model="viewer.screen" aria-label="Viewer's screen">
      <ElRadioButton value="phone">Phone</ElRadioButton>
      <ElRadioButton value="laptop">Laptop</ElRadioButton>
      <ElRadioButton value="tv">TV</ElRadioButton>
    </ElRadioGroup>
    <ElRadioGroup v-model="viewer.line" aria-label="Viewer's line">
      <ElRadioButton value="good">good<span class="label">&nbsp;line</span></ElRadioButton>
      <ElRadioButton value="slow">slow<span class="label">&nbsp;line</span></ElRadioButton>
    </ElRadioGroup>
  </div>
</template>
