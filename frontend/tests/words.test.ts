import { describe, expect, it } from 'vitest'

import { bytes, mbps, percent, place, rate, ratio, seconds, signed, stem } from '../src/data/words'

describe('numbers as a reader wants them', () => {
  it('gives times without losing an hour or a minute', () => {
    expect(seconds(0)).toBe('0:00')
    expect(seconds(59.6)).toBe('1:00')
    expect(seconds(3661)).toBe('1:01:01')
    expect(seconds(-3)).toBe('0:00')
    expect(place(4.806)).toBe('0:04.81')
    expect(place(59.999)).toBe('1:00.00')
    expect(place(61.5)).toBe('1:01.50')
  })

  it('reads exact ratios', () => {
    expect(ratio('24000/1001')).toBeCloseTo(23.976, 3)
    expect(ratio('25')).toBe(25)
    expect(rate('24000/1001')).toBe('23.976')
    expect(rate('50')).toBe('50')
  })

  it('carries units', () => {
    expect(bytes(1_500)).toBe('1.5 kB')
    expect(bytes(13_900_000)).toBe('13.9 MB')
    expect(bytes(380_000_000)).toBe('380 MB')
    expect(bytes(2.5e9)).toBe('2.5 GB')
    expect(mbps(1_234_000)).toBe('1.23 Mbit/s')
    expect(mbps(13_840_000)).toBe('13.8 Mbit/s')
    expect(percent(0.0004)).toBe('< 0.1 %')
    expect(percent(0.006)).toBe('0.6 %')
    expect(percent(0.25)).toBe('25 %')
  })

  it('writes a real minus and drops endings', () => {
    expect(signed(-16.04)).toBe('−16.0')
    expect(signed(3)).toBe('3.0')
    expect(stem('Lamp room, upright.mp4')).toBe('Lamp room, upright')
    expect(stem('v1.2 final.mov')).toBe('v1.2 final')
  })
})
