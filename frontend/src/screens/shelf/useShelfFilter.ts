import { useLocalStorage } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'

import type { Master } from '../../data/api'
import { ratio, stem } from '../../data/words'

export const openFindings = (master: Master) =>
  master.stamps.filter((stamp) => stamp.outcome !== 'cleared' && !stamp.done).length +
  (master.state === 'unreadable' ? 100 : 0)
const length = (master: Master) => (master.facts ? ratio(master.facts.duration_s) : 0)
const shape = (master: Master) => {
  const video = master.facts?.video
  return video ? Math.sign(video.display_width - video.display_height) : null
}

export const ORDERS: Record<string, (a: Master, b: Master) => number> = {
  'newest first': (a, b) => b.added_at - a.added_at,
  'by name': (a, b) => stem(a.name).localeCompare(stem(b.name), undefined, { numeric: true }),
  'longest first': (a, b) => length(b) - length(a),
  'findings first': (a, b) => openFindings(b) - openFindings(a),
}
export const STATES: Record<string, (master: Master) => boolean> = {
  'all videos': () => true,
  'with findings': (master) => master.state === 'ready' && openFindings(master) > 0,
  'without findings': (master) => master.state === 'ready' && openFindings(master) === 0,
  'not packed yet': (master) => master.state === 'ready' && !master.packed,
  packed: (master) => master.packed > 0,
  wide: (master) => shape(master) === 1,
  square: (master) => shape(master) === 0,
  upright: (master) => shape(master) === -1,
  "can't be read": (master) => master.state === 'unreadable',
}

/** The shelf as it is searched, filtered and sorted; the order is remembered, the rest begins anew. */
export function useShelfFilter(masters: Ref<Master[]>) {
  const wanted = ref('')
  const state = ref('all videos')
  const folder = ref('')
  const order = useLocalStorage('shelf-order', 'newest first')
  const folderOf = (master: Master) => master.path.slice(0, Math.max(0, master.path.lastIndexOf('/')))
  const folders = computed(() => [...new Set(masters.value.map(folderOf))].sort())
  const listed = computed(() => {
    const words = wanted.value.toLowerCase().split(/\s+/).filter(Boolean)
    const fits = (master: Master) => {
      const matters = master.stamps.filter((stamp) => stamp.outcome !== 'cleared').map((stamp) => stamp.matter)
      const text = [master.name, ...matters].join(' ').toLowerCase()
      return (
        (STATES[state.value] ?? STATES['all videos'])(master) &&
        (!folder.value || folderOf(master) === folder.value) &&
        words.every((word) => text.includes(word))
      )
    }
    return masters.value.filter(fits).sort(ORDERS[order.value] ?? ORDERS['newest first'])
  })
  function reset(): void {
    wanted.value = folder.value = ''
    state.value = 'all videos'
  }
  return { wanted, state, folder, folders, order, listed, reset }
}
