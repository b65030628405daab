import { useDebounceFn, useEventSource } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { api, type Job } from './api'

/** What happens in the service as it happens: jobs by id, and a count of changes to watch. */
export const useEvents = defineStore('events', () => {
  const jobs = ref(new Map<string, Job>())
  const changes = ref(0)
  const { event, data, status } = useEventSource('/api/events', ['hello', 'job', 'changed'] as const, {
    autoReconnect: { retries: -1, delay: 1000 },
  })
  const bump = useDebounceFn(() => changes.value++, 120, { maxWait: 600 })

  async function reload(): Promise<void> {
    const found = await api.jobs().catch(() => [])
    jobs.value = new Map(found.map((job) => [job.id, job]))
    changes.value++
  }

  watch(
    data, // it is set after the event's name, so both belong together here
    (text) => {
      const kind = event.value
      if (kind === 'hello') void reload()
      else if (kind === 'job' && text) {
        const job = JSON.parse(text) as Job
        const before = jobs.value.get(job.id)
        const passing = job.kind === 'check' || job.kind === 'listen'
        if (passing && job.state !== 'running' && job.state !== 'waiting') jobs.value.delete(job.id)
        else if (job.kind !== 'inspect' && job.kind !== 'strip') jobs.value.set(job.id, job)
        if (before?.state !== job.state || job.kind === 'inspect') void bump()
      } else if (kind === 'changed') void bump()
    },
    { flush: 'sync' },
  )

  const list = computed(() => [...jobs.value.values()])
  const open = computed(() =>
    list.value.filter((job) => job.state === 'running' || job.state === 'waiting').sort((a, b) => a.created_at - b.created_at),
  )
  /** The latest news of a job that an answer named, or nothing once it has ended. */
  const live = (job: Job | null | undefined) => job && open.value.find((other) => other.id === job.id)

  return { jobs, list, open, changes, status, live, reload }
})
