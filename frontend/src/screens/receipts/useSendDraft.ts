import { computed, ref, type Ref } from 'vue'

import type { SendingsView, Words } from '../../data/api'

/**
 * What goes along with a file that is sent, and where it goes: as it was last time, but for what is typed here. What is typed before the
 * last words have come stays as it is.
 */
export function useSendDraft(known: Ref<SendingsView | undefined>) {
  const typed = ref<Partial<Words> & { to?: string }>({})
  const field = <K extends 'title' | 'description' | 'tags'>(key: K, empty: NonNullable<Words[K]>) => computed({
    get: () => (typed.value[key] ?? known.value?.words[key] ?? empty) as NonNullable<Words[K]>,
    set: (value) => (typed.value = { ...typed.value, [key]: value }),
  })
  const to = computed({
    get: () => typed.value.to ?? known.value?.choices[0]?.destination_id ?? '',
    set: (value) => (typed.value = { ...typed.value, to: value }),
  })
  return { title: field('title', ''), description: field('description', ''), tags: field('tags', []), to }
}
