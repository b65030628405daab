import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import type { FramingView, FramingWish } from '../src/data/api'

const told = vi.hoisted(() => ({ framing: vi.fn(), tryFraming: vi.fn(), keepFraming: vi.fn() }))
vi.mock('../src/data/api', async (original) => ({ ...(await original<typeof import('../src/data/api')>()), api: told }))
vi.mock('../src/data/events', () => ({ useEvents: () => ({ news: () => () => 0 }) }))
const { centreOf, inverse, joined, useFraming, wishOf } = await import('../src/screens/framing/useFraming')

const shape = (id: string, x: number) =>
  ({
    parcel_id: id,
    mode: 'fill',
    own_mode: 'fill',
    wished_shape: null,
    own_focus: null,
    zoom: 1,
    framing: { crop: { x, y: 0, width: 100, height: 200 } },
  }) as unknown as FramingView['shapes'][number]
const view = (focus: { x: number; y: number } | null = null) =>
  ({
    active: { x: 0, y: 0, width: 400, height: 200 },
    focus: focus ?? { x: 0.5, y: 0.5 },
    own_focus: !!focus,
    mode: null,
    shapes: [shape('a', 150), shape('b', 0)],
    refused: [],
  }) as unknown as FramingView
const settled = () => new Promise((done) => setTimeout(done))

beforeEach(() => {
  vi.useRealTimers()
  told.framing.mockReset().mockResolvedValue(view())
  told.tryFraming
    .mockReset()
    .mockImplementation((_: string, wish: FramingWish) => Promise.resolve(view(wish.focus as never)))
  told.keepFraming
    .mockReset()
    .mockImplementation((_: string, wish: FramingWish) => Promise.resolve(view(wish.focus as never)))
})
async function framing() {
  const found = effectScope().run(() => useFraming(() => 'm'))!
  await settled()
  return found
}

describe('wishes', () => {
  it('are joined, the later winning, and what is not named stays', () => {
    const own = wishOf(shape('a', 0))
    expect(joined({ focus: { x: 0.1, y: 0 } }, { parcels: { a: own } })).toEqual({
      focus: { x: 0.1, y: 0 },
      parcels: { a: own },
    })
    expect(joined({ focus: { x: 0.1, y: 0 } }, { focus: null })).toEqual({ focus: null, parcels: {} })
    expect(joined({ mode: 'fit' }, { mode: 'as it is', focus: null })).toEqual({
      mode: 'fit',
      focus: null,
      parcels: {},
    })
  })

  it('have an inverse that names what they would change and nothing else', () => {
    expect(inverse(view({ x: 0.2, y: 0.3 }), { focus: { x: 1, y: 1 } })).toEqual({
      focus: { x: 0.2, y: 0.3 },
      parcels: {},
    })
    expect(inverse(view(), { focus: { x: 1, y: 1 }, mode: 'blur' })).toEqual({ focus: null, mode: null, parcels: {} })
    expect(inverse(view(), { parcels: { b: wishOf(shape('b', 9)) } })).toEqual({
      parcels: { b: wishOf(shape('b', 0)) },
    })
  })

  it('find the middle of a crop in shares of the picture', () => {
    expect(centreOf(view(), shape('a', 150))).toEqual({ x: 0.5, y: 0.5 })
  })
})

describe('framing', () => {
  it('tries one at a time, ends at the latest, and keeps once', async () => {
    const f = await framing()
    let answer: (value: FramingView) => void = () => undefined
    told.tryFraming.mockImplementationOnce(() => new Promise((done) => (answer = done)))
    for (const x of [0.1, 0.2, 0.3]) void f.attempt({ focus: { x, y: 0.5 } })
    expect(told.tryFraming).toHaveBeenCalledTimes(1)
    answer(view({ x: 0.1, y: 0.5 }))
    await settled()
    expect(told.tryFraming.mock.calls.map(([, wish]) => wish.focus.x)).toEqual([0.1, 0.3])
    expect(f.view.value?.focus?.x).toBe(0.3)
    await f.settle()
    expect(told.keepFraming).toHaveBeenCalledTimes(1)
    expect(told.keepFraming.mock.calls[0][1].focus.x).toBe(0.3)
  })

  it('makes quick keys from what is wished, answered or not, and keeps them as one', async () => {
    const f = await framing()
    vi.useFakeTimers()
    told.tryFraming.mockImplementation(() => new Promise(() => undefined))
    const right = (wished: FramingWish) => ({
      focus: { x: ((wished.focus as { x: number } | undefined)?.x ?? 0.5) + 0.1, y: 0.5 },
    })
    for (let i = 0; i < 3; i++) f.nudge(right)
    expect(told.keepFraming).not.toHaveBeenCalled()
    vi.advanceTimersByTime(400)
    vi.useRealTimers()
    await settled()
    expect(told.keepFraming).toHaveBeenCalledTimes(1)
    expect(told.keepFraming.mock.calls[0][1].focus.x).toBeCloseTo(0.8)
    expect(f.past.value).toHaveLength(1)
  })

  it('makes keys that come while the last are being kept from those too', async () => {
    const f = await framing()
    told.tryFraming.mockImplementation(() => new Promise(() => undefined))
    const kept: ((found: FramingView) => void)[] = []
    told.keepFraming.mockImplementation(() => new Promise((done) => kept.push(done)))
    const right = (wished: FramingWish) => ({
      focus: { x: ((wished.focus as { x: number } | undefined)?.x ?? 0.5) + 0.1, y: 0.5 },
    })
    for (let burst = 0; burst < 2; burst++) {
      vi.useFakeTimers()
      for (let i = 0; i < 2; i++) f.nudge(right)
      vi.advanceTimersByTime(400)
      vi.useRealTimers()
      await settled()
    }
    kept.shift()!(view({ x: 0.7, y: 0.5 }))
    await vi.waitFor(() => expect(told.keepFraming).toHaveBeenCalledTimes(2))
    expect(told.keepFraming.mock.calls[1][1].focus.x).toBeCloseTo(0.9)
    kept.shift()!(view({ x: 0.9, y: 0.5 }))
    await settled()
    expect(f.view.value?.focus?.x).toBe(0.9)
  })

  it('changes one thing of a shape without taking back an earlier change that has no answer yet', async () => {
    const f = await framing()
    told.tryFraming.mockImplementation(() => new Promise(() => undefined))
    f.nudge(() => f.changeShape(f.view.value!.shapes[0]!, { zoom: 1.5 }))
    await f.keep(f.changeShape(f.view.value!.shapes[0]!, { focus: null }))
    expect(told.keepFraming.mock.calls.at(-1)![1].parcels.a).toMatchObject({ zoom: 1.5, focus: null })
  })

  it('takes back and brings again, each by its inverse', async () => {
    const f = await framing()
    await f.keep({ focus: { x: 0.9, y: 0.5 } })
    await f.undo()
    expect(told.keepFraming.mock.calls.at(-1)![1].focus).toBeNull()
    expect([f.past.value.length, f.future.value.length]).toEqual([0, 1])
    await f.redo()
    expect(told.keepFraming.mock.calls.at(-1)![1].focus.x).toBe(0.9)
    expect([f.past.value.length, f.future.value.length]).toEqual([1, 0])
  })

  it('says why a wish was refused and shows what is kept', async () => {
    const f = await framing()
    told.keepFraming.mockRejectedValueOnce(
      new (await import('../src/data/api')).Trouble('9:16 is not taken here.', 'shape_not_taken', 422),
    )
    await f.keep({ parcels: { a: { ...wishOf(shape('a', 0)), shape: '9/16' } } })
    await nextTick()
    expect(f.refused.value).toBe('9:16 is not taken here.')
    expect(f.past.value).toHaveLength(0)
    expect(f.view.value).toEqual(view())
  })

  it('leaves nothing of one film when another is shown, and drops what was answered of the former', async () => {
    const id = ref('m')
    const found = effectScope().run(() => useFraming(() => id.value))!
    await settled()
    let late: (view: FramingView) => void = () => undefined
    told.keepFraming.mockImplementationOnce(() => new Promise((resolve) => (late = resolve)))
    void found.keep({ focus: { x: 0.3, y: 0.3 } })
    await settled()
    void found.keep({ focus: { x: 0.4, y: 0.4 } })
    told.framing.mockResolvedValue(view({ x: 0.9, y: 0.9 }))
    id.value = 'other'
    late(view({ x: 0.3, y: 0.3 }))
    await vi.waitFor(() => expect(told.keepFraming).toHaveBeenCalledTimes(2))
    await settled()
    expect([found.view.value?.focus, found.past.value, found.future.value]).toEqual([{ x: 0.9, y: 0.9 }, [], []])
    expect(told.keepFraming.mock.calls.map((call) => call[0])).toEqual(['m', 'm'])
    await found.undo()
    expect(told.keepFraming.mock.calls.length).toBe(2)
  })
})
