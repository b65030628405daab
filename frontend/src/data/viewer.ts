import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'

import type { Parcel, Screen, Seen, ViewerLine } from './api'

/** The viewer's screen and line that all figures are shown for. */
export const useViewer = defineStore('viewer', () => {
  const screen = useLocalStorage<Screen>('viewer-screen', 'laptop')
  const line = useLocalStorage<ViewerLine>('viewer-line', 'good')
  const seen = (parcel: Parcel): Seen => parcel.seen.find((s) => s.screen === screen.value && s.line === line.value)!
  return { screen, line, seen }
})
