<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'

import { api, type Job, type Shelf } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { byFilm, inTurn, moved, secondsLeft } from '../../data/useDispatch'
import { seconds } from '../../data/words'
import TroubleNote from '../../parts/TroubleNote.vue'
import BatchCard from './BatchCard.vue'
import JobRow from './JobRow.vue'
import PackingRow from './PackingRow.vue'
import WhenAndAfter from './WhenAndAfter.vue'
import { useBatches } from './useBatches'

const events = useEvents()
const { value: shelf } = useAnswer<Shelf>((signal) => api.shelf(signal), [], [events.of('shelf', 'master', 'strip')])
const settings = useAnswer((signal) => api.dispatch(signal), [], [events.of('dispatch')])
const kept = computed(() => settings.value.value)
const packing = computed(() => inTurn(events.open.filter((job) => job.kind === 'pack')))
const films = computed(() => byFilm(packing.value))
const onTheLine = computed(() => events.open.filter((job) => job.kind === 'send' || job.kind === 'arrive'))
const beside = computed(() => events.open.filter((job) => !['pack', 'send', 'arrive'].includes(job.kind)))
const ended = computed(() =>
  events.list
    .filter((job) => job.state !== 'running' && job.state !== 'waiting')
    .sort((a, b) => (b.ended_at ?? 0) - (a.ended_at ?? 0)),
)
const packed = computed(() => ended.value.filter((job) => job.kind === 'pack'))
const others = computed(() => ended.value.filter((job) => !['pack', 'send', 'arrive'].includes(job.kind)))
const master = (id: string | null) => shelf.value?.masters.find((one) => one.id === id)

const sentence = computed(() => {
  const open = packing.value
  if (!open.length) return packed.value.length ? 'Nothing is being packed.' : ''
  const resting = open.filter((job) => job.paused).length
  const left = secondsLeft(open.filter((job) => !job.paused))
  const count = open.length === 1 ? 'One parcel is packed or waits' : `${open.length} parcels are packed or wait`
  const time =
    resting === open.length ? ', and all of it rests' : left !== null ? `, with about ${seconds(left)} left` : ''
  return `${count}${time}. You may close this page; the work goes on.`
})
const besideWords = computed(() => {
  const kinds: Record<string, [string, string]> = {
    rehearse: ['one rehearsal', 'rehearsals'],
    probe: ['moments of one plan', 'plans of which moments are tried'],
    benchmark: ['a measuring of the machine', 'measurings'],
    check: ['one look through a picture', 'pictures looked through'],
    listen: ['one sound listened to', 'sounds listened to'],
  }
  const counts = Object.entries(kinds).map(([kind, [one, many]]) => {
    const number = beside.value.filter((job) => job.kind === kind).length
    return number ? (number === 1 ? one : `${number} ${many}`) : ''
  })
  return counts.filter(Boolean).join(', ')
})

const batches = useBatches()
const trouble = ref('')
const attempt = (act: Promise<unknown>) => (
  (trouble.value = ''),
  act.catch((error: Error) => (trouble.value = error.message))
)
const waiting = computed(() => packing.value.filter((job) => job.state === 'waiting').map((job) => job.id))
function move(job: Job, by: -1 | 1): void {
  const at = waiting.value.indexOf(job.id)
  const before = waiting.value[by < 0 ? at - 1 : at + 2] ?? null
  void attempt(api.putInOrder(moved(waiting.value, job.id, before)))
}
const dragged = ref<string | null>(null)
const over = ref<string | null>(null)
function drop(before: string): void {
  if (dragged.value && dragged.value !== before)
    void attempt(api.putInOrder(moved(waiting.value, dragged.value, before)))
  dragged.value = over.value = null
}
const resting = computed(() => packing.value.length > 0 && packing.value.every((job) => job.paused))
const pauseAll = () =>
  attempt(
    Promise.all(
      packing.value
        .filter((job) => !!job.paused === resting.value)
        .map((job) => (resting.value ? api.resume(job.id) : api.pause(job.id))),
    ),
  )
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Dispatch</h1>
      <span class="grow" />
      <ElButton v-if="packing.length" @click="pauseAll">{{ resting ? 'Let all go on' : 'Pause all' }}</ElButton>
    </div>
    <p v-if="sentence" class="first-sentence">{{ sentence }}</p>
    <p v-if="trouble" role="alert" class="refused">{{ trouble }}</p>
    <TroubleNote v-if="events.trouble" :trouble="events.trouble" @again="events.reload()" />
    <section v-else-if="events.known && !events.list.length" class="sheet empty">
      <h2>Nothing to dispatch</h2>
      <p>Choose a master on the <RouterLink :to="{ name: 'shelf' }">shelf</RouterLink> and pack it from its lanes.</p>
    </section>
    <WhenAndAfter
      v-if="kept && (packing.length || kept.after !== 'nothing' || packed.length)"
      :kept="kept"
      @change="attempt(api.changeDispatch($event).then(settings.set))"
    />
    <BatchCard
      v-for="batch in batches.shown.value"
      :key="batch.id"
      :batch="batch"
      @act="attempt(api.batchAct(batch.id, $event).then(batches.again))"
    />
    <section v-for="film in films" :key="film.masterId" class="film" :aria-label="film.film">
      <div class="row head">
        <h2 class="cut">
          <RouterLink :to="{ name: 'lanes', params: { masterId: film.masterId } }">{{ film.film }}</RouterLink>
        </h2>
        <span class="quiet"
          >{{ film.jobs.length === 1 ? 'one parcel' : `${film.jobs.length} parcels` }} ·
          {{ Math.floor(film.share * 100) }} %<template v-if="film.left !== null">
            · about {{ seconds(film.left) }}</template
          ></span
        >
      </div>
      <div
        v-for="job in film.jobs"
        :key="job.id"
        :draggable="job.state === 'waiting'"
        :class="{ over: over === job.id }"
        @dragstart="dragged = job.id"
        @dragend="dragged = over = null"
        @dragover.prevent="over = job.state === 'waiting' ? job.id : null"
        @drop.prevent="drop(job.id)"
      >
        <PackingRow
          :job="job"
          :master="master(job.master_id)"
          :turn="waiting.indexOf(job.id)"
          :last="waiting.at(-1) === job.id"
          @move="move(job, $event)"
          @trouble="trouble = $event"
        />
      </div>
    </section>
    <p v-if="waiting.length > 1" class="quiet tiny">
      Short ones go first, unless you drag them or move them with the arrows.
    </p>
    <section v-if="onTheLine.length" class="film" aria-label="On the line">
      <div class="row head">
        <h2>On the line</h2>
        <span class="quiet">one after the other, short ones first; what comes back is measured as it arrives</span>
      </div>
      <ul class="jobs">
        <li v-for="job in onTheLine" :key="job.id"><JobRow :job="job" /></li>
      </ul>
    </section>
    <details v-if="beside.length" class="beside">
      <summary>
        Beside it: {{ besideWords }}<template v-if="packing.length">; what is tried waits until all is packed</template>
      </summary>
      <ul class="jobs">
        <li v-for="job in beside" :key="job.id"><JobRow :job="job" /></li>
      </ul>
    </details>
    <template v-if="packed.length">
      <h2 class="ended">Packed and stopped</h2>
      <ul class="jobs">
        <li v-for="job in packed" :key="job.id"><JobRow :job="job" @again="attempt(api.packAgain(job.id))" /></li>
      </ul>
    </template>
    <details v-if="others.length" class="beside">
      <summary>{{ others.length === 1 ? 'One rehearsal' : `${others.length} rehearsals` }} ended</summary>
      <ul class="jobs">
        <li v-for="job in others" :key="job.id"><JobRow :job="job" @again="attempt(api.packAgain(job.id))" /></li>
      </ul>
    </details>
  </div>
</template>

<style scoped>
.jobs {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}

.film {
  margin-top: 14px;
}

.head {
  gap: 14px;
  padding-bottom: 3px;
  border-bottom: 2px solid var(--ink);
}

.head h2 {
  font-size: 17px;
}

.over {
  box-shadow: 0 -3px 0 var(--airmail);
}

[draggable='true'] {
  cursor: grab;
}

.ended {
  margin-top: 22px;
  font-size: 17px;
}

.beside {
  margin-top: 16px;
}

.beside summary {
  cursor: pointer;
}

.empty {
  margin-top: 16px;
  padding: 26px;
}

.refused {
  font-weight: 700;
}
</style>
