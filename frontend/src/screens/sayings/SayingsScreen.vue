<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'

import { api, Trouble, type SayingView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useMaster } from '../../data/useParcels'
import { stem } from '../../data/words'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import NumbersExplained from '../../parts/NumbersExplained.vue'
import TroubleNote from '../../parts/TroubleNote.vue'

/** Habits of the trade, each with what it does to a plan and, once it was tried on this film, its verdict. */
const props = defineProps<{ masterId: string }>()
const events = useEvents()
const route = useRoute()
const router = useRouter()
const { master, trouble } = useMaster(() => props.masterId)
const lanes = useAnswer((signal) => api.lanes(props.masterId, null, signal), [() => props.masterId], [events.news(({ kind, id }) => kind === 'lanes' && id === props.masterId)])
const pictured = computed(() => (lanes.value.value?.lanes ?? []).map(({ lane }) => lane).filter((lane) => !lane.beside && lane.target_bps))
const parcelId = computed(() => pictured.value.find((lane) => lane.parcel.id === route.query.parcel)?.parcel.id ?? pictured.value[0]?.parcel.id ?? '')
const sayings = useAnswer(
  async (signal) => (parcelId.value ? api.sayings(parcelId.value, signal) : undefined), [parcelId],
  [events.news(({ kind, id }) => ['measurement', 'sheets', 'settings'].includes(kind) || (['queue', 'lanes'].includes(kind) && id === props.masterId))],
)
const problem = ref('')
async function attempt(act: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  try {
    await act()
    await sayings.again()
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This could not be tried.'
  }
}
const settled = (one: SayingView) => !!one.verdict && one.verdict.outcome !== 'not tried yet'
const keep = (one: SayingView) => attempt(async () => {
  const { saying, choices } = one
  const made = await api.tryAnotherOption(parcelId.value, {})
  await api.choose(made.summary.parcel.id, choices!)
  await api.nameParcel(made.summary.parcel.id, saying.words)
  await router.push({ name: 'lanes', params: { masterId: props.masterId } })
})
const marks: Record<string, string> = { helps: 'so it is', harms: 'not so', 'depends on the screen': 'depends', 'no difference that can be told': 'no telling' }
</script>

<template>
  <div class="page">
    <TroubleNote v-if="trouble" :trouble="trouble" @again="lanes.again()" />
    <TroubleNote v-else-if="sayings.trouble.value" :trouble="sayings.trouble.value" @again="sayings.again()" />
    <template v-if="master">
      <div class="row top">
        <h1 class="grow cut">Sayings <span class="quiet of">tried on <RouterLink :to="{ name: 'lanes', params: { masterId } }">{{ stem(master.name) }}</RouterLink></span></h1>
        <label class="row">
          <span class="quiet">going to</span>
          <ElSelect class="lane" :model-value="parcelId" aria-label="The lane they are tried for" @change="router.replace({ query: { parcel: $event } })">
            <ElOption v-for="lane in pictured" :key="lane.parcel.id" :value="lane.parcel.id" :label="[lane.sheet_name, lane.placement_name, lane.parcel.sibling_of && (lane.parcel.name || lane.difference)].filter(Boolean).join(' · ')" />
          </ElSelect>
        </label>
      </div>
      <p class="first-sentence">{{ sayings.value.value?.sentence ?? (lanes.value.value && !pictured.length ? 'No lane of this master has a picture to try anything on.' : 'Looking at what is known…') }}</p>
      <p v-if="problem" role="alert" class="refused">{{ problem }}</p>
      <ul class="all" aria-label="Sayings">
        <li v-for="one in sayings.value.value?.sayings ?? []" :key="one.saying.code" class="saying" :class="{ mute: one.why_not }">
          <div>
            <p class="said">“{{ one.saying.words }}”</p>
            <p class="tiny quiet">{{ one.saying.does }}<template v-if="one.everywhere"> · {{ one.everywhere }}</template></p>
          </div>
          <p v-if="one.why_not" class="quiet">Says nothing here: {{ one.why_not }}.</p>
          <p v-else-if="settled(one)">
            <b class="settled">{{ marks[one.verdict!.outcome] }}</b> {{ one.verdict!.sentence }}
            <EvidenceMark :evidence="one.verdict!.evidence!" />
          </p>
          <p v-else class="quiet">{{ one.trying ? 'A few moments are being tried both ways…' : one.verdict?.sentence }}</p>
          <div class="act">
            <ElButton v-if="!one.why_not && !settled(one)" size="small" :disabled="one.trying" :aria-label="`Try it on this film: ${one.saying.words}`" @click="attempt(() => api.trySaying(parcelId, one.saying.code))">Try it on this film</ElButton>
            <ElButton v-else-if="settled(one)" size="small" title="A lane beside this one that follows the saying" :aria-label="`Keep as a lane: ${one.saying.words}`" @click="keep(one)">Keep as a lane</ElButton>
          </div>
        </li>
      </ul>
    </template>
    <p class="quiet"><NumbersExplained brief /></p>
  </div>
</template>

<style scoped>
.top {
  gap: 20px;
}

.of {
  font: 400 var(--lead) var(--read);
}

.lane {
  width: 330px;
}

.first-sentence {
  margin: 10px 0;
}

.refused {
  font-weight: 700;
}

.all {
  margin: 0;
  padding: 0;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--line);
}

.saying {
  display: grid;
  grid-template-columns: minmax(300px, 0.9fr) minmax(300px, 1.3fr) 138px;
  gap: 22px;
  align-items: center;
  padding: 6px 14px;
}

.saying + .saying {
  border-top: 1px dashed var(--line);
}

.said {
  font: 600 15px/1.25 var(--slab);
}

.mute .said {
  color: var(--second-ink);
}

.settled {
  padding: 0 6px;
  border: 1.5px solid;
  border-radius: var(--corner);
  font: 600 13px/18px var(--slab);
  white-space: nowrap;
}

.act {
  text-align: right;
}
</style>
