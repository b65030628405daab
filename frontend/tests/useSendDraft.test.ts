import { describe, expect, it } from 'vitest'
import { ref } from 'vue'

import type { SendingsView } from '../src/data/api'
import { useSendDraft } from '../src/screens/receipts/useSendDraft'

const last = { choices: [{ destination_id: 'orrery-wide', name: 'Orrery' }], words: { title: 'Last time', description: 'At Skerry Point.', tags: ['sea'] } } as unknown as SendingsView

describe('what is sent along', () => {
  it('is what was sent last, but for what is typed', () => {
    const known = ref<SendingsView | undefined>(last)
    const { title, description, tags, to } = useSendDraft(known)
    expect([title.value, description.value, tags.value, to.value]).toEqual(['Last time', 'At Skerry Point.', ['sea'], 'orrery-wide'])
    title.value = ''
    tags.value = []
    expect([title.value, description.value, tags.value]).toEqual(['', 'At Skerry Point.', []])
  })

  it('keeps what is typed before the last words have come, and what was typed when they come again', () => {
    const known = ref<SendingsView>()
    const { title, description, to } = useSendDraft(known)
    title.value = 'Gale over the skerry'
    known.value = last
    expect([title.value, description.value, to.value]).toEqual(['Gale over the skerry', 'At Skerry Point.', 'orrery-wide'])
    known.value = { ...last, words: { title: 'Other', description: 'Changed.', tags: [] } } as unknown as SendingsView
    expect([title.value, description.value]).toEqual(['Gale over the skerry', 'Changed.'])
  })
})
