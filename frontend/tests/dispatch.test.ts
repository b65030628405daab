import { describe, expect, it } from 'vitest'

import type { Job } from '../src/data/api'
import { byFilm, inTurn, moved, secondsLeft, secondsUntil, shareDone, whither } from '../src/data/useDispatch'

const job = (id: string, more: Partial<Job> = {}): Job =>
  ({ id, state: 'waiting', kind: 'pack', subject: 'Gale.mp4', goes_to: 'Orrery · wide film', master_id: 'gale', rank: 10, expected_s: 60, created_at: 1, progress: null, ...more }) as unknown as Job
const running = (id: string, share: number, left_s: number | null, more: Partial<Job> = {}): Job => job(id, { state: 'running', progress: { share, left_s } as Job['progress'], ...more })

describe('dispatch', () => {
  it('takes what is under way first, then by rank, then by age', () => {
    const jobs = [job('late', { rank: 30 }), job('young', { created_at: 2 }), job('old'), running('now', 0.5, 9, { rank: 99 })]
    expect(inTurn(jobs).map((one) => one.id)).toEqual(['now', 'old', 'young', 'late'])
  })

  it('tells the time that is left only once the one under way can', () => {
    expect(secondsLeft([running('a', 0.1, null), job('b')])).toBeNull()
    expect(secondsLeft([running('a', 0.1, 30), job('b'), job('c', { expected_s: 5 })])).toBe(95)
    expect(secondsLeft([])).toBe(0)
  })

  it('tells when one in line is done by those before it of its kind', () => {
    const open = [running('now', 0.5, 10, { kind: 'probe' }), job('next', { kind: 'probe', expected_s: 20 }), job('last', { kind: 'probe', rank: 20 }), job('else', { rank: 1 })]
    expect(['now', 'next', 'last'].map((id) => secondsUntil(open.find((one) => one.id === id)!, open))).toEqual([10, 30, 90])
    expect(secondsUntil(job('gone', { kind: 'probe' }), open)).toBeNull()
    expect(secondsUntil(open[1], [running('now', 0.1, null, { kind: 'probe' }), open[1]])).toBeNull()
  })

  it('weighs shares by what each is expected to take', () => {
    expect(shareDone([running('a', 1, 0, { expected_s: 30 }), job('b', { expected_s: 90 })])).toBe(0.25)
    expect(shareDone([])).toBe(0)
  })

  it('groups by film in the order of their first parcels', () => {
    const films = byFilm([job('a', { rank: 5 }), job('b', { master_id: 'reel', subject: 'The 1987 → 1988 reel.mp4', goes_to: 'Sprigg · upright short', rank: 1 }), job('c', { rank: 9 })])
    expect(films.map((film) => [film.film, film.jobs.map((one) => one.id), film.left])).toEqual([['The 1987 → 1988 reel', ['b'], 60], ['Gale', ['a', 'c'], 120]])
    expect(whither(films[0].jobs[0])).toBe('Sprigg · upright short')
  })

  it('moves one before another, behind all, or not at all', () => {
    expect(moved(['a', 'b', 'c'], 'c', 'a')).toEqual(['c', 'a', 'b'])
    expect(moved(['a', 'b', 'c'], 'a', null)).toEqual(['b', 'c', 'a'])
    expect(moved(['a', 'b', 'c'], 'a', 'gone')).toEqual(['a', 'b', 'c'])
  })
})
