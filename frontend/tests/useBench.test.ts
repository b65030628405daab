import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import { api, Trouble, type AtRate, type ParcelView } from '../src/data/api'
import { SETTLE_MS, useBench } from '../src/screens/bench/useBench'

vi.mock('../src/data/events', () => ({ useEvents: () => ({ news: () => () => 0 }) }))

type Kept = Partial<Record<'video_bitrate_bps' | 'effort', number | string | null>>
const view = (choices: Kept, id = 'one', revision = 0) => {
  const bps = choices.video_bitrate_bps ?? null
  return { summary: { parcel: { id, master_id: 'gale', revision }, choices, plan_key: `plan at ${bps}`, plan: { video: { target_bps: { value: bps ?? 9e6 } } } } } as unknown as ParcelView
}

/** A service that keeps choices by parcel and answers when it is told to; it refuses what was made from an older state. */
function service() {
  const stored = new Map<string, { choices: Kept; revision: number }>()
  const asked: (number | string | null)[] = []
  const held: (() => void)[] = []
  let hold = false
  const of = (id: string) => stored.get(id) ?? { choices: {}, revision: 0 }
  const shown = (id: string) => view(of(id).choices, id, of(id).revision)
  async function keep(id: string, choices: Kept, seen?: number): Promise<ParcelView> {
    asked.push(choices.video_bitrate_bps ?? null)
    if (seen !== undefined && seen !== of(id).revision) throw new Trouble('Changed elsewhere.', 'changed_meanwhile', 409)
    stored.set(id, { choices, revision: of(id).revision + 1 })
    const found = shown(id)
    if (hold) await new Promise<void>((resolve) => held.push(resolve))
    return found
  }
  vi.spyOn(api, 'parcel').mockImplementation(async (id) => shown(id))
  vi.spyOn(api, 'change').mockImplementation((id, part, seen) => keep(id, { ...of(id).choices, ...(part as Kept) }, seen))
  vi.spyOn(api, 'choose').mockImplementation((id, whole, seen) => keep(id, whole as Kept, seen))
  return {
    asked, of, holdBack: () => (hold = true), letGo: () => { hold = false; held.splice(0).forEach((go) => go()) },
    elsewhere: (id: string, part: Kept) => stored.set(id, { choices: { ...of(id).choices, ...part }, revision: of(id).revision + 1 }),
  }
}

async function bench(id: () => string = () => 'one') {
  const scope = effectScope()
  const made = scope.run(() => useBench(id))!
  await vi.waitFor(() => expect(made.view.value).toBeDefined())
  return { ...made, leave: () => scope.stop() }
}

describe('the bench', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    vi.stubGlobal('window', globalThis)
  })
  afterEach(() => {
    vi.useRealTimers()
    vi.restoreAllMocks()
  })

  it('keeps only the latest of twenty quick presses, as one step to undo, and holds back what sends until then', async () => {
    const { asked } = service()
    const { bitrate, unkept, change, view: shown, past, undo } = await bench()
    for (let i = 1; i <= 20; i++) void change({ video_bitrate_bps: i * 1e6 }, true)
    expect([bitrate.value, unkept.value, asked.length]).toEqual([20e6, true, 0])
    vi.advanceTimersByTime(SETTLE_MS)
    await vi.waitFor(() => expect(unkept.value).toBe(false))
    expect(asked).toEqual([20e6])
    expect(shown.value!.summary.plan_key).toBe('plan at 20000000')
    expect(past.value).toHaveLength(1)
    await undo()
    expect(bitrate.value).toBe(9e6)
    expect(asked.at(-1)).toBeNull()
  })

  it('sends what was wanted meanwhile once the answer is there, and counts it to the same step', async () => {
    const { asked, holdBack, letGo } = service()
    const { unkept, change, past, bitrate } = await bench()
    holdBack()
    void change({ video_bitrate_bps: 1e6 })
    void change({ video_bitrate_bps: 2e6 }, true)
    void change({ video_bitrate_bps: 3e6 }, true)
    expect([asked, unkept.value]).toEqual([[1e6], true])
    letGo()
    await vi.waitFor(() => expect(unkept.value).toBe(false))
    expect(asked).toEqual([1e6, 3e6])
    expect([past.value.length, bitrate.value]).toEqual([1, 3e6])
  })

  it('says what was refused and shows what is kept', async () => {
    service()
    const { change, refused, bitrate, unkept, past } = await bench()
    vi.spyOn(api, 'change').mockRejectedValue(new Trouble('Not so.', 'bad_choice', 422))
    await change({ video_bitrate_bps: 4e6 })
    expect([refused.value, bitrate.value, unkept.value, past.value.length]).toEqual(['Not so.', 9e6, false, 0])
  })

  it('keeps what is still waiting when the page is left', async () => {
    const { asked } = service()
    const { change, leave } = await bench()
    void change({ video_bitrate_bps: 5e6 }, true)
    leave()
    await nextTick()
    expect(asked).toEqual([5e6])
  })

  it('asks for a small answer while the handle moves, one at a time and at last for the latest, and keeps nothing', async () => {
    const { asked } = service()
    const { tryRate, tried, bitrate, unkept, change } = await bench()
    const answers: (() => void)[] = []
    const at = vi.spyOn(api, 'at').mockImplementation(
      (_, bps) => new Promise((resolve) => answers.push(() => resolve({ bitrate_bps: bps } as AtRate))),
    )
    for (const bps of [1e6, 2e6, 3e6]) void tryRate(bps)
    expect([at.mock.calls.length, bitrate.value, unkept.value]).toEqual([1, 3e6, true])
    answers[0]()
    await vi.waitFor(() => expect(at).toHaveBeenCalledTimes(2))
    answers[1]()
    await vi.waitFor(() => expect(tried.value?.bitrate_bps).toBe(3e6))
    expect(asked).toEqual([])
    await change({ video_bitrate_bps: 3e6 })
    expect([tried.value, unkept.value, asked]).toEqual([undefined, false, [3e6]])
  })

  it('leaves nothing of one parcel when another is shown: no undo, no pending change, no late answer', async () => {
    const { of, holdBack, letGo } = service()
    const id = ref('one')
    const { change, undo, past, refused, view: shown, tryRate, tried } = await bench(() => id.value)
    await change({ video_bitrate_bps: 1e6 })
    let late: (found: AtRate) => void = () => undefined
    vi.spyOn(api, 'at').mockImplementation(() => new Promise((resolve) => (late = resolve)))
    void tryRate(3e6)
    holdBack()
    void change({ video_bitrate_bps: 2e6 }, true)
    id.value = 'two'
    letGo()
    late({ bitrate_bps: 3e6 } as AtRate)
    await vi.waitFor(() => expect(shown.value?.summary.parcel.id).toBe('two'))
    expect([past.value, tried.value, refused.value]).toEqual([[], undefined, ''])
    await undo()
    expect([of('one').choices, of('two').choices]).toEqual([{ video_bitrate_bps: 2e6 }, {}])
    await nextTick()
    expect(shown.value?.summary.parcel.id).toBe('two')
  })

  it('keeps what another window changed meanwhile, and takes back its own change alone', async () => {
    const { of, elsewhere } = service()
    const { change, undo, redo, view: shown, refused } = await bench()
    elsewhere('one', { effort: 'careful' })
    await change({ video_bitrate_bps: 1e6 })
    expect([of('one').choices, refused.value]).toEqual([{ video_bitrate_bps: 1e6, effort: 'careful' }, ''])
    elsewhere('one', { effort: 'quick' })
    await undo()
    expect(of('one').choices).toEqual({ video_bitrate_bps: null, effort: 'quick' })
    await redo()
    expect(of('one').choices).toEqual({ video_bitrate_bps: 1e6, effort: 'quick' })
    elsewhere('one', { video_bitrate_bps: 7e6 })
    await change({ video_bitrate_bps: 2e6 })
    expect([of('one').choices.video_bitrate_bps, refused.value]).toEqual([7e6, 'Changed elsewhere.'])
    expect(shown.value?.summary.choices.video_bitrate_bps).toBe(7e6)
  })
})
