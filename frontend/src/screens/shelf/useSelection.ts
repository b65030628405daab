import { computed, ref, watch, type Ref } from 'vue'

/** A selection among listed ids: single, ranges from the last one that was set, all that are listed. What is gone leaves it. */
export function useSelection(listed: Ref<string[]>, present: Ref<string[]>) {
  const chosen = ref(new Set<string>())
  let anchor: string | undefined

  const set = (ids: Iterable<string>) => (chosen.value = new Set(ids))

  /** Select or deselect one; with `range` everything between it and the last one that was set gets the same. */
  function toggle(id: string, on: boolean, range = false): void {
    const from = range && anchor !== undefined ? listed.value.indexOf(anchor) : -1
    const to = listed.value.indexOf(id)
    const ids = from < 0 ? [id] : listed.value.slice(Math.min(from, to), Math.max(from, to) + 1)
    const next = new Set(chosen.value)
    for (const one of ids)
      if (on) next.add(one)
      else next.delete(one)
    anchor = id
    set(next)
  }
  const isAll = computed(() => listed.value.length > 0 && listed.value.every((id) => chosen.value.has(id)))
  const toggleAll = () => set(isAll.value ? [] : [...chosen.value, ...listed.value])
  const clear = () => set([])
  watch(present, (ids) => {
    const there = new Set(ids)
    if ([...chosen.value].some((id) => !there.has(id))) set([...chosen.value].filter((id) => there.has(id)))
  })
  /** In the order in which they are listed; those that a filter hides come last. */
  const ids = computed(() => [
    ...listed.value.filter((id) => chosen.value.has(id)),
    ...[...chosen.value].filter((id) => !listed.value.includes(id)),
  ])
  return { chosen, ids, isAll, toggle, toggleAll, clear }
}
