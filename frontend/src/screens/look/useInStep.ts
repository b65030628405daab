import { onScopeDispose, ref } from 'vue'

/** A film that plays: packed time t (s) is t × `pace` + `from_s` of its own time. */
export interface InStep {
  film: string
  from_s: number
  pace: number
}
/** Apart by more than this (s), the second one jumps to where the first one is; by less it is hurried or held back. */
const JUMP_S = 0.25
const HURRY = 0.06

/** Two films that show the same packed picture at the same time; the first one leads. */
export function useInStep(films: () => [InStep, InStep] | undefined, whole_s: () => number) {
  const elements: [HTMLVideoElement | undefined, HTMLVideoElement | undefined] = [undefined, undefined]
  const playing = ref(false)
  const at = ref(0)
  const trouble = ref('')
  let began = 0
  let asked = 0

  function hold(place: 0 | 1, element: unknown): void {
    const video = element instanceof HTMLVideoElement ? element : undefined
    if (video === elements[place]) return
    elements[place] = video
    if (!video) return
    video.onerror = () => stop(place === 0 ? 'The left one cannot be played by this browser: step through it instead.' : 'The right one cannot be played by this browser: step through it instead.')
    video.onloadedmetadata = () => {
      const own = films()?.[place]
      if (own) video.currentTime = own.from_s + began * own.pace
    }
  }
  const packed = (place: 0 | 1) => {
    const own = films()?.[place]
    return own && elements[place] ? (elements[place].currentTime - own.from_s) / own.pace : began
  }
  /** Half of the wanted way at once, so that it does not swing. */
  function follow(): void {
    const [lead, other] = elements
    const both = films()
    asked = requestAnimationFrame(follow)
    if (!lead || !other || !both || !playing.value) return
    if (lead.readyState < 3 || other.readyState < 3 || lead.seeking || other.seeking) {
      lead.pause()
      other.pause()
      return
    }
    if (lead.paused || other.paused) {
      lead.playbackRate = both[0].pace
      void Promise.all([lead.play(), other.play()]).catch(() => stop('This browser does not let it play: step through it instead.'))
    }
    at.value = packed(0)
    const apart = packed(1) - at.value
    if (Math.abs(apart) > JUMP_S) other.currentTime = both[1].from_s + at.value * both[1].pace
    other.playbackRate = both[1].pace * (1 - Math.max(-HURRY, Math.min(HURRY, apart * 2)))
    if (lead.ended || other.ended || at.value >= whole_s()) stop()
  }
  function play(from_s: number): void {
    began = at.value = from_s
    trouble.value = ''
    playing.value = true
    asked = requestAnimationFrame(follow)
  }
  function stop(why = ''): void {
    cancelAnimationFrame(asked)
    for (const video of elements) video?.pause()
    playing.value = false
    trouble.value = why
  }
  onScopeDispose(() => cancelAnimationFrame(asked))
  return { playing, at, trouble, hold, play, stop }
}
