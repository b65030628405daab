<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, type SendingView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { bytes, mbps } from '../../data/words'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import ProgressBar from '../../parts/ProgressBar.vue'

/** What became of a packed file at its platform: on its way, refused, or what every viewer gets beside what was forecast. */
const props = defineProps<{ receiptId: string }>()
const events = useEvents()
const { value: known } = useAnswer((signal) => api.sendings(props.receiptId, signal), [() => props.receiptId], [events.of('sending')])
const views = computed(() => known.value?.sendings ?? [])
const job = (view: SendingView) => events.list.find((one) => one.id === view.job?.id) ?? view.job
const screens = ['phone', 'laptop', 'tv'] as const
const screenWords: Record<string, string> = { phone: 'phone', laptop: 'laptop', tv: 'TV' }
const at = (view: SendingView, screen: string, line: string) => view.seen.find((one) => one.screen === screen && one.line === line)
const router = useRouter()
const trouble = ref('')
async function learn(view: SendingView, file: string): Promise<void> {
  try {
    const { record } = await api.learn(view.sending.id, file)
    await router.push({ name: 'learn', params: { returnedId: record.id } })
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
const when = (view: SendingView) => new Date(view.sending.sent_at * 1000).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
</script>

<template>
  <section v-for="view in views" :key="view.sending.id" class="sent" :aria-label="`Sent to ${view.sending.destination_name}`">
    <h3>{{ view.sending.destination_name }} <span class="quiet tiny">{{ when(view) }}<template v-if="view.sending.words?.title"> · “{{ view.sending.words.title }}”</template></span></h3>
    <p>{{ view.sentence }}</p>
    <div v-if="job(view)" class="way">
      <ProgressBar :share="job(view)!.progress?.share ?? 0" :label="view.sentence" />
      <p class="mono cut">{{ job(view)!.problem?.what || job(view)!.progress?.doing || 'waiting for its turn' }}<template v-if="job(view)!.progress?.of_bytes"> · {{ bytes(job(view)!.progress!.bytes ?? 0) }} of {{ bytes(job(view)!.progress!.of_bytes!) }}</template></p>
    </div>
    <table class="ruled" v-if="view.seen.length">
      <thead><tr><th>Viewer</th><th>Served</th><th class="number">Forecast</th><th class="number">Came back</th><th></th></tr></thead>
      <tbody>
        <template v-for="screen in screens" :key="screen">
          <tr v-for="line in ['good', 'slow'] as const" v-show="at(view, screen, line)" :key="line">
            <th scope="row">{{ screenWords[screen] }}<span class="quiet">, {{ line }} line</span></th>
            <template v-if="at(view, screen, line)">
              <td>{{ at(view, screen, line)!.file }}</td>
              <td class="number"><template v-if="at(view, screen, line)!.expected">{{ at(view, screen, line)!.expected!.condition.toFixed(0) }} <EvidenceMark :evidence="at(view, screen, line)!.expected!.evidence" :band="at(view, screen, line)!.expected!.band" /><span v-if="at(view, screen, line)!.first" class="quiet first">when sent {{ at(view, screen, line)!.first!.condition.toFixed(0) }} <EvidenceMark :evidence="at(view, screen, line)!.first!.evidence" :band="at(view, screen, line)!.first!.band" /></span></template><span v-else class="quiet">none</span></td>
              <td class="number"><b class="slab">{{ at(view, screen, line)!.condition.toFixed(0) }}</b> <EvidenceMark evidence="returned" /> <span class="quiet tiny mono" title="XPSNR of luma">{{ at(view, screen, line)!.xpsnr_db.toFixed(1) }} dB</span></td>
              <td class="quiet">{{ at(view, screen, line)!.words }}</td>
            </template>
          </tr>
        </template>
      </tbody>
    </table>
    <ul v-if="view.sending.files?.length" class="files">
      <li v-for="file in view.sending.files" :key="file.name">
        <a :href="api.arrivedFile(view.sending.id, file.file)" target="_blank" rel="noopener">{{ file.name }}</a>
        <span class="quiet"><template v-if="file.width">{{ file.width }}×{{ file.height }} · {{ mbps(file.video_bps ?? 0) }} · </template>{{ bytes(file.size_bytes) }}<template v-if="file.sound"> · sound {{ Math.round(file.sound.bitrate_bps / 1000) }} kbit/s<template v-if="file.sound.integrated_lufs != null">, {{ file.sound.integrated_lufs.toFixed(1).replace('-', '−') }} LUFS</template></template><template v-if="file.unmeasured"> · not measured: {{ file.unmeasured }}</template></span>
        <button v-if="file.width" type="button" class="link tiny" :title="`Correct the sheet from ${file.name}`" @click="learn(view, file.file)">learn from it</button>
      </li>
    </ul>
    <p v-if="view.sending.files?.some((file) => file.width)" class="row links">
      <RouterLink :to="{ name: 'watch', params: { sendingId: view.sending.id } }">Watch it as viewers do</RouterLink>
      <RouterLink :to="{ name: 'film-look', params: { receiptId } }">Look at it beside the master</RouterLink>
    </p>
    <p v-if="trouble" role="alert"><b>{{ trouble }}</b></p>
  </section>
</template>

<style scoped>
.sent {
  margin-top: 14px;
  padding-top: 10px;
  border-top: 1px dashed var(--line);
}

.way {
  max-width: 620px;
  margin-top: 6px;
}

.files {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 26px;
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}

.files li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
}

.links {
  margin-top: 8px;
}
</style>
