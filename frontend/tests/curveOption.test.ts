import { describe, expect, it } from 'vitest'

import type { ParcelSummary, Seen } from '../src/data/api'
import { curveOption, floorOf, type CurveColours } from '../src/screens/bench/curveOption'

const colours = new Proxy({}, { get: (_, name) => `colour of ${String(name)}` }) as CurveColours

const MARK = { low_bps: 4e6, high_bps: 6e6 }

function seen(conditions: number[], mark: { low_bps: number | null; high_bps: number | null } | null = MARK): Seen {
  const points = conditions.map((condition, i) => ({
    bitrate_bps: 3e6 * (i + 1), condition, packed: condition + 10, achieved_bps: 3e6,
  }))
  return {
    screen: 'laptop', line: 'good', at: null, sentence: '',
    curve: {
      points, line: points.map((p) => [p.bitrate_bps, p.condition]), band: 4, perfect: 82, noticeable_step: mark, cannot_be_told: mark,
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

  it('draws both marks as spans and the perfect upload, and nothing that is not known', () => {
    const lines = (view: Seen) => series(view).find((s) => s.name === 'arrived')!.markLine!.data.map((m) => m.xAxis ?? m.yAxis)
    expect(lines(seen([60, 80]))).toEqual([82])
    const spans = (view: Seen) => series(view).filter((s) => ['noticeable step', 'can’t be told'].includes(s.name)).map((s) => s.data.map(([at]) => at))
    expect(spans(seen([60, 80]))).toEqual([[4, 6], [4, 6]])
    expect(spans(seen([60, 80], { low_bps: 9e6, high_bps: null }))).toEqual([[9, 20], [9, 20]])
    expect(spans(seen([60, 80], null))).toEqual([])
  })

  it('draws nothing but a range before a test', () => {
    const view = seen([60, 80])
    view.curve.evidence = 'sheet'
    const found = series(view)
    expect(found.find((s) => s.name === 'arrived')!.data).toEqual([])
    expect(found.find((s) => s.name === 'arrived')!.markLine!.data).toEqual([])
    expect(found.some((s) => s.name === 'can’t be told')).toBe(false)
    expect(found[1].data).toHaveLength(2)
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
