import type { BesideView, Seen } from '../../data/api'

/** Another way's curve for who is looking: its name, pairs of bit/s and condition, what choosing it changes, and how sure its difference is. */
export interface OtherWay {
  words: string
  drawn: [number, number][]
  part: BesideView['part']
  band: number
}

/** The other ways as this screen and line see them; those of which nothing lies on the chart are left out. */
export function otherWays(every: readonly BesideView[], seen: Seen): OtherWay[] {
  return every
    .map((way) => ({
      words: way.words, part: way.part, band: Number(way.paired_band.toFixed(1)),
      drawn: (way.lines.find((one) => one.screen === seen.screen && one.line === seen.line)?.drawn ?? []) as [number, number][],
    }))
    .filter((way) => way.drawn.length > 1)
}

/** A line's value at a bit rate, straight between its points on a logarithmic axis; nothing outside them. */
export function valueAt(drawn: readonly (readonly number[])[], bps: number): number | undefined {
  const next = drawn.findIndex(([at]) => at >= bps)
  if (next < 0 || (next === 0 && drawn[0][0] > bps * 1.001)) return undefined
  if (next === 0) return drawn[0][1]
  const [[low, from], [high, to]] = [drawn[next - 1], drawn[next]]
  return from + ((to - from) * Math.log(bps / low)) / Math.log(high / low)
}

/** What another way would bring, in words: the difference with its band, or that none can be told. */
export function difference(there: number | undefined, own: number | undefined, band: number): { said: string; title: string } {
  if (there === undefined || own === undefined) return { said: '', title: '' }
  const more = Math.round(there - own)
  const sign = more > 0 ? '+' : '−'
  if (Math.abs(there - own) <= band) return { said: 'no difference that can be told', title: `It is ${Math.abs(more)} points, and sure to ±${band}.` }
  return { said: `${sign}${Math.abs(more)} ±${band}`, title: `${Math.abs(more)} points ${more > 0 ? 'better' : 'worse'}, sure to ±${band}.` }
}

/** Where each name stands on its own line: spread along the chart, on a place that is in view. */
export function named(ways: readonly OtherWay[], floor: number): { words: string; at: [number, number] }[] {
  return ways.flatMap((way, number) => {
    const share = 0.14 + (0.6 * number) / Math.max(1, ways.length)
    const inView = way.drawn.filter(([, value]) => value > floor + 3 && value < 99)
    return inView.length ? [{ words: way.words, at: inView[Math.floor(share * inView.length)] }] : []
  })
}
