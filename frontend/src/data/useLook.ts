import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

export type LookChoice = 'as the system' | 'light' | 'dark'

const choice = useLocalStorage<LookChoice>('look', 'as the system')

/** Light or dark: chosen, or as the system has it; set on the document's root for the tokens to follow. */
export function useLook() {
  const systemDark = usePreferredDark()
  const dark = computed(() => (choice.value === 'as the system' ? systemDark.value : choice.value === 'dark'))
  function wear(): void {
    const look = dark.value ? 'dark' : 'light'
    if (document.documentElement.dataset.look === look) return
    document.documentElement.dataset.look = look
    document.documentElement.style.colorScheme = look
  }
  watchEffect(wear, { flush: 'sync' })
  const toggle = () => (choice.value = dark.value ? 'light' : 'dark')
  /** Reads the tokens of the look that is worn, for what cannot follow them by itself, such as a canvas. */
  const tokens = computed(() => {
    void dark.value
    wear()
    const style = getComputedStyle(document.documentElement)
    return (name: string) => style.getPropertyValue(name).trim()
  })
  return { choice, dark, toggle, tokens }
}
