import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { api, Trouble, type AtRate, type Choices, type ParcelView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'

/** How long a burst of key presses may pause before it is kept. */
export const SETTLE_MS = 300
/** Kinds of news that may change any parcel's figures. */
const FOLLOWED = ['measurement', 'settings', 'sheets', 'content']
type Answer = ReturnType<typeof useAnswer<ParcelView>>

/** What a creator wants of one parcel: some choices, all of them, or some as they were before. */
interface Wish {
  parcelId: string
  part?: Partial<Choices>
  whole?: Choices
  restored?: Partial<Choices>
}
/** How often a change is made again on top of what another window has changed meanwhile. */
const MOST_TRIES = 3
const same = (one: unknown, other: unknown) => JSON.stringify(one ?? null) === JSON.stringify(other ?? null)

/** The choices of `before` that differ in `after`: what takes a change back, and nothing else. */
export function takenBack(before: Choices, after: Choices): Partial<Choices> {
  const keys = new Set([...Object.keys(before), ...Object.keys(after)]) as Set<keyof Choices>
  return Object.fromEntries([...keys].filter((key) => !same(before[key], after[key])).map((key) => [key, before[key] ?? null]))
}

/**
 * One parcel on the bench: what is kept, what is tried while the handle moves, and undo.
 * Of wishes that come faster than they are kept only the latest value of each choice is sent; what was sent together, or while the
 * last was under way, is one step to undo. Until all is kept, `unkept` holds back whatever would send the parcel.
 * All of it belongs to one parcel id: when another is shown, nothing of it is left, and answers for the former are dropped.
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
  const past = ref<Partial<Choices>[]>([])
  const future = ref<Partial<Choices>[]>([])

  const view = computed(() => (kept.value.value?.summary.parcel.id === parcelId() ? kept.value.value : undefined))
  const unkept = computed(() => dragging.value || waiting.value)
  const showKept = () => (bitrate.value = view.value?.summary.plan.video?.target_bps.value ?? 0)
  watch(view, (value) => value && !unkept.value && showKept())

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
    const id = parcelId()
    try {
      const found = await api.at(id, bps, asked.signal)
      if (dragging.value && id === parcelId()) tried.value = found
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
    const earlier = wish?.parcelId === parcelId() ? wish : undefined
    wish = { parcelId: parcelId(), ...(made.part ? { ...earlier, part: { ...earlier?.part, ...made.part } } : made) }
  }

  /** Keep what is wanted now. What a burst has changed is remembered as one step, so that one step takes all of it back. */
  function flush(into?: typeof past): Promise<void> {
    window.clearTimeout(timer)
    sending ??= (async () => {
      let id: string | undefined
      let back: Partial<Choices> = {}
      while (wish) {
        const now: Wish = wish
        wish = undefined
        window.clearTimeout(timer)
        const changed = await send(now)
        back = now.parcelId === id ? { ...changed, ...back } : changed
        id = now.parcelId
      }
      if (id !== parcelId() || !Object.keys(back).length) return
      ;(into ?? past).value.push(back)
      if (!into) future.value = []
    })().finally(() => {
      sending = undefined
      waiting.value = false
      if (!dragging.value) tried.value = undefined
      showKept()
    })
    return sending
  }

  /** Keep one wish; returns what would take it back. Says what was refused. */
  async function send(made: Wish): Promise<Partial<Choices>> {
    refused.value = ''
    try {
      const [before, after] = await keepWish(made)
      if (made.parcelId === parcelId()) kept.set(after)
      return before ? takenBack(before, after.summary.choices) : {}
    } catch (error) {
      if (made.parcelId === parcelId()) refused.value = error instanceof Trouble ? error.message : 'This could not be kept.'
      return {}
    }
  }

  /**
   * Keep a wish on top of what was seen. Where another window has changed the parcel meanwhile, it is made again on top of that, as
   * long as the same choices were not changed there.
   */
  async function keepWish({ parcelId: id, part, whole, restored }: Wish): Promise<[Choices | undefined, ParcelView]> {
    let base = view.value?.summary.parcel.id === id ? view.value.summary : undefined
    for (let tries = 1; ; tries++) {
      const seen = base?.parcel.revision
      try {
        if (!whole && !restored) return [base?.choices, await api.change(id, part!, seen)]
        return [base?.choices, await api.choose(id, { ...(whole ?? base!.choices), ...restored, ...part }, seen)]
      } catch (error) {
        if (!base || !(error instanceof Trouble) || error.code !== 'changed_meanwhile' || tries >= MOST_TRIES) throw error
        const fresh = await api.parcel(id)
        if (id === parcelId()) kept.set(fresh)
        const wanted = Object.keys({ ...part, ...restored }) as (keyof Choices)[]
        const before = base.choices
        if (whole || wanted.some((key) => !same(fresh.summary.choices[key], before[key]))) throw error
        base = fresh.summary
      }
    }
  }

  /** Change some choices at once, or once no further change has come for a moment. */
  function change(part: Partial<Choices>, settles = false): Promise<void> {
    want({ part })
    if (typeof part.video_bitrate_bps === 'number') bitrate.value = part.video_bitrate_bps
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
    const restored = from.value.at(-1)
    if (!view.value || !restored) return
    want({ restored })
    await flush(to)
    if (!refused.value) from.value.pop()
  }

  watch(parcelId, () => {
    void flush()
    dragging.value = false
    next = undefined
    tried.value = undefined
    refused.value = ''
    past.value = []
    future.value = []
  }, { flush: 'sync' })
  onScopeDispose(() => void flush())
  return {
    view, tried, bitrate, refused, unkept, trouble: kept.trouble, again: kept.again, set: kept.set, tryRate, change, replace,
    undo: () => step(past, future), redo: () => step(future, past), past, future,
  }
}
