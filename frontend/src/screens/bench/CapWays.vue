<script setup lang="ts">
import { api, type Alternative, type ParcelView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useViewer } from '../../data/viewer'
import { bytes, mbps, place } from '../../data/words'
import EvidenceMark from '../../parts/EvidenceMark.vue'

/** Where a cap leaves the picture too little: what else fits under it, each with its figures. */
const props = defineProps<{ view: ParcelView }>()
const ways = useAnswer((signal) => api.capWays(props.view.summary.parcel.id, signal), [() => props.view.summary.plan_key], [useEvents().of('measurement', 'content')])
const emit = defineEmits<{ take: [way: Alternative] }>()
const viewer = useViewer()
const arrival = (way: Alternative) => way.arrivals?.find((one) => one.screen === viewer.screen && one.line === viewer.line)
const KINDS: Record<string, string> = { size: 'a smaller frame', codec: 'another codec', excerpt: 'a shorter excerpt', sound: 'less sound' }
</script>

<template>
  <section v-if="ways.value.value?.length" class="ways" aria-label="Other ways under the limit">
    <h2>Other ways under {{ bytes(view.summary.plan.size_cap.value) }}</h2>
    <table>
      <thead>
        <tr><th>Way</th><th>Arrives</th><th>Bit rate</th><th>Of least</th><th>At worst</th><th>Lasts</th><th></th></tr>
      </thead>
      <tbody>
        <tr v-for="way in ways.value.value" :key="`${way.kind} ${way.words}`">
          <th scope="row">{{ way.words }} <span class="quiet tiny">{{ KINDS[way.kind] }}</span></th>
          <td class="mono">
            <template v-if="arrival(way)">
              {{ Math.round(arrival(way)!.at.condition) }} <EvidenceMark :evidence="arrival(way)!.at.evidence" :band="arrival(way)!.at.band" />
              <span v-if="arrival(way)!.best" class="tiny best">best</span>
            </template>
          </td>
          <td class="mono">{{ mbps(way.video_bitrate_bps) }}</td>
          <td class="mono">{{ Math.round(way.share * 100) }} %</td>
          <td class="mono">{{ bytes(way.size.worst_bytes) }}</td>
          <td class="mono">{{ place(way.seconds) }}</td>
          <td><button type="button" class="chip" @click="emit('take', way)">Take it</button></td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.ways {
  padding: 9px 14px;
  border: 1px solid var(--care);
  background: var(--care-ground);
}

table {
  width: 100%;
  border-collapse: collapse;
}

th,
td {
  padding: 2px 8px 2px 0;
  text-align: left;
  font-weight: 400;
}

thead th {
  font-family: var(--slab);
  font-weight: 600;
  border-bottom: 1px solid var(--ink);
}

tbody th {
  font-family: var(--slab);
  font-weight: 600;
}

td.mono,
td .chip {
  white-space: nowrap;
}

tbody th .quiet {
  display: block;
}

.best {
  margin-left: 6px;
  font-family: var(--slab);
  font-weight: 600;
}

td:last-child {
  text-align: right;
}
</style>
