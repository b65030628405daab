import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick } from 'vue'

import { api, Trouble, type Fault, type SheetView } from '../src/data/api'
import { idOf, useSheetDraft } from '../src/screens/sheets/useSheetDraft'

const view = () =>
  ({
    sheet: { id: 'tern', name: 'Tern Post', version: 3, placements: [{ id: 'main', max_duration_s: 600, guidance: [] }] },
    versions: [],
  }) as unknown as SheetView

function draft(faults: Fault[] = []) {
  const checked = vi.spyOn(api, 'checkSheet').mockResolvedValue(faults)
  const kept: SheetView[] = []
  const found = effectScope().run(() => useSheetDraft(view, (one) => kept.push(one)))!
  return { ...found, checked, kept }
}

beforeEach(() => void vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.restoreAllMocks()
})

describe('an id out of a name', () => {
  it.each([
    ['Tern Post', 'tern-post'], ['  Éclair & Sons  ', 'eclair-sons'], ['4 Winds', 'winds'], ['Ü', 'u'], ['!!!', ''], ['a'.repeat(60), 'a'.repeat(40)],
  ])('%s', (name, id) => expect(idOf(name)).toBe(id))
})

describe('a sheet being changed', () => {
  it('is a copy that knows whether it differs', () => {
    const original = view()
    const found = effectScope().run(() => useSheetDraft(() => original, () => undefined))!
    vi.spyOn(api, 'checkSheet').mockResolvedValue([])
    expect(found.changed.value).toBe(false)
    found.draft.value.name = 'Tern'
    expect(found.changed.value).toBe(true)
    expect(original.sheet.name).toBe('Tern Post')
    found.draft.value.name = 'Tern Post'
    expect(found.changed.value).toBe(false)
  })

  it('is checked once one stops typing, and says what is wrong where it is', async () => {
    const found = draft([{ path: 'placements.0.max_duration_s', why: 'should be greater than 0' }])
    for (const seconds of [60, 6, 0]) {
      found.draft.value.placements[0].max_duration_s = seconds
      await nextTick()
    }
    expect(found.checked).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(300)
    expect(found.checked).toHaveBeenCalledTimes(1)
    expect(found.wrong('placements.0.max_duration_s')).toBe('should be greater than 0')
    expect(found.wrong('placements.0')).toBe('should be greater than 0')
    expect(found.wrong('placements.1')).toBe('')
    expect(found.wrong('placements.0.max')).toBe('')
  })

  it('is kept from the version it was made from', async () => {
    const found = draft()
    const keep = vi.spyOn(api, 'keepSheet').mockResolvedValue(view())
    found.draft.value.name = 'Tern'
    await found.keep()
    expect(keep).toHaveBeenCalledWith('tern', expect.objectContaining({ name: 'Tern' }), 3)
    expect(found.kept).toHaveLength(1)
    expect(found.refused.value).toBe('')
  })

  it('stays as it is when it is refused, with the reason', async () => {
    const found = draft()
    vi.spyOn(api, 'keepSheet').mockRejectedValue(new Trouble('Tern Post has a version 4 by now.', 'newer_version', 409))
    found.draft.value.name = 'Tern'
    await found.keep()
    expect(found.refused.value).toBe('Tern Post has a version 4 by now.')
    expect(found.draft.value.name).toBe('Tern')
    expect(found.kept).toHaveLength(0)
    expect(found.busy.value).toBe(false)
  })
})
