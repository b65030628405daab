<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'

import { api } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useViewer } from '../../data/viewer'

/** What this upload would be worth if its platform encoded it again more gently one day; tried where that is asked for. */
const props = defineProps<{ parcelId: string; stamp: string }>()
const events = useEvents()
const viewer = useViewer()
const { value: view, set } = useAnswer((signal) => api.reserve(props.parcelId, signal), [() => `${props.parcelId} ${props.stamp}`], [events.of('measurement', 'queue')])
const one = computed(() => view.value?.reserves.find((found) => found.screen === viewer.screen && found.line === viewer.line))
const job = computed(() => events.live(view.value?.job ?? undefined))
const refused = ref('')
async function attempt(): Promise<void> {
  refused.value = ''
  try {
    set(await api.tryReserve(props.parcelId))
  } catch (error) {
    refused.value = (error as Error).message
  }
}
</script>

<template>
  <section v-if="view?.possible" class="row reserve" aria-label="A kinder ladder">
    <p v-if="one" class="grow">{{ one.sentence }} <span class="quiet">Modelled on test encodes, with a handling one step gentler.</span></p>
    <template v-else>
      <p class="grow quiet">Platforms encode what they keep anew from time to time: what would a kinder ladder make of this upload?</p>
      <ElButton size="small" :disabled="!!job" @click="attempt">{{ job ? (job.progress?.doing ?? 'waiting its turn') : 'Try it' }}</ElButton>
    </template>
    <p v-if="refused" role="alert"><b>{{ refused }}</b></p>
  </section>
</template>

<style scoped>
.reserve {
  margin-top: 12px;
}
</style>
