import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'

import type { ParcelSummary, Screen, Seen, ViewerLine } from './api'

/** What is seen of a parcel without a picture. */
const NOTHING: Omit<Seen, 'screen' | 'line'> = {
  at: null,
  sentence: '',
  curve: {
    points: [], line: [], packed_line: [], bands: [], evidence: null, computed: false, band: 0, perfect: null,
  },
}

/** The viewer's screen and line that all figures are shown for. */
export const useViewer = defineStore('viewer', () => {
  const screen = useLocalStorage<Screen>('viewer-screen', 'laptop')
  const line = useLocalStorage<ViewerLine>('viewer-line', 'good')
  const seen = (summary: ParcelSummary): Seen =>
    summary.seen.find((s) => s.screen === screen.value && s.line === line.value) ?? { screen: screen.value, line: line.value, ...NOTHING }
  return { screen, line, seen }
})
