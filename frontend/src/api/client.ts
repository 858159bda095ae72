/** The API, typed by the schema that the server generates. */
import createClient from 'openapi-fetch'
import { earlyAnswer } from './early'
import type { components, paths } from './schema'

export type Session = components['schemas']['Session']
export type Song = components['schemas']['Song']
export type Run = components['schemas']['Run']
export type Written = components['schemas']['Score']
export type Mine = components['schemas']['Mine']
/** The written part, the same for all who may see it, with what of it is one's own. */
export type Score = Written & Mine
export type Bar = components['schemas']['Bar']
export type Hit = components['schemas']['Hit']
export type Cell = components['schemas']['Cell']
export type Section = components['schemas']['Section']
export type Source = components['schemas']['Source']
type BeingMade = components['schemas']['BeingMade']
export type BeatNotation = components['schemas']['BeatNotationEnum']
export type DivisionWish = components['schemas']['DivisionRequest']
export type FormChange = components['schemas']['FormChangeRequest']
export type Grooves = components['schemas']['Grooves']
export type SectionGroove = components['schemas']['SectionGroove']
export type Phrase = components['schemas']['Phrase']
export type PhraseNote = components['schemas']['PhraseNote']
export type Proposal = components['schemas']['Proposal']
export type ReviewQuestion = components['schemas']['ReviewQuestion']
export type Shade = components['schemas']['Shade']
export type BarEvidence = components['schemas']['Evidence']
export type Relisten = components['schemas']['Relisten']
export type GestureWish = Omit<components['schemas']['GestureRequest'], 'client_id'>
export type HistoryEntry = components['schemas']['HistoryEntry']
export type Kin = components['schemas']['Kin']
export type Relative = components['schemas']['Relative']
export type KinStage = components['schemas']['Stage']
export type Saying = components['schemas']['Saying']
export type ToldFill = components['schemas']['ToldFill']
export type FillWay = components['schemas']['Way']
export type FillAsked = components['schemas']['FillAskedRequest']
export type Exercise = components['schemas']['Exercise']
export type Kit = components['schemas']['Kit']
export type KitWish = components['schemas']['KitRequest']
export type School = NonNullable<NonNullable<paths['/api/songs/{song_id}/fills']['get']['parameters']['query']>['school']>
export type Chart = components['schemas']['Chart']
export type ChartMeasure = components['schemas']['Measure']
export type ChartPart = components['schemas']['Part']
export type PartAsked = components['schemas']['DecidePartRequest']
export type Compared = components['schemas']['Compared']
export type ChartQuery = NonNullable<paths['/api/songs/{song_id}/chart']['get']['parameters']['query']>
export type Practice = components['schemas']['Overview']
export type PracticePlan = components['schemas']['Plan']
export type PracticeStep = components['schemas']['Step']
export type PracticeNote = components['schemas']['PracticeNote']
export type PracticeEntry = components['schemas']['Entry']
export type Feeling = PracticeEntry['feeling']
export type Wanted = components['schemas']['WantedRequest']
export type Struck = components['schemas']['StruckPadRequest']
export type Comparison = components['schemas']['Comparison']
export type MixAsked = components['schemas']['MixAskedRequest']
export type MixState = components['schemas']['MixState']
export type Shelf = components['schemas']['Shelf']
export type ShelfSong = components['schemas']['ShelfSong']
export type Group = components['schemas']['Group']
export type GroupKind = Group['kind']
export type Give = components['schemas']['GiveRequest']
export type Wish = components['schemas']['Wish']
export type WishState = Wish['state']
export type ToPractise = components['schemas']['MineToPractise']
export type Comment = components['schemas']['Comment']
export type Shared = components['schemas']['Shared']
export type ShareLink = components['schemas']['Link']
export type MakeLink = components['schemas']['MakeLinkRequest']
export type GiveSeat = components['schemas']['GiveSeatRequest']
export type SeatRole = GiveSeat['role']
export type MeasuredFeel = components['schemas']['MeasuredFeel']
export type Ornament = NonNullable<Hit['ornament']>
export type Edited = components['schemas']['Edited']
export type Instrument = Hit['instrument']
export type Limb = NonNullable<Hit['limb']>

/** An answer that is not what was asked for; `code` 'offline' when there was none at all. */
export class Problem extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly status = 0,
    /** Of a conflict: the bars that have changed meanwhile. */
    readonly bars: readonly number[] = [],
    /** Of a recording that is on the shelf already: its song. */
    readonly song = '',
  ) {
    super(message)
  }

  /** True when trying the same again later can succeed. */
  get mayPass(): boolean {
    return [0, 429, 502, 503, 504, 507].includes(this.status)
  }

  /** True when signing in again helps. */
  get isSignedOut(): boolean {
    return this.code === 'not_authenticated' || this.code === 'forgery'
  }
}

export function csrfToken(): string {
  return /(?:^|;\s*)csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''
}

/** So often something that is being made, or too much at once, is asked for again. */
const MOST_TRIES = 90
const BUSY_TRIES = 4
const pause = (seconds: number) => new Promise((done) => setTimeout(done, 1000 * seconds))

/**
 * The answer, waited for where a worker makes it (202) or where one's own requests came too fast
 * (429): both say after how many seconds to ask again.
 */
async function fetchWithRetry(request: Request): Promise<Response> {
  // A request is used up by sending it: its body is kept, so that it can be sent again.
  const body = request.method === 'GET' || request.method === 'HEAD' ? undefined : await request.clone().arrayBuffer()
  const again = () => (body === undefined ? new Request(request) : new Request(request.url, { ...requestInit(request), body: body.byteLength ? body : undefined }))
  let busy = 0
  for (let tries = 1; ; tries++) {
    const answer = await ((tries === 1 && earlyAnswer(request)) || globalThis.fetch(again()))
    const seconds = Number(answer.headers.get('Retry-After') ?? '')
    const isMade = answer.status === 202 && seconds > 0 && tries < MOST_TRIES
    const isBusy = answer.status === 429 && seconds > 0 && seconds <= 2 && ++busy < BUSY_TRIES
    if (!isMade && !isBusy) return answer
    await pause(seconds)
  }
}

/** What of a request goes along when it is sent once more. */
function requestInit(request: Request): RequestInit {
  const { method, headers, credentials, signal, keepalive } = request
  return { method, headers, credentials, signal, keepalive }
}

// Resolved at each call, so that tests can stand in for it.
export const api = createClient<paths>({ fetch: fetchWithRetry })
api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', csrfToken())
    return request
  },
})

let signedOutHandler = () => {}
/** Called whenever an answer says that nobody is signed in any more. */
export function onSignedOut(handler: () => void): void {
  signedOutHandler = handler
}

/** What went wrong, by the server's answer. */
export function problemOf(
  status: number,
  body: { code?: string; detail?: string; bars?: number[]; song?: string } | null | undefined,
  otherwise = `That did not work (${status}).`,
): Problem {
  if (body?.code === 'not_authenticated') signedOutHandler()
  return new Problem(body?.code ?? 'failed', body?.detail ?? otherwise, status, body?.bars, body?.song)
}

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** The data of an answer, or a Problem thrown. */
export async function taken<T>(call: Promise<Answer<T>>): Promise<Exclude<T, BeingMade>> {
  let answer: Answer<T>
  try {
    answer = await call
  } catch {
    throw new Problem('offline', 'Orchesis does not answer. Is it still running?')
  }
  const { data } = answer
  if (isBeingMade(data)) throw new Problem('busy', 'This takes longer than usual. Try again in a minute.')
  if (answer.response.ok) return data as Exclude<T, BeingMade>
  throw problemOf(answer.response.status, answer.error as { code?: string; detail?: string } | undefined)
}

/** Asked for again and again, and still not there. */
function isBeingMade(data: unknown): data is BeingMade {
  return (data as BeingMade | undefined)?.state === 'making'
}

/** Upload with progress, which fetch cannot report. */
export function importRecording(
  file: File,
  onProgress: (share: number) => void,
  signal: AbortSignal,
  /** Instead of what the file is called. */
  title = '',
  /** Also where the same recording is on the shelf already. */
  again = false,
): Promise<Song> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', '/api/songs')
    request.setRequestHeader('X-CSRFToken', csrfToken())
    request.responseType = 'json'
    request.upload.onprogress = (event) => onProgress(event.loaded / Math.max(1, event.total))
    request.onload = () => {
      const body = request.response as unknown
      if (request.status === 201 && body) resolve(body as Song)
      else reject(problemOf(request.status, body as { detail?: string } | null, 'The import failed.'))
    }
    request.onerror = () =>
      reject(new Problem('offline', 'The connection was cut, or the file is larger than is taken.'))
    request.onabort = () => reject(new Problem('cancelled', 'Cancelled.'))
    signal.addEventListener('abort', () => request.abort())
    const form = new FormData()
    form.append('file', file)
    if (title) form.append('title', title)
    if (again) form.append('again', 'true')
    request.send(form)
  })
}

/** A second recording of a song, sent whole: small beside an import, so it needs no progress. */
export async function addRecording(songId: string, file: File): Promise<void> {
  const body = new FormData()
  body.append('file', file)
  let answer: Response
  try {
    answer = await fetch(`/api/songs/${songId}/sources`, {
      method: 'POST',
      body,
      headers: { 'X-CSRFToken': csrfToken() },
    })
  } catch {
    throw new Problem('offline', 'Orchesis does not answer. Is it still running?')
  }
  if (answer.ok) return
  const said = (await answer.json().catch(() => null)) as { code?: string; detail?: string } | null
  throw problemOf(answer.status, said, 'The recording was not taken.')
}
