import { describe, expect, it } from 'vitest'
import { nextTick, ref } from 'vue'

import { useSelection } from '../src/screens/shelf/useSelection'

const shelf = () => {
  const listed = ref(['a', 'b', 'c', 'd'])
  const present = ref(['a', 'b', 'c', 'd', 'hidden'])
  return { listed, present, ...useSelection(listed, present) }
}

describe('a selection', () => {
  it('takes a range from the last one that was set, and gives it back the same way', () => {
    const s = shelf()
    s.toggle('b', true)
    s.toggle('d', true, true)
    expect(s.ids.value).toEqual(['b', 'c', 'd'])
    s.toggle('c', false, true)
    expect(s.ids.value).toEqual(['b'])
  })

  it('takes a range backwards, and a single one where nothing was set before', () => {
    const s = shelf()
    s.toggle('c', true, true)
    expect(s.ids.value).toEqual(['c'])
    s.toggle('a', true, true)
    expect(s.ids.value).toEqual(['a', 'b', 'c'])
  })

  it('takes all that are listed, keeps what a filter hides, and forgets what is gone', async () => {
    const s = shelf()
    s.toggle('hidden', true)
    s.toggleAll()
    expect(s.isAll.value).toBe(true)
    expect(s.ids.value).toEqual(['a', 'b', 'c', 'd', 'hidden'])
    s.present.value = ['a', 'b']
    s.listed.value = ['a', 'b']
    await nextTick()
    expect(s.ids.value).toEqual(['a', 'b'])
    s.toggleAll()
    expect(s.ids.value).toEqual([])
  })
})
