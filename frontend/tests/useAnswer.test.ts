import { describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import { Trouble } from '../src/data/api'
import { useAnswer } from '../src/data/useAnswer'

interface Asked {
  signal: AbortSignal
  answer: (value: string) => void
  fail: (error: unknown) => void
}

function asking() {
  const asked: Asked[] = []
  const ask = (signal: AbortSignal) =>
    new Promise<string>((answer, fail) => {
      asked.push({ signal, answer, fail })
    })
  return { asked, ask }
}

const settled = () => new Promise((done) => setTimeout(done))

describe('one answer of the service', () => {
  it('asks at once and again when a source changes, and drops what was overtaken', async () => {
    const { asked, ask } = asking()
    const source = ref(1)
    const scope = effectScope()
    const answer = scope.run(() => useAnswer(ask, [source]))!
    expect(answer.waiting.value).toBe(true)
    source.value = 2
    await nextTick()
    expect(asked).toHaveLength(2)
    expect(asked[0].signal.aborted).toBe(true)
    asked[1].answer('new')
    asked[0].answer('old')
    await settled()
    expect(answer.value.value).toBe('new')
    expect(answer.waiting.value).toBe(false)
    scope.stop()
  })

  it('keeps the last value beside a trouble, and clears the trouble with the next answer', async () => {
    const { asked, ask } = asking()
    const scope = effectScope()
    const answer = scope.run(() => useAnswer(ask))!
    asked[0].answer('first')
    await settled()
    void answer.again()
    asked[1].fail(new Trouble('There is no such master.', 'not_found', 404))
    await settled()
    expect(answer.value.value).toBe('first')
    expect(answer.trouble.value?.code).toBe('not_found')
    void answer.again()
    asked[2].answer('second')
    await settled()
    expect(answer.trouble.value).toBeUndefined()
    scope.stop()
  })

  it('lets what is under way come in when there is news, and asks once more for all of it', async () => {
    const { asked, ask } = asking()
    const news = ref(0)
    const scope = effectScope()
    const answer = scope.run(() => useAnswer(ask, [], [news]))!
    for (let i = 0; i < 5; i++) {
      news.value++
      await nextTick()
    }
    expect(asked).toHaveLength(1)
    expect(asked[0].signal.aborted).toBe(false)
    asked[0].answer('first')
    await settled()
    expect(answer.value.value).toBe('first')
    expect(asked).toHaveLength(2)
    asked[1].answer('second')
    await settled()
    expect(answer.value.value).toBe('second')
    expect(asked).toHaveLength(2)
    news.value++
    await nextTick()
    expect(asked).toHaveLength(3)
    answer.set('kept')
    expect(asked).toHaveLength(3)
    scope.stop()
  })

  it('asks for the news that came before a change was kept', async () => {
    const { asked, ask } = asking()
    const news = ref(0)
    const scope = effectScope()
    const answer = scope.run(() => useAnswer(ask, [], [news]))!
    news.value++
    await nextTick()
    answer.set('kept')
    expect(asked).toHaveLength(2)
    asked[0].answer('stale')
    await settled()
    expect(answer.value.value).toBe('kept')
    asked[1].answer('newer')
    await settled()
    expect(answer.value.value).toBe('newer')
    scope.stop()
  })

  it('takes an answer that came another way, and drops what was asked before it', async () => {
    const { asked, ask } = asking()
    const scope = effectScope()
    const answer = scope.run(() => useAnswer(ask))!
    asked[0].answer('first')
    await settled()
    void answer.again()
    answer.set('kept')
    expect(asked[1].signal.aborted).toBe(true)
    asked[1].answer('stale')
    await settled()
    expect(answer.value.value).toBe('kept')
    expect(answer.waiting.value).toBe(false)
    void answer.again()
    asked[2].answer('newer')
    await settled()
    expect(answer.value.value).toBe('newer')
    scope.stop()
  })

  it('says something plain for an error of the page, and lets go when its screen goes', async () => {
    const scope = effectScope()
    const broken = vi.fn(() => Promise.reject(new TypeError('undefined is not a function')))
    const answer = scope.run(() => useAnswer(broken))!
    await settled()
    expect(answer.trouble.value?.message).toBe('Something went wrong on this page. Reload it.')
    const { asked, ask } = asking()
    const other = effectScope()
    other.run(() => useAnswer(ask))
    other.stop()
    expect(asked[0].signal.aborted).toBe(true)
    scope.stop()
  })
})
