import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { api, Trouble, type Master, type Upload } from '../src/data/api'

interface Wire {
  file: File
  options: { onProgress: (sent: number) => void; onError: (error: Error) => void; onSuccess: () => void }
  url: string | null
  started: number
  aborted: boolean[]
}
const wires = vi.hoisted(() => [] as Wire[])
vi.mock('tus-js-client', () => ({
  Upload: class {
    url: string | null = null
    started = 0
    aborted: boolean[] = []
    constructor(readonly file: File, readonly options: Wire['options']) {
      wires.push(this as unknown as Wire)
    }
    findPreviousUploads = async () => []
    resumeFromPreviousUpload = () => undefined
    start = () => void (this.started++, (this.url = `/api/uploads/${this.file.name}`))
    abort = async (forGood = false) => void this.aborted.push(forGood)
  },
}))
vi.stubGlobal('Worker', class {
  onmessage: (event: { data: unknown }) => void = () => undefined
  postMessage = () => void Promise.resolve().then(() => this.onmessage({ data: { sum: 'f00d' } }))
  terminate = () => undefined
})
const { useUploads } = await import('../src/data/uploads')

const film = (name: string) => new File(['x'.repeat(9)], name)
const settled = () => new Promise((done) => setTimeout(done))

describe('uploads', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    wires.length = 0
    vi.restoreAllMocks()
    vi.spyOn(api, 'uploads').mockResolvedValue([])
  })

  it('send two at once and the next when one is through', async () => {
    vi.spyOn(api, 'finishUpload').mockResolvedValue({} as Master)
    const uploads = useUploads()
    uploads.add([film('a.mp4'), film('b.mp4'), film('c.mp4')])
    await settled()
    expect(wires.map((wire) => wire.file.name)).toEqual(['a.mp4', 'b.mp4'])
    wires[0].options.onProgress(4)
    expect(uploads.arrivals.find((one) => one.name === 'a.mp4')!.sent).toBe(4)
    wires[0].options.onSuccess()
    await settled()
    expect(api.finishUpload).toHaveBeenCalledWith('a.mp4', 'f00d')
    expect(uploads.arrivals.map((one) => [one.name, one.state])).toEqual([['c.mp4', 'sending'], ['b.mp4', 'sending'], ['a.mp4', 'done']])
    expect(uploads.under.length).toBe(2)
  })

  it('say what was refused, in the service’s own words where it has some', async () => {
    const uploads = useUploads()
    uploads.add([film('a.mp4'), film('b.mp4')])
    await settled()
    const told = Object.assign(new Error(), { originalResponse: { getBody: () => '{"detail": "There is no room."}' } })
    wires[0].options.onError(told)
    wires[1].options.onError(new Error('gone'))
    const problems = Object.fromEntries(uploads.arrivals.map((one) => [one.name, one.problem]))
    expect(problems['a.mp4']).toBe('There is no room.')
    expect(problems['b.mp4']).toContain('what has arrived is kept')
  })

  it('fail when what arrived is not what was sent', async () => {
    vi.spyOn(api, 'finishUpload').mockRejectedValue(new Trouble('It arrived different.', 'checksum_differs', 422))
    const uploads = useUploads()
    uploads.add([film('a.mp4')])
    await settled()
    wires[0].options.onSuccess()
    await settled()
    expect([uploads.arrivals[0].state, uploads.arrivals[0].problem]).toEqual(['failed', 'It arrived different.'])
  })

  it('pause, go on, and are given up for good', async () => {
    const uploads = useUploads()
    uploads.add([film('a.mp4')])
    await settled()
    const [arrival] = uploads.arrivals
    uploads.pause(arrival)
    expect([arrival.state, wires[0].aborted]).toEqual(['paused', [false]])
    uploads.goOn(arrival)
    await settled()
    expect([arrival.state, wires[0].started, wires.length]).toEqual(['sending', 2, 1])
    await uploads.giveUp(arrival)
    expect([uploads.arrivals.length, wires[0].aborted]).toEqual([0, [false, true]])
  })

  it('show what an earlier page left, until the same film is dropped again', async () => {
    vi.spyOn(api, 'uploads').mockResolvedValue([{ id: '1', name: 'a.mp4', size_bytes: 9, received_bytes: 3 } as Upload])
    const uploads = useUploads()
    await uploads.look()
    expect(uploads.left.map((one) => one.name)).toEqual(['a.mp4'])
    uploads.add([film('a.mp4')])
    expect(uploads.left).toEqual([])
    await settled()
    await uploads.look()
    expect(uploads.left).toEqual([])
  })
})
