import { useTitle, useWebNotification } from '@vueuse/core'
import { computed, watch } from 'vue'

import type { Job } from './api'
import { useEvents } from './events'
import { stem } from './words'

export interface FilmQueue {
  masterId: string
  film: string
  jobs: Job[]
  /** How much of everything that is open for this film is done, 0 to 1, weighed by what each is expected to take. */
  share: number
  left: number | null
}

const expected = (job: Job): number => job.expected_s ?? 1

/** Seconds that open jobs still take, one after another; null until the one under way can tell. */
export function secondsLeft(jobs: Job[]): number | null {
  let whole = 0
  for (const job of jobs) {
    if (job.state === 'waiting') whole += expected(job)
    else if (job.progress?.left_s == null) return null
    else whole += job.progress.left_s
  }
  return whole
}

/** Seconds until a job is done that runs or waits in line with others of its kind; null where one of them cannot tell. */
export function secondsUntil(job: Job, open: Job[]): number | null {
  const line = inTurn(open.filter((one) => one.kind === job.kind))
  const place = line.findIndex((one) => one.id === job.id)
  const before = line.slice(0, place + 1)
  return place < 0 || before.some((one) => one.state === 'waiting' && one.expected_s == null) ? null : secondsLeft(before)
}

export function shareDone(jobs: Job[]): number {
  const whole = jobs.reduce((sum, job) => sum + expected(job), 0)
  return whole ? jobs.reduce((sum, job) => sum + expected(job) * (job.progress?.share ?? 0), 0) / whole : 0
}

/** Open parcels by film, in the order in which the first of each is packed. */
export function byFilm(jobs: Job[]): FilmQueue[] {
  const films = new Map<string, Job[]>()
  for (const job of inTurn(jobs)) films.set(job.master_id ?? '', [...(films.get(job.master_id ?? '') ?? []), job])
  return [...films].map(([masterId, mine]) => ({ masterId, film: stem(mine[0].subject || mine[0].title), jobs: mine, share: shareDone(mine), left: secondsLeft(mine) }))
}

/** What is under way first, then what waits, in its order. */
export function inTurn(jobs: Job[]): Job[] {
  const turn = (job: Job): number => (job.state === 'running' ? 0 : 1)
  return [...jobs].sort((a, b) => turn(a) - turn(b) || (a.rank ?? 0) - (b.rank ?? 0) || a.created_at - b.created_at)
}

/** The order of waiting jobs once one is moved to stand before another, or behind all. */
export function moved(waiting: string[], id: string, before: string | null): string[] {
  const rest = waiting.filter((other) => other !== id)
  const at = before === null ? rest.length : rest.indexOf(before)
  return at < 0 ? waiting : [...rest.slice(0, at), id, ...rest.slice(at)]
}

/** Where the words of a job say that a parcel goes. */
export const whither = (job: Job): string => job.goes_to || job.title

/** What the page's title says of packing, and a word from the browser when all is packed, if that is allowed. */
export function useDispatchNews(): void {
  const events = useEvents()
  const packing = computed(() => events.open.filter((job) => job.kind === 'pack'))
  const title = useTitle('Hardy Parcel')
  const { isSupported, permissionGranted, show } = useWebNotification({ requestPermissions: false })
  let packed = 0
  watch(
    () => events.list.filter((job) => job.kind === 'pack' && job.state === 'done').length,
    (now, before) => (packed += events.known && packing.value.length + now > before ? Math.max(0, now - before) : 0),
  )
  watch([() => packing.value.length, () => Math.floor(shareDone(packing.value) * 100)], ([open, share], [before]) => {
    if (open) title.value = `${share} % packed · Hardy Parcel`
    else if (before) {
      const said = packed === 1 ? 'One parcel is packed' : `${packed} parcels are packed`
      title.value = `${said} · Hardy Parcel`
      if (packed && isSupported.value && permissionGranted.value) void show({ title: said, body: 'Their receipts say what came out.', tag: 'packed' })
      packed = 0
    }
  })
  window.addEventListener('focus', () => packing.value.length || (title.value = 'Hardy Parcel'))
}
