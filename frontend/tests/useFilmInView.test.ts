import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import { api } from '../src/data/api'
import { leaveAll, useFilmInView } from '../src/data/useFilmInView'

const left: string[] = []
beforeEach(() => {
  vi.useFakeTimers()
  left.length = 0
  vi.spyOn(api, 'leave').mockImplementation((id) => (left.push(id), Promise.resolve(new Response())))
})
afterEach(() => void vi.useRealTimers())

function screen(id: string) {
  const scope = effectScope()
  const film = ref(id)
  scope.run(() => useFilmInView(() => film.value))
  return { film, close: () => scope.stop() }
}

describe('a film in view', () => {
  it('is left once its last screen is closed, and not while another one of its own opens', () => {
    const lanes = screen('gale')
    const bench = screen('gale')
    lanes.close()
    vi.advanceTimersByTime(1000)
    expect(left).toEqual([])
    bench.close()
    const again = screen('gale')
    vi.advanceTimersByTime(1000)
    expect(left).toEqual([])
    again.close()
    vi.advanceTimersByTime(1000)
    expect(left).toEqual(['gale'])
  })

  it('is left where the same screen shows another one, and nothing is told before a film is known', async () => {
    const bench = screen('')
    bench.film.value = 'lamp'
    await nextTick()
    bench.film.value = 'tide'
    await nextTick()
    vi.advanceTimersByTime(1000)
    expect(left).toEqual(['lamp'])
    bench.close()
    vi.advanceTimersByTime(1000)
    expect(left).toEqual(['lamp', 'tide'])
  })
  it('is left at once where the page goes, and what was closed before is not left again', () => {
    const gale = screen('gale')
    const lamp = screen('lamp')
    lamp.close()
    vi.advanceTimersByTime(1000)
    leaveAll()
    expect(left).toEqual(['lamp', 'gale'])
    gale.close()
  })
})
