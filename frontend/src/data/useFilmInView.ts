import { onScopeDispose, watch } from 'vue'

import { api } from './api'

/** How many open screens show each film. */
const shown = new Map<string, number>()
/** So long after its last screen closed a film counts as left: the next screen may be one of its own. */
const LEFT_MS = 400

function add(id: string, by: number): void {
  shown.set(id, (shown.get(id) ?? 0) + by)
}

/** Every film that is still shown is left with the page. */
export function leaveAll(): void {
  for (const [id, screens] of shown) if (screens) void api.leave(id).catch(() => undefined)
}
globalThis.addEventListener?.('pagehide', leaveAll)

/** Tells the service once nobody looks at a film any more: what waits to be tested for it need not be tested then. */
export function useFilmInView(masterId: () => string): void {
  let current = ''
  function show(id: string): void {
    const before = current
    current = id
    if (id) add(id, 1)
    if (!before) return
    add(before, -1)
    setTimeout(() => {
      if (!shown.get(before)) void api.leave(before).catch(() => undefined)
    }, LEFT_MS)
  }
  watch(masterId, show, { immediate: true })
  onScopeDispose(() => show(''))
}
