import { useIntervalFn } from '@vueuse/core'
import { computed, watch } from 'vue'

import { api } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'

const EVERY_MS = 2000
/** How long a batch stays in sight once all of it is over: it is found on Receipts then. */
const SHOWN_S = 24 * 3600

/** The batches that are packed, failed in part, or were packed within a day. */
export function useBatches() {
  const events = useEvents()
  const answer = useAnswer((signal) => api.batches(signal))
  const states = computed(() =>
    events.list
      .filter((job) => job.batch_id)
      .map((job) => `${job.id} ${job.state} ${job.paused}`)
      .sort()
      .join(),
  )
  watch(states, () => void answer.again())
  const isOpen = computed(() => (answer.value.value ?? []).some((batch) => batch.progress.left_s != null))
  const { pause, resume } = useIntervalFn(() => void answer.again(), EVERY_MS, { immediate: false })
  watch(isOpen, (open) => (open ? resume() : pause()), { immediate: true })
  const shown = computed(() =>
    (answer.value.value ?? []).filter(
      (batch) =>
        batch.progress.left_s != null ||
        batch.progress.failures.length ||
        batch.created_at > Date.now() / 1000 - SHOWN_S,
    ),
  )
  return { shown, again: answer.again }
}
