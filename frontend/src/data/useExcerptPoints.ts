import { computed, ref, watch } from 'vue'

import type { Master } from './api'
import { ratio } from './words'

export type End = 'in' | 'out'
export type Sent = { in_s: string; out_s: string } | null
export type ExcerptPoints = ReturnType<typeof useExcerptPoints>

/**
 * The in and the out point of the chosen excerpt: moved freely, kept on whole pictures, sent when they settle. While a
 * wish is under way its answer alone moves them back: news of the master that left earlier must not undo a keypress.
 */
export function useExcerptPoints(master: () => Master | undefined, send: (value: Sent) => Promise<unknown>) {
  const facts = computed(() => master()?.facts)
  const duration = computed(() => (facts.value ? ratio(facts.value.duration_s) : 0))
  const picture = computed(() => (facts.value ? 1 / ratio(facts.value.video.frame_rate) : 1))
  const kept = computed(() => {
    const excerpt = master()?.excerpt
    return excerpt ? { in: ratio(excerpt.in_s), out: ratio(excerpt.out_s) } : { in: 0, out: duration.value }
  })
  const at = ref({ ...kept.value })
  let underWay = 0
  const follow = () => (at.value = { ...kept.value })
  watch([() => kept.value.in, () => kept.value.out], () => !underWay && follow())
  const ends: { end: End; name: string }[] = [
    { end: 'in', name: 'In point' },
    { end: 'out', name: 'Out point' },
  ]

  function move(end: End, seconds: number): void {
    const least = Math.max(picture.value, 0.1)
    const onPicture = Math.round(seconds / picture.value) * picture.value
    if (end === 'in') at.value.in = Math.min(Math.max(0, onPicture), at.value.out - least)
    else at.value.out = Math.max(Math.min(duration.value, onPicture), at.value.in + least)
  }

  async function settle(): Promise<void> {
    const whole = at.value.in <= 0 && at.value.out >= duration.value - 1e-6
    underWay += 1
    try {
      await send(whole && master()?.excerpt_number == null ? null : { in_s: at.value.in.toFixed(6), out_s: at.value.out.toFixed(6) })
    } finally {
      underWay -= 1
      if (!underWay) follow()
    }
  }

  /** Arrow keys on a handle: one picture, page keys a second, home and end to the edges. */
  function type(end: End, event: KeyboardEvent): void {
    const steps: Record<string, number> = { ArrowLeft: -picture.value, ArrowRight: picture.value, PageDown: -1, PageUp: 1 }
    if (event.key === 'Home') move(end, 0)
    else if (event.key === 'End') move(end, duration.value)
    else if (event.key in steps) move(end, at.value[end] + steps[event.key])
    else return
    event.preventDefault()
    void settle()
  }

  /** A typed place, such as 1:02.40 or 12,5. */
  function typed(end: End, text: string): void {
    const parts = text.trim().replace(',', '.').split(':').map(Number)
    if (text.trim() && parts.every(Number.isFinite)) move(end, parts.reduce((sum, part) => sum * 60 + part, 0))
    void settle()
  }

  return { at, ends, duration, move, settle, type, typed }
}
