import { defineStore } from 'pinia'
import * as tus from 'tus-js-client'
import { computed, reactive, ref } from 'vue'

import { api, Trouble, type Upload } from './api'

export type UploadState = 'waiting' | 'sending' | 'paused' | 'comparing' | 'done' | 'failed'

export interface Arrival {
  key: number
  name: string
  size: number
  sent: number
  state: UploadState
  problem: string
}

const PART = 8 << 20
const AT_ONCE = 2

interface Held {
  file: File
  upload?: tus.Upload
  sum?: Promise<string>
  worker?: Worker
}

/** Films that are sent to the shelf from this page, and those that an earlier page left unfinished. */
export const useUploads = defineStore('uploads', () => {
  const arrivals = ref<Arrival[]>([])
  const left = ref<Upload[]>([])
  const held = new Map<number, Held>()
  let count = 0

  const under = computed(() => arrivals.value.filter((one) => ['waiting', 'sending', 'paused', 'comparing'].includes(one.state)))

  async function look(): Promise<void> {
    const known = await api.uploads().catch(() => [])
    const names = new Set(under.value.map((one) => `${one.name}/${one.size}`))
    left.value = known.filter((one) => !names.has(`${one.name}/${one.size_bytes}`))
  }

  function add(files: Iterable<File>): void {
    for (const file of files) {
      const arrival = reactive<Arrival>({ key: ++count, name: file.name, size: file.size, sent: 0, state: 'waiting', problem: '' })
      held.set(arrival.key, { file })
      arrivals.value.unshift(arrival)
      left.value = left.value.filter((one) => one.name !== file.name || one.size_bytes !== file.size)
    }
    startWaiting()
  }

  function startWaiting(): void {
    const busy = arrivals.value.filter((one) => one.state === 'sending').length
    for (const arrival of arrivals.value.filter((one) => one.state === 'waiting').reverse().slice(0, Math.max(0, AT_ONCE - busy))) {
      void start(arrival)
    }
  }

  async function start(arrival: Arrival): Promise<void> {
    const own = held.get(arrival.key)!
    arrival.state = 'sending'
    arrival.problem = ''
    own.sum ??= checksum(own)
    own.upload ??= new tus.Upload(own.file, {
      endpoint: '/api/uploads',
      chunkSize: PART,
      retryDelays: [0, 1000, 3000, 5000, 10000, 20000, 30000],
      // Without any answer it is tried once more: then whoever listens there by now may not be the service any more. What is refused is
      // not tried again, but for another who holds it (423) and an offset that moved (409).
      onShouldRetry: (error, tried) => {
        const status = error.originalResponse?.getStatus()
        return status ? status >= 500 || status === 409 || status === 423 : tried < 1
      },
      metadata: { filename: own.file.name, filetype: own.file.type || 'application/octet-stream' },
      removeFingerprintOnSuccess: true,
      onProgress: (sent) => (arrival.sent = sent),
      onError: (error) => fail(arrival, said(error)),
      onSuccess: () => void finish(arrival),
    })
    const before = await own.upload.findPreviousUploads()
    if (before.length) own.upload.resumeFromPreviousUpload(before[0])
    if (arrival.state === 'sending') own.upload.start()
  }

  function checksum(own: Held): Promise<string> {
    return new Promise((resolve, reject) => {
      own.worker = new Worker(new URL('./hash.worker.ts', import.meta.url), { type: 'module' })
      own.worker.onmessage = ({ data }) => {
        if (data.sum) resolve(data.sum)
        else if (data.failed) reject(new Error('read'))
        else return
        own.worker?.terminate()
      }
      own.worker.onerror = () => reject(new Error('read'))
      own.worker.postMessage(own.file)
    })
  }

  async function finish(arrival: Arrival): Promise<void> {
    const own = held.get(arrival.key)!
    arrival.state = 'comparing'
    startWaiting()
    try {
      const id = own.upload!.url!.split('/').pop()!
      await api.finishUpload(id, await own.sum!)
      arrival.state = 'done'
      held.delete(arrival.key)
    } catch (error) {
      fail(arrival, error instanceof Trouble ? error.message : 'The file could not be read to its end. Drop it again.')
    }
  }

  function fail(arrival: Arrival, problem: string): void {
    arrival.state = 'failed'
    arrival.problem = problem
    startWaiting()
  }

  function pause(arrival: Arrival): void {
    arrival.state = 'paused'
    void held.get(arrival.key)?.upload?.abort()
    startWaiting()
  }

  function goOn(arrival: Arrival): void {
    arrival.state = 'waiting'
    startWaiting()
  }

  async function giveUp(arrival: Arrival): Promise<void> {
    const own = held.get(arrival.key)
    own?.worker?.terminate()
    await own?.upload?.abort(true).catch(() => undefined)
    forget(arrival)
    startWaiting()
  }

  function forget(arrival: Arrival): void {
    held.delete(arrival.key)
    arrivals.value = arrivals.value.filter((one) => one.key !== arrival.key)
  }

  async function giveUpLeft(upload: Upload): Promise<void> {
    await fetch(`/api/uploads/${upload.id}`, { method: 'DELETE', headers: { 'Tus-Resumable': '1.0.0' } }).catch(() => undefined)
    await look()
  }

  return { arrivals, left, under, add, pause, goOn, giveUp, forget, giveUpLeft, look }
})

/** What the service said in its answer, or that it did not answer. */
function said(error: Error | tus.DetailedError): string {
  const body = 'originalResponse' in error ? error.originalResponse?.getBody() : undefined
  try {
    const told = body ? JSON.parse(body) : undefined
    if (told?.detail) return String(told.detail)
  } catch {
    // not one of our answers
  }
  return 'The connection was lost. Go on when Hardy Parcel answers again; what has arrived is kept.'
}
