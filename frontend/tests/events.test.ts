import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick } from 'vue'

import { api, type Job } from '../src/data/api'

const opened: EventTarget[] = []
class Source extends EventTarget {
  constructor() {
    super()
    opened.push(this)
  }
  close(): void {}
}
// What the library takes for signs of a browser; set after Vue is there, which would look for more.
Object.assign(globalThis, { window: globalThis, document: new EventTarget(), EventSource: Source })
const { useEvents } = await import('../src/data/events')

const job = (id: string, state: Job['state'], kind: Job['kind'] = 'pack') => ({ id, state, kind, created_at: 1, revision: 1 }) as unknown as Job
function say(event: string, data: unknown): void {
  opened.at(-1)!.dispatchEvent(new MessageEvent(event, { data: JSON.stringify(data) }))
}
async function soon(): Promise<void> {
  await vi.advanceTimersByTimeAsync(200)
  await nextTick()
}

describe('events', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    vi.useFakeTimers()
    vi.spyOn(api, 'jobs').mockResolvedValue({ jobs: [job('a', 'running')], revision: 1 })
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.restoreAllMocks()
  })

  it('tell only those who show what changed', async () => {
    const events = useEvents()
    const scope = effectScope()
    const [lanes, sheets, mine] = scope.run(() => [
      events.of('lanes'), events.of('sheets', 'recipes'), events.news(({ kind, id }) => kind === 'parcel' && id === 'one'),
    ])!
    say('changed', [{ kind: 'lanes', id: 'gale' }, { kind: 'parcel', id: 'two' }])
    await soon()
    expect([lanes.value, sheets.value, mine.value]).toEqual([1, 0, 0])
    say('changed', [{ kind: 'recipes', id: '' }, { kind: 'parcel', id: 'one' }])
    await soon()
    expect([lanes.value, sheets.value, mine.value]).toEqual([1, 1, 1])
    scope.stop()
    say('changed', [{ kind: 'lanes', id: 'gale' }])
    await soon()
    expect(lanes.value).toBe(1)
  })

  it('are heard each, also when two in a row say the same', async () => {
    const events = useEvents()
    const recipes = effectScope().run(() => events.of('recipes'))!
    for (const times of [1, 2, 3]) {
      say('changed', [{ kind: 'recipes', id: '' }])
      await soon()
      expect(recipes.value).toBe(times)
    }
    for (const times of [4, 5]) {
      say('hello', {})
      await soon()
      expect(recipes.value).toBe(times)
    }
  })

  it('leave alone whoever asks only after the service was there again', async () => {
    const events = useEvents()
    const scope = effectScope()
    const before = scope.run(() => events.of('lanes'))!
    say('hello', {})
    const later = scope.run(() => events.of('lanes'))!
    await soon()
    expect([before.value, later.value]).toEqual([1, 0])
    say('changed', [{ kind: 'lanes', id: 'gale' }])
    await soon()
    expect([before.value, later.value]).toEqual([2, 1])
  })

  it('make one wish to ask again of many changes that come together', async () => {
    const events = useEvents()
    const lanes = effectScope().run(() => events.of('lanes'))!
    for (let i = 0; i < 9; i++) say('changed', [{ kind: 'lanes', id: String(i) }])
    await soon()
    expect(lanes.value).toBe(1)
  })

  it('bring progress without asking for anything again', async () => {
    const events = useEvents()
    const everything = effectScope().run(() => events.news(() => true))!
    say('job', { ...job('a', 'running'), progress: { share: 0.5 } })
    say('job', { ...job('a', 'running'), progress: { share: 0.6 } })
    await soon()
    expect(everything.value).toBe(0)
    expect(events.live(job('a', 'waiting'))?.progress?.share).toBe(0.6)
    say('job', job('a', 'done'))
    expect(events.live(job('a', 'waiting'))).toBeUndefined()
    expect(events.list.map((one) => one.state)).toEqual(['done'])
  })

  it('keep no checks that are through, and ask for everything when the connection is back', async () => {
    const events = useEvents()
    const everything = effectScope().run(() => events.of('anything'))!
    say('job', job('c', 'running', 'check'))
    expect(events.open.map((one) => one.id)).toEqual(['c'])
    say('job', job('c', 'done', 'check'))
    expect(events.list).toEqual([])
    say('hello', {})
    await soon()
    expect(everything.value).toBe(1)
    expect(events.open.map((one) => one.id)).toEqual(['a'])
  })

  it('keep what events told while the queue was fetched, and take what the queue knows better', async () => {
    const events = useEvents()
    let answer: (found: { jobs: Job[]; revision: number }) => void = () => undefined
    vi.spyOn(api, 'jobs').mockImplementation(() => new Promise((resolve) => (answer = resolve)))
    say('job', { ...job('gone', 'running'), revision: 3 })
    say('hello', {})
    say('job', { ...job('a', 'done'), revision: 9 })
    say('job', { ...job('new', 'waiting'), revision: 8 })
    answer({ jobs: [{ ...job('a', 'running'), revision: 5 }], revision: 7 })
    await soon()
    expect(events.list.map((one) => [one.id, one.state]).sort()).toEqual([['a', 'done'], ['new', 'waiting']])
    say('job', { ...job('a', 'running'), revision: 6 })
    expect(events.jobs.get('a')?.state).toBe('done')
  })

  it('say why the queue could not be fetched instead of showing none', async () => {
    const events = useEvents()
    say('hello', {})
    await soon()
    vi.spyOn(api, 'jobs').mockRejectedValueOnce(new Error('no answer'))
    say('hello', {})
    await soon()
    expect([events.trouble?.message, events.list.map((one) => one.id)]).toEqual(['The queue could not be read.', ['a']])
    await events.reload()
    expect(events.trouble).toBeUndefined()
  })

  it('try a dropped connection once, and then wait for the user', async () => {
    const events = useEvents()
    const latest = () => opened.at(-1) as unknown as { onopen: () => void; onerror: (event: Event) => void }
    latest().onopen()
    let count = opened.length
    latest().onerror(new Event('error'))
    await vi.advanceTimersByTimeAsync(1500)
    expect([opened.length, events.lost]).toEqual([count + 1, false])
    count = opened.length
    latest().onerror(new Event('error'))
    await vi.advanceTimersByTimeAsync(600_000)
    expect([opened.length, events.lost]).toEqual([count, true])
    events.reconnect()
    expect([opened.length, events.lost]).toEqual([count + 1, false])
    latest().onopen()
    latest().onerror(new Event('error'))
    await vi.advanceTimersByTimeAsync(1500)
    expect(opened.length).toBe(count + 2)
  })
})
