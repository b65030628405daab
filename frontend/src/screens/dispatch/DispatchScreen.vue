<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { useEvents } from '../../data/events'
import JobRow from './JobRow.vue'

const events = useEvents()
const open = computed(() => events.open)
const ended = computed(() =>
  events.list.filter((job) => !open.value.includes(job)).sort((a, b) => (b.ended_at ?? 0) - (a.ended_at ?? 0)),
)
const sentence = computed(() => {
  const [packing, rehearsing, trying, measuring] = ['pack', 'rehearse', 'probe', 'benchmark'].map((kind) => open.value.filter((job) => job.kind === kind).length)
  const checking = open.value.length - packing - rehearsing - trying - measuring
  if (!open.value.length) return ended.value.length ? 'Nothing is under way.' : ''
  const parts = []
  if (packing) parts.push(`${packing === 1 ? 'One parcel is' : `${packing} parcels are`} being packed or waiting`)
  if (rehearsing) parts.push(`${rehearsing === 1 ? 'one rehearsal' : `${rehearsing} rehearsals`} under way`)
  if (trying) parts.push(`moments are tried for ${trying === 1 ? 'one plan' : `${trying} plans`}`)
  if (measuring) parts.push('this machine is measured')
  if (checking) parts.push(`${checking === 1 ? 'one check' : `${checking} checks`} under way`)
  const said = parts.join('; ')
  return `${said[0].toUpperCase()}${said.slice(1)}. You may close this page; the work goes on.`
})
</script>

<template>
  <div class="page">
    <h1>Dispatch</h1>
    <p v-if="sentence" class="first-sentence">{{ sentence }}</p>
    <section v-if="events.known && !events.list.length" class="sheet empty">
      <h2>Nothing to dispatch</h2>
      <p>Choose a master on the <RouterLink :to="{ name: 'shelf' }">shelf</RouterLink> and pack it from its lanes.</p>
    </section>
    <ul class="jobs">
      <li v-for="job in open" :key="job.id"><JobRow :job="job" /></li>
    </ul>
    <template v-if="ended.length">
      <h2 class="ended">Ended</h2>
      <ul class="jobs">
        <li v-for="job in ended" :key="job.id"><JobRow :job="job" /></li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.jobs {
  margin: 12px 0 0;
  padding: 0;
  list-style: none;
}

.ended {
  margin-top: 22px;
}

.empty {
  margin-top: 16px;
  padding: 26px;
}
</style>
