import { useDebounceFn, useEventSource } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'

import { api, Trouble, type Job } from './api'

/** What changed in the service: the kind of thing, and the id of the one, empty where it may be any. */
export interface Change {
  kind: string
  id: string
}

/** A connection that was there and is dropped is tried once more, so soon. */
const RECONNECT_MS = 1000

interface Listener {
  wants: (change: Change) => boolean
  raise: () => void
}

/** What happens in the service as it happens: jobs by id, and news for whoever shows what changed. */
export const useEvents = defineStore('events', () => {
  const jobs = ref(new Map<string, Job>())
  /** Whether the jobs were fetched at all: before that nothing is said of there being none. */
  const known = ref(false)
  /** Why the jobs could not be fetched, when they were asked for last. */
  const trouble = shallowRef<Trouble>()
  const listeners = new Set<Listener>()
  const { event, data, status, error, open: connect, close } = useEventSource('/api/events', ['hello', 'job', 'changed'] as const, {
    // An object of its own for each message: two alike in a row would else be one value, and the second never heard.
    serializer: { read: (text?: string) => ({ text }) },
  })

  /** Fetch the queue. What events have told meanwhile is newer than the answer and stays; without an answer all stays as it was. */
  /** The connection is lost, and nobody tries again until the user asks: whoever listens there by now may not be the service any more. */
  const lost = ref(false)
  let opened = false
  watch(status, (now) => now === 'OPEN' && ((opened = true), (lost.value = false)), { flush: 'sync' })
  watch(error, (trouble) => {
    if (!trouble) return
    const dropped = opened
    opened = false
    close() // the browser would go on by itself for ever
    if (dropped) setTimeout(connect, RECONNECT_MS)
    else lost.value = true
  }, { flush: 'sync' })
  function reconnect(): void {
    lost.value = false
    connect()
  }

  async function reload(): Promise<void> {
    const before = [...listeners] // who comes later asks for what there is by then, and hears of all that follows
    try {
      const { jobs: found, revision } = await api.jobs()
      const newer = [...jobs.value.values()].filter((job) => job.revision > revision)
      jobs.value = new Map([...found, ...newer].map((job) => [job.id, job]))
      known.value = true
      trouble.value = undefined
    } catch (error) {
      trouble.value = error instanceof Trouble ? error : new Trouble('The queue could not be read.', 'page', 0)
    }
    for (const listener of before) listener.raise()
  }

  function hear(changes: Change[]): void {
    for (const listener of listeners) if (changes.some(listener.wants)) listener.raise()
  }

  /** A number that rises soon after something wanted has changed; for as long as the component lives that asks. */
  function news(wants: (change: Change) => boolean): Ref<number> {
    const count = ref(0)
    const listener = { wants, raise: useDebounceFn(() => void count.value++, 120, { maxWait: 600 }) }
    listeners.add(listener)
    onScopeDispose(() => listeners.delete(listener))
    return count
  }

  /** News of some kinds of things, whichever they are. */
  const of = (...kinds: string[]): Ref<number> => news((change) => kinds.includes(change.kind))

  function take(job: Job): void {
    if ((jobs.value.get(job.id)?.revision ?? -1) > job.revision) return
    const passing = job.kind === 'check' || job.kind === 'listen'
    if (passing && job.state !== 'running' && job.state !== 'waiting') jobs.value.delete(job.id)
    else if (job.kind !== 'inspect' && job.kind !== 'strip') jobs.value.set(job.id, job)
  }

  watch(
    data, // it is set after the event's name, so both belong together here
    (message) => {
      const kind = event.value
      const text = message?.text
      if (kind === 'hello') void reload()
      else if (kind === 'job' && text) take(JSON.parse(text) as Job)
      else if (kind === 'changed' && text) hear(JSON.parse(text) as Change[])
    },
    { flush: 'sync' },
  )

  const list = computed(() => [...jobs.value.values()])
  const open = computed(() =>
    list.value.filter((job) => job.state === 'running' || job.state === 'waiting').sort((a, b) => a.created_at - b.created_at),
  )
  /** The latest news of a job that an answer named, or nothing once it has ended. */
  const live = (job: Job | null | undefined) => job && open.value.find((other) => other.id === job.id)

  return { jobs, known, trouble, list, open, status, lost, reconnect, live, reload, news, of }
})
