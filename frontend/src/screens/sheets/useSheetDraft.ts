import { useDebounceFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, toRaw, watch } from 'vue'

import { api, Trouble, type Fault, type Sheet, type SheetView } from '../../data/api'

export type DraftPlacement = Sheet['placements'][number]

/** A sheet being changed: the draft, what is wrong with it as one types, and keeping it as a new version. */
export function useSheetDraft(view: () => SheetView, kept: (view: SheetView) => void) {
  const copy = (sheet: Sheet): Sheet => JSON.parse(JSON.stringify(toRaw(sheet)))
  const draft = ref<Sheet>(copy(view().sheet))
  const before = JSON.stringify(view().sheet)
  const basedOn = view().sheet.version
  const faults = shallowRef<Fault[]>([])
  const refused = ref('')
  const busy = ref(false)
  const changed = computed(() => JSON.stringify(draft.value) !== before)
  let running: AbortController | undefined

  async function check(): Promise<void> {
    running?.abort()
    const mine = (running = new AbortController())
    try {
      const found = await api.checkSheet(draft.value, mine.signal)
      if (mine === running) faults.value = found
    } catch {
      /* checked again at the next key, and on keeping */
    }
  }
  const soon = useDebounceFn(check, 250)
  watch(draft, () => void soon(), { deep: true })
  onScopeDispose(() => running?.abort())

  /** What is wrong at a place of the document, or below it. */
  const wrong = (path: string) => faults.value.find((fault) => fault.path === path || fault.path.startsWith(`${path}.`))?.why ?? ''

  async function keep(): Promise<void> {
    refused.value = ''
    busy.value = true
    try {
      kept(await api.keepSheet(draft.value.id, draft.value, basedOn))
    } catch (error) {
      refused.value = error instanceof Trouble ? error.message : 'This sheet could not be kept.'
    } finally {
      busy.value = false
    }
  }

  return { draft, faults, wrong, changed, refused, busy, keep }
}

/** An id out of a name: small letters, figures and single hyphens. */
export function idOf(name: string): string {
  const plain = name.normalize('NFKD').replace(/[\u0300-\u036f]/g, '').toLowerCase()
  return plain.replace(/[^a-z0-9]+/g, '-').replace(/^[^a-z]+|-+$/g, '').slice(0, 40)
}
