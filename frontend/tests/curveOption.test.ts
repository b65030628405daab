import { describe, expect, it } from 'vitest'

import type { ParcelSummary, Seen } from '../src/data/api'
import { curveOption, floorOf, type CurveColours } from '../src/screens/bench/curveOption'

const colours = new Proxy({}, { get: (_, name) => `colour of ${String(name)}` }) as CurveColours

function seen(conditions: number[], enough: number | null = 6e6): Seen {
  const points = conditions.map((condition, i) => ({
    bitrate_bps: 3e6 * (i + 1), condition, packed: condition + 10, achieved_bps: 3e6,
  }))
  return {
    screen: 'laptop', line: 'good', at: null, sentence: '',
    curve: {
      points, line: points.map((p) => [p.bitrate_bps, p.condition]), band: 4, perfect: 82, enough_bps: enough,
      enough_low_bps: null, enough_high_bps: null, enough_beyond: enough == null, guidance_side: 'right',
    },
  } as unknown as Seen
}

const parcel = {
  lowest_bps: 1e6, highest_bps: 20e6, plan: { guidance: { low_bps: 7e6, high_bps: 9.1e6 } },
} as unknown as ParcelSummary

type Series = { name: string; data: [number, number][]; markLine?: { data: { xAxis?: number; yAxis?: number }[] } }
const series = (view: Seen) => curveOption(parcel, view, colours).series as Series[]

describe('the chart of the survival curve', () => {
  it('draws the band around the line, never outside 0 to 100', () => {
    const [low, width] = series(seen([2, 60, 98]))
    low.data.forEach(([, bottom], i) => {
      expect(bottom).toBeGreaterThanOrEqual(0)
      expect(bottom + width.data[i][1]).toBeLessThanOrEqual(100)
    })
    expect(low.data[1]).toEqual([6, 56])
    expect(width.data[1]).toEqual([6, 8])
  })

  it('marks enough and the perfect upload, and nothing that is not known', () => {
    const marks = series(seen([60, 80])).find((s) => s.name === 'arrived')!.markLine!.data
    expect(marks.map((m) => m.xAxis ?? m.yAxis)).toEqual([6, 82])
    const without = series(seen([60, 80], null)).find((s) => s.name === 'arrived')!.markLine!.data
    expect(without.map((m) => m.xAxis ?? m.yAxis)).toEqual([82])
  })

  it('names the packed line below it where it ends near the top, where edges have their names', () => {
    const offset = (end: number) => {
      const view = seen([60, 80])
      view.curve.packed_line = [[3e6, 50], [6e6, end]]
      return (series(view).find((s) => s.name === 'packed') as unknown as { endLabel: { offset: [number, number] } }).endLabel.offset[1]
    }
    expect(offset(97)).toBeGreaterThan(0)
    expect(offset(70)).toBeLessThan(0)
  })

  it('starts the scale a whole ten below everything drawn', () => {
    expect(floorOf(seen([63, 80]))).toBe(50)
    expect(floorOf(seen([33, 80]))).toBe(20)
    expect(floorOf(seen([1]))).toBe(0)
    expect(floorOf(seen([]))).toBe(70)
    expect(floorOf(seen([88, 91]))).toBe(70)
  })

  it('puts the master as it is at its own rate and the perfect upload, or at the edge of the axis', () => {
    const at = (own: number | null) => (curveOption(parcel, seen([60, 80]), colours, own).series as Series[]).find((s) => s.name === 'as it is')!.data
    expect(at(5e6)).toEqual([[5, 82]])
    expect(at(90e6)).toEqual([[20, 82]])
    expect(at(null)).toEqual([])
  })
})
