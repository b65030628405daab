<script setup lang="ts">
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { computed } from 'vue'

import type { Aim, LaneSeen, LaneView } from '../../data/api'

/** What may be done with one lane; the screen does it. */
const props = defineProps<{ view: LaneView; seen?: LaneSeen; base: boolean; last: boolean; busy: boolean; pairs: boolean }>()
const emit = defineEmits<{ act: [name: string] }>()
const lane = computed(() => props.view.lane)
const advice = computed(() => (lane.value.recommended && !lane.value.recommended.taken ? lane.value.recommended : undefined))
const AIMS: Aim[] = ['best quality', 'safe', 'smallest']
</script>

<template>
  <ElDropdown trigger="click" placement="bottom-end" @command="emit('act', $event)">
    <ElButton text class="dots" :aria-label="`What to do with ${lane.sheet_name} ${lane.beside === 'larger' ? 'a larger frame' : (lane.beside ?? lane.placement_name)}`">⋯</ElButton>
    <template #dropdown>
      <ElDropdownMenu v-if="lane.beside">
        <template v-if="lane.beside === 'larger'">
          <ElDropdownItem command="go_up">Go up to it</ElDropdownItem>
          <ElDropdownItem command="larger">Keep both</ElDropdownItem>
        </template>
        <ElDropdownItem v-else command="as_it_is">Send it as it is</ElDropdownItem>
      </ElDropdownMenu>
      <ElDropdownMenu v-else>
        <ElDropdownItem v-if="view.served_by" command="own_file">Give it a file of its own</ElDropdownItem>
        <ElDropdownItem v-if="advice" command="recommended" :title="`${advice.because} ${advice.risk}`">Use recommended: {{ advice.option }}</ElDropdownItem>
        <ElDropdownItem v-if="busy" command="stop">Stop testing</ElDropdownItem>
        <ElDropdownItem v-else-if="lane.target_bps && !lane.held && !view.served_by" command="rehearse" title="Encode sample clips with exactly this plan and measure what arrives">Rehearse it</ElDropdownItem>
        <ElDropdownItem command="another">Try another option…</ElDropdownItem>
        <ElDropdownItem v-if="pairs" command="see">See both on the same pictures</ElDropdownItem>
        <ElDropdownItem command="compare">{{ base ? 'Compare with none' : 'Compare the others with this' }}</ElDropdownItem>
        <template v-if="lane.target_bps">
          <ElDropdownItem v-for="(aim, at) in AIMS" :key="aim" :divided="!at" :command="`aim ${aim}`">
            {{ aim === view.aim ? '✓' : '\u2007' }} {{ lane.sheet_name }}: {{ aim }}
          </ElDropdownItem>
        </template>
        <ElDropdownItem divided command="hide">Hide here</ElDropdownItem>
        <ElDropdownItem v-if="!last" command="remove">Remove</ElDropdownItem>
      </ElDropdownMenu>
    </template>
  </ElDropdown>
</template>

<style scoped>
.dots {
  width: 28px;
  padding: 0;
  font-size: 18px;
}
</style>
