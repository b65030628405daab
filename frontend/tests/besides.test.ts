import { describe, expect, it } from 'vitest'

import type { BesideView, Seen } from '../src/data/api'
import { difference, named, otherWays, valueAt } from '../src/screens/bench/besides'

const drawn: [number, number][] = [[1e6, 40], [4e6, 60], [16e6, 70]]
const way = (words: string, line: [number, number][], screen = 'laptop'): BesideView =>
  ({ words, part: { codec: 'hevc' }, evidence: 'probed', band: 6, paired_band: 5.0321977, lines: [{ screen, line: 'good', drawn: line }] }) as unknown as BesideView
const seen = { screen: 'laptop', line: 'good' } as unknown as Seen

describe('other ways beside a curve', () => {
  it('are those that this screen and line know', () => {
    const found = otherWays([way('HEVC', drawn), way('VP9', drawn, 'tv'), way('AV1', [[1e6, 50]])], seen)
    expect(found).toEqual([{ words: 'HEVC', part: { codec: 'hevc' }, band: 5, drawn }])
  })

  it('are read between their points on the axis of the chart, never beyond', () => {
    expect(valueAt(drawn, 1e6)).toBe(40)
    expect(valueAt(drawn, 2e6)).toBeCloseTo(50)
    expect(valueAt(drawn, 16e6)).toBeCloseTo(70)
    expect(valueAt(drawn, 0.5e6)).toBeUndefined()
    expect(valueAt(drawn, 20e6)).toBeUndefined()
    expect(valueAt([], 2e6)).toBeUndefined()
  })

  it('are named on their own line, apart from each other and in view', () => {
    const line = Array.from({ length: 60 }, (_, i) => [1e6 * 1.05 ** i, 30 + i] as [number, number])
    const ways = ['HEVC', 'VP9', 'AV1'].map((words) => ({ words, drawn: line, part: {}, band: 5 }))
    const places = named(ways, 50)
    expect(places.map((one) => one.words)).toEqual(['HEVC', 'VP9', 'AV1'])
    expect(new Set(places.map((one) => one.at[0])).size).toBe(3)
    for (const { at } of places) {
      expect(line).toContainEqual(at)
      expect(at[1]).toBeGreaterThan(53)
    }
  })

  it('differ only by more than can be mistaken', () => {
    expect(difference(58, 50, 5).said).toBe('+8 ±5')
    expect(difference(43, 50, 5)).toEqual({ said: '−7 ±5', title: '7 points worse, sure to ±5.' })
    expect(difference(53, 50, 5).said).toBe('no difference that can be told')
    expect(difference(undefined, 50, 5).said).toBe('')
  })
})
