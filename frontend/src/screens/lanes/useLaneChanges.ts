import { ref } from 'vue'

import { api, Trouble, type Applied, type Choices, type LaneView, type Parcel, type ParcelsState } from '../../data/api'

/** Changes of a master's lanes, each of which can be undone: what was done, what was refused, and what was before. */
export function useLaneChanges(masterId: () => string, reload: () => Promise<unknown>, ticked: () => LaneView[]) {
  const problem = ref('')
  const done = ref('')
  /** What lanes and choices were before each change. */
  const before = ref<ParcelsState[]>([])

  async function attempt(act: () => Promise<unknown>, otherwise: string): Promise<boolean> {
    problem.value = done.value = ''
    try {
      await act()
      return true
    } catch (error) {
      problem.value = error instanceof Trouble ? error.message : otherwise
      return false
    }
  }

  async function settle(answer: Applied, message: string): Promise<void> {
    before.value.push(answer.before)
    await reload()
    const refused = answer.refused ?? []
    done.value = refused.length ? `Not ${refused.map(({ name, why }) => `${name}: ${why}`).join(' ')}` : message
  }

  function applied(state: ParcelsState, name: string): void {
    before.value.push(state)
    done.value = `“${name}” is applied.`
    void reload()
  }

  const changeTogether = (part: Partial<Choices>, times: number | null, only: string[] | null = null, message = '') =>
    attempt(async () => {
      const ids = only ?? (ticked().length ? ticked().map(({ lane }) => lane.parcel.id) : null)
      const several = ids && (ids.length === 1 ? 'The chosen lane is changed.' : `The ${ids.length} chosen lanes are changed.`)
      await settle(await api.together(masterId(), part, times, ids), message || several || 'All lanes are changed.')
    }, 'This could not be changed.')

  const takeRecommended = (only: string[] | null, message: string) =>
    attempt(async () => settle(await api.takeRecommended(masterId(), only), message), 'This could not be changed.')

  const shareFiles = () =>
    attempt(
      async () => settle(await api.takeFewest(masterId()), 'Lanes share their files now; each is packed once.'),
      'The files could not be shared.',
    )

  const undo = () =>
    attempt(async () => {
      const state = before.value[before.value.length - 1]
      const current = await api.putBack(masterId(), state)
      before.value.pop()
      follow(state.parcels, current.parcels)
      await reload()
    }, 'This could not be put back.')

  /** What is changed from here may still be undone further: only what changed elsewhere may not be overwritten. */
  function follow(from: Parcel[], to: Parcel[]): void {
    for (const { id, revision } of from) {
      const current = to.find((parcel) => parcel.id === id)?.revision
      for (const state of before.value) {
        if (state.seen?.[id] !== revision) continue
        if (current === undefined) delete state.seen[id] // removed from here: undoing brings it back
        else state.seen[id] = current
      }
    }
  }

  /** One lane changed from here. */
  const changeOne = ({ lane }: LaneView, act: () => Promise<Parcel[]>, refusal: string) =>
    attempt(async () => {
      follow([lane.parcel], await act())
      await reload()
    }, refusal)

  /** A lane that is removed can be brought back. */
  const removeLane = ({ lane }: LaneView) =>
    attempt(async () => {
      const state = await api.parcelsState(masterId())
      const left = await api.removeParcel(lane.parcel.id)
      state.seen = Object.fromEntries(left.map(({ id, revision }) => [id, revision]))
      before.value.push(state)
      await reload()
      done.value = `${lane.sheet_name} is removed.`
    }, 'This lane could not be removed.')

  return { problem, done, before, attempt, applied, changeTogether, takeRecommended, shareFiles, undo, changeOne, removeLane }
}
