import { onScopeDispose, ref, shallowRef, watch, type WatchSource } from 'vue'

import { Trouble } from './api'

/**
 * One answer of the service: its value, whether it is awaited, and what went wrong.
 * Asks again when `sources` change, since something else is asked for then; answers that were overtaken are dropped.
 * On `news` the same is asked once more, but what is under way comes in first: news that came faster than answers would
 * otherwise leave the page without any.
 */
export function useAnswer<T>(ask: (signal: AbortSignal) => Promise<T>, sources: WatchSource[] = [], news: WatchSource[] = []) {
  const value = shallowRef<T>()
  const trouble = shallowRef<Trouble>()
  const waiting = ref(false)
  let running: AbortController | undefined
  let heard = false

  async function again(): Promise<void> {
    running?.abort()
    heard = false
    const mine = (running = new AbortController())
    waiting.value = true
    try {
      const found = await ask(mine.signal)
      if (mine !== running) return
      value.value = found
      trouble.value = undefined
    } catch (error) {
      if (mine !== running || mine.signal.aborted) return
      trouble.value = error instanceof Trouble ? error : new Trouble('Something went wrong on this page. Reload it.', 'page', 0)
    } finally {
      if (mine === running) {
        waiting.value = false
        if (heard && !mine.signal.aborted) void again()
      }
    }
  }

  /** Take an answer that came another way, such as of a change: what was asked before it is older, and is dropped. */
  function set(found: T): void {
    running?.abort()
    running = new AbortController()
    value.value = found
    trouble.value = undefined
    waiting.value = false
    if (heard) void again()
  }

  watch(sources, again, { immediate: true })
  watch(news, () => (waiting.value ? (heard = true) : again()))
  onScopeDispose(() => running?.abort())
  return { value, trouble, waiting, again, set }
}
