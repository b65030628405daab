import { useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { api, type LaneSeen, type LaneView } from '../../data/api'
import { useEvents } from '../../data/events'
import { useAnswer } from '../../data/useAnswer'
import { useViewer } from '../../data/viewer'
import { ratio } from '../../data/words'

export const ORDERS = {
  placed: 'as placed',
  arrives: 'arrives best',
  size: 'smallest file',
  upload: 'quickest upload',
  destination: 'destination',
  shape: 'shape',
} as const
/** So many rows are seen without scrolling; where there are more, what stands under lanes is shown only when it is wanted. */
const SEEN_AT_ONCE = 12
export type Order = keyof typeof ORDERS

/** The lanes of a master: which are shown in which order, which are chosen, and with which one the others are compared. */
export function useLanes(masterId: () => string) {
  const events = useEvents()
  const viewer = useViewer()
  const against = ref<string | null>(null)
  const answer = useAnswer(
    (signal) => api.lanes(masterId(), against.value, signal),
    [masterId, against],
    [events.news(({ kind, id }) => ['measurement', 'settings', 'sheets', 'content', 'receipt'].includes(kind) || (['lanes', 'master', 'queue'].includes(kind) && id === masterId()))],
  )
  const every = computed(() => answer.value.value?.lanes ?? [])
  /** Lanes that are parcels of their own, without those that show a destination's master as it is. */
  const own = computed(() => every.value.filter(({ lane }) => !lane.beside))
  const seen = ({ lane }: LaneView): LaneSeen | undefined => lane.seen.find((one) => one.screen === viewer.screen && one.line === viewer.line)

  const order = useLocalStorage<Order>('lanes-order', 'placed')
  const hidden = useLocalStorage<string[]>('lanes-hidden', [])
  const destinations = ref<string[]>([])
  const shapes = ref<string[]>([])
  watch(masterId, () => ((destinations.value = []), (shapes.value = []), (against.value = null), (chosen.value = [])))
  const besidesWanted = useLocalStorage<boolean | null>('lanes-besides', null, { serializer: { read: (text) => JSON.parse(text) as boolean | null, write: (value) => JSON.stringify(value) } })
  const besides = computed({ get: () => besidesWanted.value ?? every.value.length <= SEEN_AT_ONCE, set: (wanted) => (besidesWanted.value = wanted) })
  const kept = ({ lane }: LaneView): boolean =>
    (besides.value || !lane.beside) &&
    !hidden.value.includes(lane.parcel.id) &&
    (!destinations.value.length || destinations.value.includes(lane.sheet_name)) &&
    (!shapes.value.length || shapes.value.includes(lane.shape))
  const shown = computed(() => {
    const rows = every.value.filter(kept)
    const by: Record<Exclude<Order, 'placed'>, (a: LaneView, b: LaneView) => number> = {
      arrives: (a, b) => (seen(b)?.at?.condition ?? -1) - (seen(a)?.at?.condition ?? -1),
      size: (a, b) => a.lane.figures.size.expected_bytes - b.lane.figures.size.expected_bytes,
      upload: (a, b) => a.lane.figures.carriage.upload_s - b.lane.figures.carriage.upload_s,
      destination: (a, b) => a.lane.sheet_name.localeCompare(b.lane.sheet_name),
      shape: (a, b) => ratio(b.lane.ratio ?? '0') - ratio(a.lane.ratio ?? '0'),
    }
    return order.value === 'placed' ? rows : [...rows].sort(by[order.value])
  })
  const hiddenHere = computed(() => own.value.filter(({ lane }) => hidden.value.includes(lane.parcel.id)))

  const chosen = ref<string[]>([])
  const chosenHere = computed(() => own.value.filter(({ lane }) => chosen.value.includes(lane.parcel.id)))
  function choose(id: string, on: boolean): void {
    chosen.value = on ? [...chosen.value, id] : chosen.value.filter((one) => one !== id)
  }
  function hide(id: string): void {
    hidden.value = [...hidden.value, id]
    choose(id, false)
  }
  function showAgain(): void {
    const here = hiddenHere.value.map(({ lane }) => lane.parcel.id)
    hidden.value = hidden.value.filter((id) => !here.includes(id))
  }

  return { answer, every, own, shown, seen, order, against, destinations, shapes, besides, hiddenHere, hide, showAgain, chosen, chosenHere, choose }
}
