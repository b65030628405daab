import { describe, expect, it } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import type { Master } from '../src/data/api'
import { useExcerptPoints } from '../src/data/useExcerptPoints'

const master = (excerpt: { in_s: string; out_s: string } | null = null, number: number | null = null) =>
  ({ facts: { duration_s: '10', video: { frame_rate: '25' } }, excerpt, excerpt_number: number }) as unknown as Master

const push = async (value: unknown, sent: unknown[]) => void sent.push(value)

function points(first = master(), send: (value: unknown, sent: unknown[]) => Promise<void> = push) {
  const sent: unknown[] = []
  const current = ref(first)
  const found = effectScope().run(() => useExcerptPoints(() => current.value as Master, (value) => send(value, sent)))!
  return { ...found, sent, current }
}
const key = (name: string) => ({ key: name, preventDefault: () => undefined }) as KeyboardEvent

describe('in and out points', () => {
  it('stay on whole pictures, in the film, and in order', () => {
    const p = points()
    p.move('in', 1.013)
    expect(p.at.value.in).toBeCloseTo(1.0)
    p.move('out', 99)
    expect(p.at.value.out).toBe(10)
    p.move('out', 0.2)
    expect(p.at.value.out - p.at.value.in).toBeCloseTo(0.1)
    p.move('in', -5)
    expect(p.at.value.in).toBe(0)
  })

  it('are sent exactly when they settle, and nothing is an excerpt that is everything', () => {
    const p = points()
    p.settle()
    p.move('out', 4)
    p.settle()
    expect(p.sent).toEqual([null, { in_s: '0.000000', out_s: '4.000000' }])
  })

  it('are nudged by a picture, a second, or to the ends', () => {
    const p = points()
    p.type('out', key('ArrowLeft'))
    expect(p.at.value.out).toBeCloseTo(9.96)
    p.type('in', key('PageUp'))
    expect(p.at.value.in).toBeCloseTo(1)
    p.type('in', key('Home'))
    p.type('out', key('End'))
    p.type('out', key('x'))
    expect(p.sent).toHaveLength(4)
    expect(p.sent.at(-1)).toBeNull()
  })

  it('are typed as clock or seconds, with either mark; nonsense changes nothing', () => {
    const p = points()
    p.typed('in', '0:02.40')
    expect(p.at.value.in).toBeCloseTo(2.4)
    p.typed('out', '7,52')
    expect(p.at.value.out).toBeCloseTo(7.52)
    p.typed('out', 'soon')
    p.typed('out', '')
    expect(p.at.value.out).toBeCloseTo(7.52)
  })

  it('follow another excerpt, and a chosen one may cover the whole film', async () => {
    const p = points()
    p.current.value = master({ in_s: '1', out_s: '5/2' }, 2)
    await nextTick()
    expect(p.at.value).toEqual({ in: 1, out: 2.5 })
    p.type('in', key('Home'))
    p.type('out', key('End'))
    expect(p.sent.at(-1)).toEqual({ in_s: '0.000000', out_s: '10.000000' })
  })

  it('are not moved back by news that left before the last wish was kept', async () => {
    const answers: (() => void)[] = []
    const p = points(master(), (value, sent) => new Promise<void>((done) => (sent.push(value), answers.push(done))))
    p.type('out', key('ArrowLeft'))
    p.type('out', key('ArrowLeft'))
    p.current.value = master({ in_s: '0', out_s: '9.96' })
    answers[0]()
    await nextTick()
    expect(p.at.value.out).toBeCloseTo(9.92)
    p.type('out', key('ArrowLeft'))
    expect(p.sent.at(-1)).toEqual({ in_s: '0.000000', out_s: '9.880000' })
    p.current.value = master({ in_s: '0', out_s: '9.88' })
    answers.slice(1).forEach((answer) => answer())
    await new Promise((done) => setTimeout(done))
    expect(p.at.value.out).toBe(9.88)
  })

  it('go back to what is kept when a wish was refused, and stand while other news comes', async () => {
    const p = points(master({ in_s: '1', out_s: '4' }))
    p.move('in', 2)
    p.current.value = master({ in_s: '1', out_s: '4' })
    await nextTick()
    expect(p.at.value.in).toBeCloseTo(2)
    await p.settle()
    expect(p.at.value.in).toBe(1)
  })
})
