import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { computed, watchEffect } from 'vue'

export type LookChoice = 'as the system' | 'light' | 'dark'

const choice = useLocalStorage<LookChoice>('look', 'as the system')

/** Light or dark: chosen, or as the system has it; set on the document's root for the tokens to follow. */
export function useLook() {
  const systemDark = usePreferredDark()
  const dark = computed(() => (choice.value === 'as the system' ? systemDark.value : choice.value === 'dark'))
  watchEffect(() => {
    document.documentElement.dataset.look = dark.value ? 'dark' : 'light'
    document.documentElement.style.colorScheme = dark.value ? 'dark' : 'light'
  })
  const toggle = () => (choice.value = dark.value ? 'light' : 'dark')
  return { choice, dark, toggle }
}
