import type { EChartsCoreOption } from 'echarts/core'

import type { ParcelSummary, Seen } from '../../data/api'
import { named, type OtherWay } from './besides'

export interface CurveColours {
  ink: string
  second: string
  line: string
  airmail: string
  band: string
  guidance: string
  twine: string
  cleared: string
  sheet: string
}

export const GRID = { left: 46, right: 22, top: 24, bottom: 42 }
const LABEL = { fontFamily: 'Zilla Slab', fontWeight: 600 as const, fontSize: 13 }
const TICK = { fontFamily: 'Atkinson Hyperlegible Mono Variable', fontSize: 12 }

/** Lowest condition worth showing: a whole ten below everything drawn, at most 70. */
export function floorOf(seen: Seen): number {
  const values = [...seen.curve.points.flatMap((point) => [point.condition, point.packed]), ...seen.curve.line.map(([, value]) => value)]
  const lowest = Math.min(80, ...values)
  return Math.max(0, Math.floor((lowest - 4) / 10) * 10)
}

const plain = (bps: number): string => (bps / 1e6).toFixed(bps < 2e6 ? 2 : 1)

/** A mark as a span along the rates, low in the chart; an open end runs to the edge and is said to be open. */
function marksOf(curve: Seen['curve'], lowest: number, highest: number, floor: number) {
  return ([['noticeable step', curve.noticeable_step], ['can’t be told', curve.cannot_be_told]] as const).flatMap(([name, mark], number) => {
    if (!mark) return []
    const [low, high] = [mark.low_bps ?? lowest, mark.high_bps ?? highest]
    const said = `${mark.low_bps ? plain(mark.low_bps) : 'open'} – ${mark.high_bps ? plain(mark.high_bps) : 'open'}`
    return [{ name, words: `${name} ${said}`, from: Math.min(low, highest) / 1e6, to: Math.min(Math.max(high, low), highest) / 1e6, at: floor + (100 - floor) * (0.05 + 0.1 * number) }]
  })
}

/** The chart: guidance band, both marks, what a perfect upload would reach, packed and arrived, rehearsed points, other ways beside. */
export function curveOption(summary: ParcelSummary, seen: Seen, colours: CurveColours, asItIs: number | null = null, ways: readonly OtherWay[] = []): EChartsCoreOption {
  /** Before a test only the range is drawn in which the line will probably lie. */
  const untested = seen.curve.evidence === 'sheet'
  const curve: Seen['curve'] = untested ? { ...seen.curve, packed_line: [], perfect: null, noticeable_step: null, cannot_be_told: null } : seen.curve
  const band = (at: number): number => curve.bands?.[at] ?? curve.band
  const low = curve.line.map(([bps, value], at) => [bps / 1e6, Math.max(0, value - band(at))])
  const width = curve.line.map(([bps, value], at) => [bps / 1e6, Math.min(100, value + band(at)) - Math.max(0, value - band(at))])
  const guidance = summary.plan.guidance
  const marks = marksOf(curve, summary.lowest_bps ?? 1e6, summary.highest_bps ?? 1e7, floorOf(seen))
  /** There edges have their names above the chart, so the line has its own below. */
  const nearTop = (curve.packed_line?.at(-1)?.[1] ?? 0) > 88
  const upper = curve.perfect
  /** The master sent as it is arrives as a perfect upload, at its own rate; beyond the axis it stands at the edge. */
  const own = asItIs == null || upper == null ? undefined : [Math.min(summary.highest_bps ?? asItIs, Math.max(summary.lowest_bps ?? asItIs, asItIs)) / 1e6, upper]
  const atRight = own !== undefined && own[0] > ((summary.highest_bps ?? 0) / 1e6) * 0.6
  return {
    animationDuration: 150,
    animationDurationUpdate: 150,
    grid: GRID,
    textStyle: TICK,
    xAxis: {
      type: 'log',
      logBase: 2,
      min: (summary.lowest_bps ?? 1e6) / 1e6,
      max: (summary.highest_bps ?? 1e7) / 1e6,
      name: 'upload bit rate, Mbit/s',
      nameLocation: 'middle',
      nameGap: 24,
      nameTextStyle: { ...TICK, color: colours.second },
      axisLabel: { ...TICK, color: colours.second, formatter: (value: number) => String(Number(value.toPrecision(2))), hideOverlap: true },
      splitLine: { show: false },
      axisLine: { lineStyle: { color: colours.second } },
    },
    yAxis: {
      type: 'value',
      min: floorOf(seen),
      max: 100,
      interval: 10,
      axisLabel: { ...TICK, color: colours.second },
      splitLine: { lineStyle: { color: colours.line } },
    },
    series: [
      {
        name: 'band low', type: 'line', data: low, stack: 'band', symbol: 'none', silent: true,
        lineStyle: { opacity: 0 }, smooth: false,
      },
      {
        name: 'band', type: 'line', data: width, stack: 'band', symbol: 'none', silent: true,
        lineStyle: { opacity: 0 }, areaStyle: { color: colours.band },
      },
      ...ways.map((way) => ({
        name: way.words, type: 'line' as const, silent: true, symbol: 'none', data: way.drawn.map(([bps, value]) => [bps / 1e6, value]),
        lineStyle: { color: colours.second, width: 1.25, type: 'solid' as const, opacity: 0.75 },
      })),
      {
        name: 'names', type: 'scatter', silent: true, symbol: 'circle', symbolSize: 1, z: 3, itemStyle: { color: 'transparent' },
        data: named(ways, floorOf(seen)).map(({ words, at }) => ({
          value: [at[0] / 1e6, at[1]], label: { show: true, formatter: words, ...LABEL, color: colours.second, backgroundColor: colours.sheet, padding: [1, 4] },
        })),
      },
      {
        name: 'packed', type: 'line', silent: true, symbol: 'none',
        data: (curve.packed_line ?? []).map(([bps, value]) => [bps / 1e6, value]),
        lineStyle: { color: colours.second, width: 1.5, type: 'dashed' },
        endLabel: { show: !untested && curve.line.length > 1, formatter: 'as packed', ...LABEL, color: colours.second, align: 'right', offset: [-8, nearTop ? 18 : -12] },
      },
      {
        name: 'arrived', type: 'line', silent: true, symbol: 'none',
        data: untested ? [] : curve.line.map(([bps, value]) => [bps / 1e6, value]),
        lineStyle: { color: colours.airmail, width: 3.5 },
        endLabel: { show: !untested && curve.line.length > 1, formatter: 'arrives, this parcel', ...LABEL, color: colours.airmail, align: 'right', offset: [-8, 16] },
        markArea: {
          silent: true,
          itemStyle: { color: colours.guidance },
          label: { position: 'insideTop', ...LABEL, color: colours.twine, distance: 6 },
          data: guidance ? [[{ name: 'guidance', xAxis: guidance.low_bps / 1e6 }, { xAxis: guidance.high_bps / 1e6 }]] : [],
        },
        markLine: {
          silent: true,
          animation: false,
          symbol: 'none',
          data: [
            ...(summary.edges ?? []).map((edge, number) => ({
              xAxis: edge.bitrate_bps / 1e6,
              lineStyle: { color: colours.ink, width: 1, type: 'dashed' as const },
              label: { formatter: edge.name, position: (['insideMiddleBottom', 'insideStartBottom', 'insideEndBottom'] as const)[number % 3], ...LABEL, color: colours.ink },
            })),
            ...(upper != null
              ? [{
                  yAxis: upper,
                  lineStyle: { color: colours.second, width: 1, type: 'solid' as const },
                  label: { formatter: 'a perfect upload', position: 'insideEndTop' as const, ...LABEL, color: colours.second },
                }]
              : []),
          ],
        },
      },
      ...marks.map((mark, number) => ({
        name: mark.name, type: 'line' as const, silent: true, symbol: 'none', data: [[mark.from, mark.at], [mark.to, mark.at]],
        lineStyle: { color: number ? colours.cleared : colours.twine, width: 6 }, z: 3,
      })),
      {
        name: 'mark names', type: 'scatter', silent: true, symbol: 'circle', symbolSize: 1, z: 4, itemStyle: { color: 'transparent' },
        data: marks.map((mark, number) => {
          const late = Math.log(mark.from / ((summary.lowest_bps ?? 1e6) / 1e6)) > 0.25 * Math.log((summary.highest_bps ?? 1e7) / (summary.lowest_bps ?? 1e6))
          return {
            value: [late ? mark.from : mark.to, mark.at],
            label: { show: true, formatter: mark.words, position: late ? ('left' as const) : ('right' as const), ...LABEL, color: number ? colours.cleared : colours.twine, backgroundColor: colours.sheet, padding: [0, 4] },
          }
        }),
      },
      {
        name: 'rehearsed', type: 'scatter', silent: true, symbol: 'diamond', symbolSize: 8,
        data: curve.points.map((point) => [point.bitrate_bps / 1e6, point.condition]),
        itemStyle: { color: colours.sheet, borderColor: colours.airmail, borderWidth: 2 },
        z: 4,
      },
      {
        name: 'as it is', type: 'scatter', silent: true, symbol: 'rect', symbolSize: 10, data: own ? [own] : [],
        itemStyle: { color: colours.ink },
        // beside the right edge the name of the curve stands under the line
        label: { show: true, formatter: 'as it is', position: 'bottom' as const, distance: atRight ? 26 : 7, offset: atRight ? [-14, 0] : [0, 0], ...LABEL, color: colours.ink },
        z: 5,
      },
    ],
  }
}
