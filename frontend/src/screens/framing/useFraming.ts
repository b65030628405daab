import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { api, Trouble, type FramingView, type FramingWish, type ShapeHere, type ShapeWish } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'

const SETTLE_MS = 350

export const wishOf = (shape: ShapeHere): ShapeWish => ({
  framing: shape.own_mode,
  shape: shape.wished_shape,
  focus: shape.own_focus,
  zoom: shape.zoom,
})

/** Where the kept part of a shape has its middle, in shares of the active picture. */
export function centreOf(view: FramingView, shape: ShapeHere): { x: number; y: number } {
  const { crop } = shape.framing
  const { active } = view
  return {
    x: (crop.x + crop.width / 2 - active.x) / active.width,
    y: (crop.y + crop.height / 2 - active.y) / active.height,
  }
}

const says = (part: unknown) => part !== undefined && part !== 'as it is'

/** Two wishes as one; the later says what it says, the rest stays. */
export function joined(first: FramingWish, second: FramingWish): FramingWish {
  const joint: FramingWish = { ...first, parcels: { ...first.parcels, ...second.parcels } }
  if (says(second.focus)) joint.focus = second.focus
  if (says(second.mode)) joint.mode = second.mode
  return joint
}

/** What puts back, of a view, everything that a wish would change. */
export function inverse(view: FramingView, wish: FramingWish): FramingWish {
  const parcels: Record<string, ShapeWish> = {}
  for (const shape of view.shapes)
    if (wish.parcels && shape.parcel_id in wish.parcels) parcels[shape.parcel_id] = wishOf(shape)
  const back: FramingWish = { parcels }
  if (says(wish.focus)) back.focus = view.own_focus ? view.focus : null
  if (says(wish.mode)) back.mode = view.mode
  return back
}

/**
 * Every shape of a master: as kept, as tried while something is dragged, and undo. All of it belongs to one master id: when another is
 * shown, nothing of it is left, and answers for the former are dropped.
 */
export function useFraming(masterId: () => string) {
  const events = useEvents()
  const kept = useAnswer(
    (signal) => api.framing(masterId(), signal),
    [masterId],
    [
      events.news(
        ({ kind, id }) => ((kind === 'lanes' || kind === 'master') && id === masterId()) || kind === 'sheets',
      ),
    ],
  )
  const tried = shallowRef<FramingView>()
  const refused = ref('')
  const past = ref<FramingWish[]>([])
  const future = ref<FramingWish[]>([])
  const view = computed(() => tried.value ?? kept.value.value)

  let wanted: FramingWish | undefined
  /** Wishes that left and were not answered yet, the oldest first. */
  let leaving: FramingWish[] = []
  let asking = false
  let settling: ReturnType<typeof setTimeout> | undefined
  const unanswered = () => [...leaving, wanted ?? {}].reduce(joined, {})
  /** A change to one shape, on top of what is wished of it so far: an earlier change that has no answer yet must not be taken back. */
  function changeShape(shape: ShapeHere, change: Partial<ShapeWish>): FramingWish {
    const wished = unanswered().parcels?.[shape.parcel_id] ?? wishOf(shape)
    return { parcels: { [shape.parcel_id]: { ...wished, ...change } } }
  }

  /** Show a wish without keeping it; asks one at a time and always ends at the latest. */
  async function attempt(wish: FramingWish): Promise<void> {
    wanted = joined(wanted ?? {}, wish)
    if (asking) return
    asking = true
    try {
      let asked: FramingWish | undefined
      while (wanted && asked !== wanted) {
        asked = wanted
        const id = masterId()
        const found = await api.tryFraming(id, unanswered())
        if (id !== masterId()) continue
        if (wanted) tried.value = found
        refused.value = found.refused[0]?.why ?? ''
      }
    } catch (error) {
      refused.value = error instanceof Trouble ? error.message : 'This could not be tried.'
    } finally {
      asking = false
    }
  }

  let queue = Promise.resolve()
  /** Keep a wish once all that left before it is answered. */
  function leave(id: string, wish: FramingWish, into: typeof past, fresh: boolean): Promise<void> {
    leaving.push(wish)
    queue = queue.then(async () => {
      await send(id, wish, into, fresh)
      leaving = leaving.filter((one) => one !== wish)
      if (!wanted && !leaving.length) tried.value = undefined
    })
    return queue
  }

  function settle(id = masterId()): Promise<void> {
    clearTimeout(settling)
    const wish = wanted
    wanted = undefined
    return wish ? leave(id, wish, past, true) : queue
  }

  async function send(id: string, wish: FramingWish, into: typeof past, fresh: boolean): Promise<void> {
    const before = id === masterId() ? kept.value.value : undefined
    try {
      const found = await api.keepFraming(id, wish)
      if (!before || id !== masterId()) return
      const back = inverse(before, wish)
      kept.set(found)
      refused.value = ''
      into.value.push(back)
      if (fresh) future.value = []
    } catch (error) {
      if (id === masterId()) refused.value = error instanceof Trouble ? error.message : 'This could not be kept.'
    }
  }

  /** Keep a wish at once. */
  function keep(wish: FramingWish): Promise<void> {
    wanted = joined(wanted ?? {}, wish)
    return settle()
  }

  /**
   * Show a wish now and keep it when no other follows soon: what quick keys do. It is made from all that is wished so far, kept or
   * not, since keys come faster than answers.
   */
  function nudge(make: (wished: FramingWish) => FramingWish): void {
    void attempt(make(unanswered()))
    clearTimeout(settling)
    const id = masterId()
    settling = setTimeout(() => void settle(id), SETTLE_MS)
  }

  async function back(from: typeof past, to: typeof past): Promise<void> {
    await settle()
    const wish = from.value.pop()
    if (wish) await leave(masterId(), wish, to, false)
  }

  watch(
    masterId,
    (_, former) => {
      if (wanted) void settle(former)
      leaving = []
      tried.value = undefined
      refused.value = ''
      past.value = []
      future.value = []
    },
    { flush: 'sync' },
  )
  onScopeDispose(() => {
    if (wanted) void settle()
  })
  return {
    view,
    refused,
    trouble: kept.trouble,
    again: kept.again,
    attempt,
    settle,
    keep,
    nudge,
    changeShape,
    past,
    future,
    undo: () => back(past, future),
    redo: () => back(future, past),
  }
}
