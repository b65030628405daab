import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { api, Trouble, type Picture } from './api'

/**
 * Going through a master picture by picture. A wish shows the nearest keyframe at once and the exact picture right after;
 * while one is fetched only the latest further wish is kept.
 */
export function useStepping(masterId: () => string, last: () => number) {
  const wanted = ref(0)
  const shown = shallowRef<Picture>()
  const problem = ref('')
  const fetching = ref(false)
  let closed = false

  const exact = computed(() => shown.value?.exact === true && shown.value.number === wanted.value)

  async function fetchWanted(): Promise<void> {
    if (fetching.value) return
    fetching.value = true
    try {
      while (!closed && !exact.value) {
        const number = wanted.value
        const near = shown.value && Math.abs(number - shown.value.number) <= 3
        if (!near) {
          const found = await api.picture(masterId(), number, false)
          if (closed) return
          shown.value = found
          if (number !== wanted.value || found.exact) continue
        }
        const found = await api.picture(masterId(), number, true)
        if (closed) return
        shown.value = found
        if (!found.exact || found.number !== number) wanted.value = found.number
        problem.value = ''
      }
    } catch (error) {
      problem.value = error instanceof Trouble ? error.message : 'This picture could not be shown.'
      if (shown.value) wanted.value = shown.value.number
    } finally {
      fetching.value = false
    }
  }

  function goTo(number: number): void {
    wanted.value = Math.min(Math.max(0, Math.round(number)), Math.max(0, last()))
    void fetchWanted()
  }
  const step = (by: number) => goTo(wanted.value + by)
  /** Follow a player: the place is wanted, but its picture need not be fetched. */
  const follow = (number: number) => void (wanted.value = Math.min(last(), Math.max(0, number)))

  watch(masterId, () => {
    shown.value = undefined
    goTo(0)
  })
  onScopeDispose(() => (closed = true))
  return { wanted, shown, exact, problem, fetching, goTo, step, follow }
}
