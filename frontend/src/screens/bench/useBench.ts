import { computed, ref, shallowRef, watch } from 'vue'

import { api, Trouble, type Choices, type ParcelView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'

/** One parcel on the bench: what is kept, what is tried while the handle moves, and undo. */
export function useBench(masterId: () => string, destinationId: () => string, excerpt: () => unknown) {
  const events = useEvents()
  const kept = useAnswer(
    (signal) => api.parcel(masterId(), destinationId(), {}, signal),
    [masterId, destinationId, () => JSON.stringify(excerpt())],
    [() => events.changes],
  )
  const tried = shallowRef<ParcelView>()
  const bitrate = ref(0)
  const dragging = ref(false)
  const refused = ref('')
  const past = ref<Choices[]>([])
  const future = ref<Choices[]>([])

  const view = computed(() => tried.value ?? kept.value.value)
  watch(
    () => kept.value.value,
    (value) => {
      if (value && !dragging.value && !pending) bitrate.value = value.parcel.plan.video?.target_bps.value ?? 0
    },
  )

  let asked: AbortController | undefined
  let next: number | undefined
  /** Show the plan at another rate without keeping it; asks one at a time and always ends at the latest. */
  async function tryRate(bps: number): Promise<void> {
    dragging.value = true
    bitrate.value = bps
    if (asked) {
      next = bps
      return
    }
    asked = new AbortController()
    try {
      const found = await api.parcel(masterId(), destinationId(), { video_bitrate_bps: bps }, asked.signal)
      if (dragging.value) tried.value = found
    } catch {
      /* the kept plan stays on show; dropping the handle reports what is wrong */
    } finally {
      asked = undefined
      if (next !== undefined && dragging.value) {
        const again = next
        next = undefined
        void tryRate(again)
      }
    }
  }

  /** Changes are kept one after the other, each made from what the one before left, so that quick keys lose nothing. */
  let queue = Promise.resolve()
  let pending = 0
  function keep(make: (now: Choices) => Choices | undefined, remember = true): Promise<void> {
    dragging.value = false
    next = undefined
    pending += 1
    queue = queue.then(() => send(make, remember))
    return queue
  }

  async function send(make: (now: Choices) => Choices | undefined, remember: boolean): Promise<void> {
    const before = kept.value.value?.parcel.choices
    const choices = before && make(before)
    pending -= 1
    if (!before || !choices) return
    refused.value = ''
    try {
      kept.set(await api.choose(masterId(), destinationId(), choices))
      if (remember) {
        past.value.push(before)
        future.value = []
      }
    } catch (error) {
      refused.value = error instanceof Trouble ? error.message : 'This could not be kept.'
      if (kept.value.value) bitrate.value = kept.value.value.parcel.plan.video?.target_bps.value ?? 0
    }
    if (!dragging.value) tried.value = undefined
  }

  function change(part: Partial<Choices>): Promise<void> {
    if (part.video_bitrate_bps) bitrate.value = part.video_bitrate_bps
    return keep((now) => ({ ...now, ...part }))
  }

  /** Every choice at once, such as none but the shape's. */
  const replace = (choices: Partial<Choices>) => keep(() => choices as Choices)

  const step = (from: typeof past, to: typeof past) =>
    keep((now) => {
      const choices = from.value.pop()
      if (choices) to.value.push(now)
      return choices
    }, false)

  return {
    view, bitrate, refused, trouble: kept.trouble, again: kept.again, tryRate, change, replace,
    undo: () => step(past, future), redo: () => step(future, past), past, future,
  }
}
