import { computed, ref, watch, type Ref } from 'vue'

import { api, type Screen, type SendingView } from '../../data/api'

const LINES = [
  { key: 'good', words: 'Good line', bps: 0 },
  { key: 'slow', words: '1.5 Mbit/s', bps: 1_500_000 },
  { key: 'poor', words: '0.5 Mbit/s', bps: 500_000 },
] as const
/** A stall that comes so soon after the start is only the start. */
const SETTLED_S = 0.4

/** Which file plays on a screen over a line: the one that such a viewer is served, and after each stall the next smaller one. */
export function useWatching(view: Ref<SendingView | undefined>) {
  const screen = ref<Screen>('laptop')
  const line = ref<(typeof LINES)[number]['key']>('good')
  const film = ref<HTMLVideoElement>()
  /** The playing element, from the template. */
  const hold = (element: unknown) => (film.value = element instanceof HTMLVideoElement ? element : undefined)
  const steps = ref(0)
  const said = ref('')
  let from = 0
  let playing = false
  const ladder = computed(() => [...(view.value?.sending.files ?? [])].filter((file) => file.width).sort((a, b) => Math.min(b.width!, b.height!) - Math.min(a.width!, a.height!) || (b.video_bps ?? 0) - (a.video_bps ?? 0)))
  const first = computed(() => {
    const served = view.value?.seen.find((one) => one.screen === screen.value && one.line === 'good')?.file
    return Math.max(0, ladder.value.findIndex((file) => file.name === served))
  })
  const file = computed(() => ladder.value[Math.min(first.value + steps.value, ladder.value.length - 1)])
  const bps = computed(() => LINES.find((one) => one.key === line.value)!.bps)
  const source = computed(() => (file.value && view.value ? api.arrivedFile(view.value.sending.id, file.value.file, bps.value) : ''))

  watch([screen, line], () => {
    from = film.value?.currentTime ?? 0
    playing = !!film.value && !film.value.paused
    steps.value = 0
    said.value = ''
  }, { flush: 'pre' })

  function stalled(): void {
    const now = film.value
    if (!now || now.seeking || now.paused || now.currentTime - from < SETTLED_S || file.value === ladder.value.at(-1)) return
    from = now.currentTime
    playing = true
    const before = file.value.name
    steps.value += 1
    said.value = `The line is too slow for ${before}: stepped down to ${file.value.name}.`
  }

  /** Go on where the file before stopped. */
  function begin(): void {
    if (!film.value) return
    if (from) film.value.currentTime = Math.min(from, film.value.duration)
    if (playing) void film.value.play().catch(() => undefined)
  }
  return { screen, line, lines: LINES, file, source, hold, stalled, begin, said, ladder }
}
