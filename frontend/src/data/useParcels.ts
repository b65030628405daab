import { api, Trouble } from './api'
import { useEvents } from './events'
import { inOrder } from './inOrder'
import { useAnswer } from './useAnswer'
import { useFilmInView } from './useFilmInView'
import { ref } from 'vue'

/** A master, kept fresh, and the way to change its excerpt; none while its id is not known yet. */
export function useMaster(masterId: () => string) {
  const events = useEvents()
  useFilmInView(masterId)
  const master = useAnswer(async (signal) => (masterId() ? api.master(masterId(), signal) : undefined), [masterId], [events.news(({ kind, id }) => ((kind === 'master' || kind === 'strip') && id === masterId()) || kind === 'content' || kind === 'shelf')])
  const refused = ref('')
  const next = inOrder()

  async function setExcerpt(excerpt: { in_s: string; out_s: string } | null): Promise<void> {
    refused.value = ''
    try {
      master.set(await next(() => api.setExcerpt(masterId(), excerpt)))
    } catch (error) {
      refused.value = error instanceof Trouble ? error.message : 'The excerpt could not be set.'
    }
  }

  async function chooseExcerpt(number: number | null): Promise<void> {
    refused.value = ''
    try {
      master.set(await next(() => api.chooseExcerpt(masterId(), number)))
    } catch (error) {
      refused.value = error instanceof Trouble ? error.message : 'The excerpt could not be chosen.'
    }
  }

  return { master: master.value, trouble: master.trouble, again: master.again, set: master.set, refused, setExcerpt, chooseExcerpt }
}
