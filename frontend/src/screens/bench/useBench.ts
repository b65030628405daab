import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { api, Trouble, type AtRate, type Choices, type ParcelView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'

/** How long a burst of key presses may pause before it is kept. */
export const SETTLE_MS = 300
/** Kinds of news that may change any parcel's figures. */
const FOLLOWED = ['measurement', 'settings', 'sheets', 'content']
type Answer = ReturnType<typeof useAnswer<ParcelView>>

interface Wish {
  parcelId: string
  /** Some choices, or all of them. */
  part?: Partial<Choices>
  whole?: Choices
}

/**
 * One parcel on the bench: what is kept, what is tried while the handle moves, and undo.
 * Of wishes that come faster than they are kept only the latest value of each choice is sent; what was sent together, or while the
 * last was under way, is one step to undo. Until all is kept, `unkept` holds back whatever would send the parcel.
 */
export function useBench(parcelId: () => string) {
  const events = useEvents()
  const kept: Answer = useAnswer(
    (signal) => api.parcel(parcelId(), signal),
    [parcelId],
    [events.news(({ kind, id }) =>
      (kind === 'parcel' && id === parcelId()) || FOLLOWED.includes(kind)
      || ((kind === 'master' || kind === 'queue') && id === kept.value.value?.summary.parcel.master_id))],
  )
  /** What the rate under the handle comes to, while it is not kept. */
  const tried = shallowRef<AtRate>()
  const bitrate = ref(0)
  const dragging = ref(false)
  const waiting = ref(false)
  const refused = ref('')
  const past = ref<Choices[]>([])
  const future = ref<Choices[]>([])

  const view = computed(() => kept.value.value)
  const unkept = computed(() => dragging.value || waiting.value)
  const showKept = () => (bitrate.value = kept.value.value?.summary.plan.video?.target_bps.value ?? 0)
  watch(
    () => kept.value.value,
    (value) => value && !unkept.value && showKept(),
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
      const found = await api.at(parcelId(), bps, asked.signal)
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

  let wish: Wish | undefined
  let timer = 0
  let sending: Promise<void> | undefined

  function want(made: Omit<Wish, 'parcelId'>): void {
    dragging.value = false
    next = undefined
    waiting.value = true
    window.clearTimeout(timer)
    wish = made.whole ? { parcelId: parcelId(), ...made } : { parcelId: parcelId(), ...wish, part: { ...wish?.part, ...made.part } }
  }

  /** Keep what is wanted now. The first of a burst is remembered, so that one step takes all of it back. */
  function flush(remember = true): Promise<void> {
    window.clearTimeout(timer)
    sending ??= (async () => {
      let first = remember
      while (wish) {
        const now = wish
        wish = undefined
        window.clearTimeout(timer)
        first = !(await send(now, first)) && first
      }
    })().finally(() => {
      sending = undefined
      waiting.value = false
      if (!dragging.value) tried.value = undefined
      showKept()
    })
    return sending
  }

  async function send({ parcelId, part, whole }: Wish, remember: boolean): Promise<boolean> {
    const before = kept.value.value?.summary.choices
    refused.value = ''
    try {
      const base = whole ? await api.choose(parcelId, { ...whole, ...part }) : await api.change(parcelId, part!)
      kept.set(base)
      if (remember && before) {
        past.value.push(before)
        future.value = []
      }
      return true
    } catch (error) {
      refused.value = error instanceof Trouble ? error.message : 'This could not be kept.'
      return false
    }
  }

  /** Change some choices at once, or once no further change has come for a moment. */
  function change(part: Partial<Choices>, settles = false): Promise<void> {
    want({ part })
    if (part.video_bitrate_bps) bitrate.value = part.video_bitrate_bps
    if (!settles || sending) return flush()
    timer = window.setTimeout(() => void flush(), SETTLE_MS)
    return Promise.resolve()
  }

  /** Every choice at once, such as none but the shape's. */
  function replace(choices: Partial<Choices>): Promise<void> {
    want({ whole: choices as Choices })
    return flush()
  }

  async function step(from: typeof past, to: typeof past): Promise<void> {
    await flush()
    const now = kept.value.value?.summary.choices
    const choices = from.value.pop()
    if (!now || !choices) return
    to.value.push(now)
    want({ whole: choices })
    await flush(false)
  }

  onScopeDispose(() => void flush())
  return {
    view, tried, bitrate, refused, unkept, trouble: kept.trouble, again: kept.again, set: kept.set, tryRate, change, replace,
    undo: () => step(past, future), redo: () => step(future, past), past, future,
  }
}
