import { ref, type Ref } from 'vue'

import { api, Trouble, type BatchApplied } from '../../data/api'

export type Doing = 'recipe' | 'destinations' | 'pack'

/** What is done with the selected videos, and what one undo restores. */
export function useBatch(ids: Ref<string[]>, again: () => Promise<void>) {
  const doing = ref<Doing>()
  const asking = ref(false)
  /** The videos that the open dialog is about: it stays so while the selection changes behind it. */
  const asked = ref<string[]>([])
  const busy = ref(false)
  const said = ref('')
  const before = ref<BatchApplied['before']>([])

  function ask(what: Doing): void {
    asked.value = [...ids.value]
    doing.value = what
    asking.value = true
    said.value = ''
  }
  /** Several changes from one dialog are undone together: the earliest state of each video counts. */
  function changed(applied: BatchApplied, words: string): void {
    const known = new Map(before.value.map((state) => [state.master_id, state]))
    for (const state of applied.before) {
      const former = known.get(state.master_id)
      known.set(state.master_id, former ? merged(former, state) : state)
    }
    before.value = [...known.values()]
    said.value = words
  }
  async function act(work: () => Promise<string>): Promise<void> {
    busy.value = true
    try {
      said.value = await work()
    } catch (error) {
      said.value = error instanceof Trouble ? error.message : 'This could not be done. Try again.'
    } finally {
      busy.value = false
      await again()
    }
  }
  const videos = (count: number) => (count === 1 ? '1 video' : `${count} videos`)
  const fix = () =>
    act(async () => {
      const applied = await api.batchFix(ids.value)
      changed(applied, '')
      return applied.before.length
        ? `Findings are fixed on ${videos(applied.before.length)}.`
        : 'Nothing here can be fixed without an answer from you.'
    })
  const test = () =>
    act(async () => {
      const { tests, refused } = await api.batchTest(ids.value)
      const left = refused.map((item) => `${item.name}: ${item.why}`).join(' ')
      return `${tests ? `${tests === 1 ? '1 test waits' : `${tests} tests wait`} or run.` : 'Nothing is left to test.'} ${left}`.trim()
    })
  const remove = () =>
    act(async () => {
      const { removed } = await api.batchRemove(ids.value)
      before.value = []
      return `${videos(removed)} removed from the shelf.`
    })
  const undo = () =>
    act(async () => {
      const { refused } = await api.batchUndo(before.value)
      before.value = []
      return refused.length ? refused.map((item) => `${item.name}: ${item.why}`).join(' ') : 'Everything is as before.'
    })
  return { doing, asking, asked, busy, said, before, ask, changed, fix, test, remove, undo }
}

/** Two states of one video, the earlier one counting for whatever both have. */
export function merged<State extends BatchApplied['before'][number]>(earlier: State, later: State): State {
  return {
    ...earlier,
    parcels: earlier.parcels
      ? { ...earlier.parcels, seen: later.parcels?.seen ?? earlier.parcels.seen }
      : later.parcels,
    mending: earlier.mending ?? later.mending,
    excerpt: earlier.excerpt_changed ? earlier.excerpt : later.excerpt,
    excerpt_changed: earlier.excerpt_changed || later.excerpt_changed,
  }
}
