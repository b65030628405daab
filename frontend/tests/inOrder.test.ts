import { expect, it } from 'vitest'

import { inOrder } from '../src/data/inOrder'

it('keeps the order of wishes, whatever each takes and though one fails', async () => {
  const next = inOrder()
  const kept: string[] = []
  const slow = next(() => new Promise<void>((done) => setTimeout(() => (kept.push('point'), done()), 20)))
  const failing = next(() => Promise.reject(new Error('refused')))
  const quick = next(async () => void kept.push('whole'))
  await expect(failing).rejects.toThrow('refused')
  await Promise.all([slow, quick])
  expect(kept).toEqual(['point', 'whole'])
})
