import { describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'

import { api, Trouble } from '../src/data/api'
import { useStepping } from '../src/data/useStepping'

const picture = (number: number, exact: boolean) => ({ number, exact, at_s: number / 25, timecode: '', picture: `data:${number}` })

function stepping(answer: (number: number, exact: boolean) => Promise<ReturnType<typeof picture>>) {
  const asked: [number, boolean][] = []
  vi.spyOn(api, 'picture').mockImplementation((_, number, exact) => {
    asked.push([number, exact])
    return answer(number, exact)
  })
  const scope = effectScope()
  const found = scope.run(() => useStepping(() => 'm', () => 99))!
  return { ...found, asked, scope }
}
const settled = () => new Promise((resolve) => setTimeout(resolve, 5))

describe('stepping', () => {
  it('shows the keyframe at once and the exact picture after', async () => {
    const shown: (number | undefined)[] = []
    const s = stepping(async (number, exact) => {
      shown.push(s.shown.value?.number)
      return picture(exact ? number : 50, exact)
    })
    s.goTo(60)
    await settled()
    expect(s.asked).toEqual([[60, false], [60, true]])
    expect(shown).toEqual([undefined, 50])
    expect(s.shown.value).toMatchObject({ number: 60, exact: true })
    s.step(1)
    await settled()
    expect(s.asked.at(-1)).toEqual([61, true])
  })

  it('keeps only the latest wish while one is fetched, within the film', async () => {
    const s = stepping(async (number, exact) => picture(number, exact))
    s.goTo(10)
    for (const number of [20, 30, 40, 500]) s.goTo(number)
    await settled()
    expect(s.wanted.value).toBe(99)
    expect(s.asked.map(([number]) => number)).not.toContain(20)
    s.goTo(-7)
    await settled()
    expect(s.shown.value?.number).toBe(0)
  })

  it('says what went wrong and stays where it was', async () => {
    const s = stepping(async (number, exact) => {
      if (number > 50) throw new Trouble('This file brought its reader down here.', 'reader_died', 422)
      return picture(number, exact)
    })
    s.goTo(5)
    await settled()
    s.goTo(80)
    await settled()
    expect(s.problem.value).toContain('brought its reader down')
    expect(s.wanted.value).toBe(5)
    s.step(1)
    await settled()
    expect(s.shown.value?.number).toBe(6)
  })
})
