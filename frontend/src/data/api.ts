import type { components } from './generated'

type Schemas = components['schemas']
export type Master = Schemas['Master']
export type Shelf = Schemas['Shelf']
export type CheckStamp = Schemas['CheckStamp']
export type ColourReading = Schemas['ColourReading']
export type CheckView = Schemas['CheckView']
export type Remedy = Schemas['Remedy']
export type Picture = Schemas['Picture']
export type Upload = Schemas['Upload']
export type Probing = Schemas['Probing']
export type ParcelView = Schemas['ParcelView']
export type LanesView = Schemas['LanesView']
export type LaneView = Schemas['LaneView']
export type Lane = Schemas['Lane']
export type LaneSeen = Schemas['LaneSeen']
export type Recommendation = Schemas['Recommendation']
export type RateMark = Schemas['RateMark']
export type Aim = Schemas['Aim']
export type SayingsView = Schemas['SayingsView']
export type SayingView = Schemas['SayingView']
export type FewestFiles = Schemas['FewestFiles']
export type ShapeTable = Schemas['ShapeTable']
export type ShapeCell = Schemas['ShapeCell']
export type Parcel = Schemas['Parcel']
export type ParcelSummary = Schemas['ParcelSummary']
export type AtRate = Schemas['AtRate']
export type BesideView = Schemas['BesideView']
export type OtherOption = Schemas['OtherOption']
export type Figures = Schemas['Figures']
export type Excerpt = { in_s: string; out_s: string }
export type Seen = Schemas['Seen']
export type Choices = Schemas['Choices']
export type Job = Schemas['Job']
export type HandoffFound = Schemas['HandoffFound']
export type SendingsView = Schemas['SendingsView']
export type SendingView = Schemas['SendingView']
export type FilmLookView = Schemas['FilmLookView']
export type StationView = Schemas['StationView']
export type TrustView = Schemas['TrustView']
export type Words = Schemas['Words']
export type SuffersView = Schemas['SuffersView']
export type ReserveView = Schemas['ReserveView']
export type ReturnedView = Schemas['ReturnedView']
export type ReturnedBrief = Schemas['ReturnedBrief']
export type SentBrief = Schemas['SentBrief']
export type SendRequest = Schemas['SendRequest']
export type DispatchSettings = Schemas['DispatchSettings']
export type KeptReceipt = Schemas['KeptReceipt']
export type OverTime = Schemas['OverTime']
export type BenchmarkView = Schemas['BenchmarkView']
export type MachineView = Schemas['MachineView']
export type LookView = Schemas['LookView']
export type PairView = Schemas['PairView']
export type PairSide = Schemas['PairSide']
export type LadderView = Schemas['LadderView']
export type Rehearsal = Schemas['Rehearsal']
export type Framing = Schemas['Framing']
export type FramingMode = Schemas['FramingMode']
export type SheetView = Schemas['SheetView']
export type Sheet = Schemas['Sheet']
export type Placement = Schemas['Placement']
export type GuidanceRow = Schemas['GuidanceRow']
export type Handling = Schemas['Handling']
export type DestinationView = Schemas['DestinationView']
export type VersionView = Schemas['VersionView']
export type Pasted = Schemas['Pasted']
export type Taken = Schemas['Taken']
export type Fault = Schemas['Fault']
export type Offered = Schemas['Offered']
export type TypedChoice = Schemas['TypedChoice']
export type FramingView = Schemas['FramingView']
export type FramingWish = Partial<Schemas['FramingWish']>
export type ShapeWish = Schemas['ShapeWish']
export type ShapeHere = Schemas['ShapeHere']
export type Effect = Schemas['Effect']
export type RecipeView = Schemas['RecipeView']
export type RecipesView = Schemas['RecipesView']
export type RecipeHere = Schemas['RecipeHere']
export type LastLook = Schemas['LastLook']
export type PackingTogether = Schemas['PackingTogether']
export type Applied = Schemas['Applied']
export type ParcelsState = Schemas['ParcelsState']
export type Alternative = Schemas['Alternative']
export type SoundStory = Schemas['SoundStory']
export type BatchTable = Schemas['BatchTable']
export type BatchRow = Schemas['BatchRow']
export type BatchCell = Schemas['BatchCell']
export type BatchApplied = Schemas['BatchApplied']
export type BatchPacked = Schemas['BatchPacked']
export type BatchView = Schemas['BatchView']
export type SharedConcern = Schemas['SharedConcern']
export type VideoBefore = Schemas['VideoBefore']
export type BatchWish = { masters: string[]; recipe_id?: string | null; destinations?: string[] }
export type Screen = Schemas['Screen']
export type ViewerLine = Schemas['ViewerLine']

/** What the service answered instead of what was asked: one or two sentences and a code. */
export class Trouble extends Error {
  constructor(
    message: string,
    readonly code: string,
    readonly status: number,
  ) {
    super(message)
  }
}

async function ask<T>(
  method: string, path: string, body?: unknown, signal?: AbortSignal, read?: (headers: Headers) => void,
): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api${path}`, {
      method,
      signal,
      headers: body === undefined || body instanceof Blob ? undefined : { 'content-type': 'application/json' },
      body: body === undefined || body instanceof Blob ? body : JSON.stringify(body),
    })
  } catch (error) {
    if (signal?.aborted) throw error
    throw new Trouble('Hardy Parcel does not answer. Start it again; what you made is kept.', 'no_answer', 0)
  }
  read?.(response.headers)
  if (response.status === 204) return null as T
  if (response.ok) return (await response.json()) as T
  const told = await response.json().catch(() => null)
  throw new Trouble(told?.detail ?? 'Something went wrong on our side. Try again.', told?.code ?? 'trouble', response.status)
}

/** The revision that a change was made from: the service refuses it where somebody else has changed the same thing since. */
const asSeen = (seen: number | undefined) => (seen === undefined ? '' : `?seen=${seen}`)
const get = <T>(path: string, signal?: AbortSignal) => ask<T>('GET', path, undefined, signal)

export const api = {
  shelf: (signal?: AbortSignal) => get<Shelf>('/masters', signal),
  master: (id: string, signal?: AbortSignal) => get<Master>(`/masters/${id}`, signal),
  open: (path: string) => ask<Master>('POST', '/masters', { path }),
  setExcerpt: (id: string, excerpt: { in_s: string; out_s: string } | null) =>
    ask<Master>('PUT', `/masters/${id}/excerpt`, { excerpt }),
  removeMaster: (id: string) => ask<{ file_deleted: boolean }>('DELETE', `/masters/${id}`),
  checks: (id: string, signal?: AbortSignal) => get<CheckView>(`/masters/${id}/checks`, signal),
  checkAgain: (id: string) => ask<CheckView>('POST', `/masters/${id}/checks`),
  remedy: (id: string, remedy: Remedy, on: boolean, rate?: string, reading?: ColourReading) =>
    ask<Master>('PUT', `/masters/${id}/remedies`, { remedy, on, rate: rate ?? null, reading: reading ?? null }),
  addExcerpt: (id: string, excerpt: { in_s: string; out_s: string }) => ask<Master>('POST', `/masters/${id}/excerpts`, { excerpt }),
  chooseExcerpt: (id: string, number: number | null) => ask<Master>('PUT', `/masters/${id}/chosen-excerpt`, { number }),
  dropExcerpt: (id: string, number: number) => ask<Master>('DELETE', `/masters/${id}/excerpts/${number}`),
  picture: (id: string, number: number, exact: boolean, reading?: ColourReading) =>
    get<Picture>(`/masters/${id}/picture?number=${number}&exact=${exact}${reading ? `&reading=${encodeURIComponent(reading)}` : ''}`),
  film: (id: string) => `/api/masters/${id}/film`,
  uploads: (signal?: AbortSignal) => get<Upload[]>('/uploads', signal),
  finishUpload: (id: string, sha256: string) => ask<Master>('POST', `/uploads/${id}/finish`, { sha256 }),
  lanes: (masterId: string, against: string | null = null, signal?: AbortSignal) => get<LanesView>(`/masters/${masterId}/lanes${against ? `?against=${against}` : ''}`, signal),
  chooseDestinations: (masterId: string, destinations: string[]) =>
    ask<Parcel[]>('PUT', `/masters/${masterId}/destinations`, { destinations }),
  parcel: (id: string, signal?: AbortSignal) => get<ParcelView>(`/parcels/${id}`, signal),
  at: (id: string, bps: number, signal?: AbortSignal) => get<AtRate>(`/parcels/${id}/at?video_bitrate_bps=${bps}`, signal),
  besides: (id: string, signal?: AbortSignal) => get<BesideView[]>(`/parcels/${id}/besides`, signal),
  capWays: (id: string, signal?: AbortSignal) => get<Alternative[]>(`/parcels/${id}/cap-ways`, signal),
  choose: (id: string, choices: Choices, seen?: number) => ask<ParcelView>('PUT', `/parcels/${id}/choices${asSeen(seen)}`, choices),
  change: (id: string, part: Partial<Choices>, seen?: number) => ask<ParcelView>('PATCH', `/parcels/${id}/choices${asSeen(seen)}`, part),
  nameParcel: (id: string, name: string) => ask<ParcelView>('PATCH', `/parcels/${id}`, { name }),
  moveParcel: (id: string, excerpt: Excerpt | null) => ask<ParcelView>('PATCH', `/parcels/${id}`, { excerpt, move_excerpt: true }),
  otherOptions: (id: string, signal?: AbortSignal) => get<OtherOption[]>(`/parcels/${id}/options`, signal),
  tryAnotherOption: (id: string, part: Partial<Choices> = {}, excerpt: Excerpt | null = null) =>
    ask<ParcelView>('POST', `/parcels/${id}/siblings`, { part, excerpt }),
  removeParcel: (id: string) => ask<Parcel[]>('DELETE', `/parcels/${id}`),
  framing: (id: string, signal?: AbortSignal) => get<FramingView>(`/masters/${id}/framing`, signal),
  tryFraming: (id: string, wish: FramingWish) => ask<FramingView>('POST', `/masters/${id}/framing/try`, wish),
  keepFraming: (id: string, wish: FramingWish) => ask<FramingView>('PUT', `/masters/${id}/framing`, wish),
  framedPicture: (parcelId: string, number: number) => `/api/parcels/${parcelId}/framed.jpg?number=${number}`,
  sharpening: (parcelId: string) => get<Effect>(`/parcels/${parcelId}/sharpening`),
  batchPreview: (wish: BatchWish, signal?: AbortSignal) => ask<BatchTable>('POST', '/batches/preview', wish, signal),
  batchApply: (wish: BatchWish) => ask<BatchApplied>('POST', '/batches/apply', wish),
  batchFix: (masters: string[], remedies: Remedy[] = [], framing: FramingMode | null = null) =>
    ask<BatchApplied>('POST', '/batches/fix', { masters, remedies, framing }),
  batchUndo: (before: BatchApplied['before']) => ask<BatchApplied>('POST', '/batches/undo', { before }),
  batchTest: (masters: string[]) => ask<Schemas['BatchTests']>('POST', '/batches/test', { masters }),
  batchRemove: (masters: string[]) => ask<Schemas['BatchRemoved']>('POST', '/batches/remove', { masters }),
  batchPack: (masters: string[], title: string) => ask<BatchPacked>('POST', '/batches', { masters, title }),
  batches: (signal?: AbortSignal) => get<BatchView[]>('/batches', signal),
  batchReport: (id: string, form: 'html' | 'csv' | 'json') => `/api/batches/${id}/report.${form}`,
  batchSums: (id: string) => `/api/batches/${id}/SHA256SUMS`,
  batchAct: (id: string, act: 'pause' | 'resume' | 'stop' | 'again') => ask<BatchView>('POST', `/batches/${id}/${act}`),
  recipes: (signal?: AbortSignal) => get<RecipesView>('/recipes', signal),
  saveRecipe: (masterId: string, name: string, note: string) => ask<RecipeView>('POST', '/recipes', { master_id: masterId, name, note }),
  editRecipe: (id: string, edit: { name?: string; note?: string; starred?: boolean; file_pattern?: string; folder?: string; words?: Words; seen?: number }) => ask<RecipeView>('PUT', `/recipes/${id}`, edit),
  updateRecipe: (id: string, masterId: string) => ask<RecipeView>('POST', `/recipes/${id}/update`, { master_id: masterId }),
  duplicateRecipe: (id: string) => ask<RecipeView>('POST', `/recipes/${id}/duplicate`),
  removeRecipe: (id: string) => ask<RecipesView>('DELETE', `/recipes/${id}`),
  undoRecipe: () => ask<RecipesView>('POST', '/recipes/undo'),
  importRecipe: (text: string) => ask<RecipeView>('POST', '/recipes/import', { text }),
  recipeDocument: (id: string) => `/api/recipes/${id}/document.json`,
  recipeHere: (masterId: string, id: string, signal?: AbortSignal) => get<RecipeHere>(`/masters/${masterId}/recipes/${id}`, signal),
  applyRecipe: (masterId: string, id: string) => ask<Applied>('POST', `/masters/${masterId}/recipes/${id}/apply`),
  parcelsState: (masterId: string) => get<ParcelsState>(`/masters/${masterId}/parcels-state`),
  putBack: (masterId: string, state: ParcelsState) => ask<ParcelsState>('PUT', `/masters/${masterId}/parcels-state`, state),
  together: (masterId: string, part: Partial<Choices>, timesGuidance: number | null = null, parcels: string[] | null = null) =>
    ask<Applied>('POST', `/masters/${masterId}/together`, { part, times_guidance: timesGuidance, parcels }),
  takeRecommended: (masterId: string, parcels: string[] | null = null) => ask<Applied>('POST', `/masters/${masterId}/recommended`, { parcels }),
  setAim: (destinationId: string, aim: Aim) => ask<{ aim: Aim }>('PUT', `/destinations/${destinationId}/aim`, { aim }),
  keepFinding: (masterId: string, code: string, on = true) => ask<Master>('PUT', `/masters/${masterId}/kept-findings`, { code, on }),
  takeNewestSheet: (parcelId: string) => ask<ParcelView>('POST', `/parcels/${parcelId}/newest-sheet`),
  destinations: (signal?: AbortSignal) => get<DestinationView[]>('/destinations', signal),
  sheets: (signal?: AbortSignal) => get<SheetView[]>('/sheets', signal),
  sheet: (id: string, signal?: AbortSignal) => get<SheetView>(`/sheets/${id}`, signal),
  makeSheet: (id: string, name: string, copyOf: string | null) => ask<SheetView>('POST', '/sheets', { id, name, copy_of: copyOf }),
  checkSheet: (document: unknown, signal?: AbortSignal) => ask<Fault[]>('POST', '/sheets/check', { document }, signal),
  keepSheet: (id: string, document: unknown, basedOn: number) => ask<SheetView>('PUT', `/sheets/${id}`, { document, based_on: basedOn }),
  removeSheet: (id: string) => ask<SheetView[]>('DELETE', `/sheets/${id}`),
  importSheet: (text: string) => ask<SheetView>('POST', '/sheets/import', { text }),
  takePasted: (draft: object, taken: Taken, instead: boolean) =>
    ask<{ draft: Sheet['placements'][number]; changed: string[] }>('POST', '/sheets/take', { draft, taken, instead }),
  pasteTable: (text: string, signal?: AbortSignal) => ask<Pasted>('POST', '/sheets/paste', { text }, signal),
  assume: (placement: unknown, assumed: string) => ask<Handling>('POST', '/sheets/assume', { placement, assumed }),
  sheetVersion: (id: string, version: number, signal?: AbortSignal) => get<VersionView>(`/sheets/${id}/versions/${version}`, signal),
  bringBack: (id: string, version: number) => ask<SheetView>('POST', `/sheets/${id}/versions/${version}/bring-back`),
  report: (masterId: string, form: string, against: string | null) => `/api/masters/${masterId}/report.${form}${against ? `?against=${against}` : ''}`,
  fewest: (masterId: string, signal?: AbortSignal) => get<FewestFiles>(`/masters/${masterId}/fewest`, signal),
  takeFewest: (masterId: string) => ask<Applied>('POST', `/masters/${masterId}/fewest`),
  ownFile: (parcelId: string) => ask<ParcelView>('PATCH', `/parcels/${parcelId}/choices`, {}),
  sayings: (parcelId: string, signal?: AbortSignal) => get<SayingsView>(`/parcels/${parcelId}/sayings`, signal),
  trySaying: (parcelId: string, code: string) => ask<Probing>('POST', `/parcels/${parcelId}/sayings/${code}/try`),
  probe: (parcelId: string) => ask<Probing>('POST', `/parcels/${parcelId}/probe`),
  /** Sent although the page may be gone before it is answered. */
  leave: (masterId: string) => fetch(`/api/masters/${masterId}/leave`, { method: 'POST', keepalive: true }),
  stopTestsOf: (parcelId: string) => ask<null>('POST', `/parcels/${parcelId}/tests/stop`),
  stopTests: () => ask<null>('POST', '/tests/stop'),
  probeLanes: (masterId: string) => ask<Probing>('POST', `/masters/${masterId}/probe`),
  rehearse: (parcelId: string, rates: number[] = []) => ask<Job>('POST', `/parcels/${parcelId}/rehearse`, { rates }),
  lastLook: (parcelId: string, folder: string, signal?: AbortSignal) => get<LastLook>(`/parcels/${parcelId}/last-look?folder=${encodeURIComponent(folder)}`, signal),
  packingTogether: (masterId: string, parcels: string[], signal?: AbortSignal) =>
    get<PackingTogether>(`/masters/${masterId}/packing?${parcels.map((one) => `parcel=${one}`).join('&')}`, signal),
  pack: (parcelId: string, planKey: string, fileName: string | null, folder: string | null = null) =>
    ask<Job>('POST', `/parcels/${parcelId}/pack`, { plan_key: planKey, file_name: fileName, folder }),
  look: (parcelId: string, signal?: AbortSignal) => get<LookView>(`/parcels/${parcelId}/look`, signal),
  pair: (masterId: string, left: string, right: string, signal?: AbortSignal) =>
    get<PairView>(`/masters/${masterId}/pair?${new URLSearchParams({ left, right })}`, signal),
  ladder: (parcelId: string, screen: string, line: string, index: number | null, at: [number, number] | null, signal?: AbortSignal) => {
    const asked = new URLSearchParams({ screen, line })
    if (index !== null) asked.set('index', String(index))
    if (at) at.forEach((share, i) => asked.set('xy'[i], String(share)))
    return get<LadderView>(`/parcels/${parcelId}/ladder?${asked}`, signal)
  },
  lookPicture: (parcelId: string, bps: number, key: string, index: number, screen: string, line: string, station: string) =>
    `/api/parcels/${parcelId}/look/${bps}/${key}/${index}/${screen}/${line}/${station}.png`,
  lookSuffers: (parcelId: string, bps: number, key: string, index: number, screen: string, line: string, station: string) =>
    get<SuffersView>(`/parcels/${parcelId}/look/${bps}/${key}/${index}/${screen}/${line}/${station}/map`),
  filmLook: (receiptId: string, signal?: AbortSignal) => get<FilmLookView>(`/receipts/${receiptId}/look`, signal),
  filmPicture: (receiptId: string, number: number, screen: string, { key, version }: StationView, near: boolean) =>
    `/api/receipts/${receiptId}/look/${number}/${screen}/picture.${near ? 'jpg' : 'bmp?version=' + version}${near ? '?' : '&'}station=${encodeURIComponent(key)}`,
  filmSuffers: (receiptId: string, number: number, screen: string, station: string) =>
    get<SuffersView>(`/receipts/${receiptId}/look/${number}/${screen}/map?station=${encodeURIComponent(station)}`),
  stripPicture: (master: Master, number: number) => `/api/masters/${master.id}/strip/${number}.jpg?of=${master.strip_key}`,
  /** The queue, and the revision up to which it is known: what events told with a later one is newer. */
  jobs: async (signal?: AbortSignal) => {
    let revision = 0
    const jobs = await ask<Job[]>('GET', '/jobs', undefined, signal, (headers) => (revision = Number(headers.get('x-revision'))))
    return { jobs, revision }
  },
  cancel: (id: string) => ask<Job>('POST', `/jobs/${id}/cancel`),
  pause: (id: string) => ask<Job>('POST', `/jobs/${id}/pause`),
  resume: (id: string) => ask<Job>('POST', `/jobs/${id}/resume`),
  packAgain: (id: string) => ask<Job>('POST', `/jobs/${id}/again`),
  putInOrder: (jobs: string[]) => ask<Job[]>('PUT', '/dispatch/order', { jobs }),
  dispatch: (signal?: AbortSignal) => get<DispatchSettings>('/dispatch', signal),
  changeDispatch: (change: { start_at: number | null; after: DispatchSettings['after'] }) => ask<DispatchSettings>('PUT', '/dispatch', change),
  receipts: (signal?: AbortSignal) => get<KeptReceipt[]>('/receipts', signal),
  removeReceipt: (id: string) => ask<KeptReceipt[]>('DELETE', `/receipts/${id}`),
  slip: (id: string, form: 'txt' | 'json') => `/api/receipts/${id}/slip.${form}`,
  still: (id: string, which: 'before' | 'after') => `/api/receipts/${id}/${which}.jpg`,
  showInFolder: (id: string) => ask<{ shown: boolean }>('POST', `/receipts/${id}/show`),
  packedFile: (id: string) => `/api/receipts/${id}/file`,
  writeSums: (folder: string) => ask<{ path: string; files: number }>('POST', '/receipts/sums', { folder }),
  tryCourier: (id: string, courier: 'lockbox' | 'natterline') => ask<HandoffFound>('POST', `/receipts/${id}/carry`, { courier }),
  handoff: (file: File) => ask<HandoffFound>('POST', `/handoff?name=${encodeURIComponent(file.name)}`, file),
  reserve: (parcelId: string, signal?: AbortSignal) => get<ReserveView>(`/parcels/${parcelId}/reserve`, signal),
  tryReserve: (parcelId: string) => ask<ReserveView>('POST', `/parcels/${parcelId}/reserve`),
  trust: (sheetId: string, signal?: AbortSignal) => get<TrustView[]>(`/sheets/${sheetId}/trust`, signal),
  returned: (signal?: AbortSignal) => get<ReturnedBrief[]>('/returned', signal),
  returnedFile: (id: string, signal?: AbortSignal) => get<ReturnedView>(`/returned/${id}`, signal),
  bringFileBack: (file: File, receiptId: string, best: boolean) =>
    ask<ReturnedView>('POST', `/returned?receipt_id=${receiptId}&best=${best}&name=${encodeURIComponent(file.name)}`, file),
  learn: (sendingId: string, file: string) => ask<ReturnedView>('POST', `/sendings/${sendingId}/files/${encodeURIComponent(file)}/learn`, {}),
  forgetReturned: (id: string) => ask<ReturnedBrief[]>('DELETE', `/returned/${id}`),
  correctFromReturned: (id: string) => ask<Sheet>('POST', `/returned/${id}/correct`),
  sentBriefs: (signal?: AbortSignal) => get<SentBrief[]>('/sendings', signal),
  sendings: (receiptId: string, signal?: AbortSignal) => get<SendingsView>(`/receipts/${receiptId}/sendings`, signal),
  sending: (id: string, signal?: AbortSignal) => get<SendingView>(`/sendings/${id}`, signal),
  send: (receiptId: string, request: Partial<SendRequest>) => ask<Job>('POST', `/receipts/${receiptId}/send`, request),
  arrivedFile: (id: string, name: string, lineBps = 0) => `/api/sendings/${id}/files/${encodeURIComponent(name)}${lineBps ? `?line_bps=${lineBps}` : ''}`,
  benchmark: (signal?: AbortSignal) => get<BenchmarkView>('/machine/benchmark', signal),
  measureMachine: () => ask<BenchmarkView>('POST', '/machine/benchmark'),
  machine: (signal?: AbortSignal) => get<MachineView>('/machine', signal),
  saveMachine: (
    machine: Pick<MachineView, 'line' | 'cache_gb' | 'probing' | 'file_pattern' | 'folders' | 'jobs_listed' | 'jobs_days'>
      & { output_folder: string | null },
  ) =>
    ask<MachineView>('PUT', '/machine', machine),
}
