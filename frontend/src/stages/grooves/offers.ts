/** What the tool offers, as edits: layers to infer, strokes that may be the record's delay, doubts by kind. */
import type { Bar, Echo, Hit, Naming, Proposal, Question, ReviewPlace } from '@/api/client'
import type { EditValue } from '@/score/edits'

export interface Offer {
  edits: EditValue[]
  words: string
}

const FROM: Record<string, string> = { bass: 'from the bass', pattern: 'from the pattern', convention: 'by convention' }

export function inferring(proposal: Proposal): Offer {
  const edits = proposal.hits.map((after) => ({ before: null, after }))
  return { edits, words: `${edits.length} ${edits.length === 1 ? 'note' : 'notes'} inferred ${FROM[proposal.kind] ?? ''}` }
}

const key = (place: { bar: number; position: string; instrument: string }) =>
  `${place.bar} ${place.position} ${place.instrument}`

/** The notes at these places as they stand. */
function notesAt(bars: readonly Bar[], places: Echo['places']): Hit[] {
  const wanted = new Set(places.map(key))
  return bars.flatMap((bar) => bar.hits.filter((hit) => wanted.has(key(hit))))
}

export function withoutEcho(bars: readonly Bar[], echo: Echo): Offer {
  const edits = notesAt(bars, echo.places).map((before) => ({
    before,
    after: { ...before, status: 'left_out' as const, settled: true, reason: 'it is the record’s delay' },
  }))
  return { edits, words: `${edits.length} ${edits.length === 1 ? 'note' : 'notes'} left out: the record’s delay` }
}

/** One answer to many notes: they are there, or none of them is. */
export function answering(bars: readonly Bar[], question: Question, isThere: boolean): Offer {
  const edits = notesAt(bars, question.places).map((before) => ({
    before,
    after: {
      ...before,
      status: isThere ? ('heard' as const) : ('left_out' as const),
      settled: true,
      reason: isThere ? 'confirmed by ear' : 'left out by ear',
    },
  }))
  const what = question.words.replace(/^\d+ /, '').replace(/, \d+ times.*$/, '')
  return { edits, words: `${edits.length} ${edits.length === 1 ? 'note' : 'notes'} ${isThere ? 'confirmed' : 'left out'}: ${what}` }
}

type Typical = { position: string; instrument: string; standing: string }

/** What becomes of a bar that is made as its phrase: how many notes come, and which go. */
export function asPhrase(bar: Bar, typical: readonly Typical[]): { added: number; gone: Hit[] } {
  const place = (note: { position: string; instrument: string }) => `${note.position} ${note.instrument}`
  const written = bar.hits.filter((hit) => hit.status !== 'left_out')
  const here = new Set(written.map(place))
  const wanted = new Set(typical.filter((note) => note.standing !== 'occasional').map(place))
  return {
    added: [...wanted].filter((note) => !here.has(note)).length,
    gone: written.filter((hit) => !wanted.has(place(hit))),
  }
}

/** The answer to a place of the list for the gig; a note that is missing is written, or settled as not played. */
export function reviewing(bars: readonly Bar[], place: ReviewPlace, isThere: boolean): Offer {
  const decided = isThere
    ? { status: 'heard' as const, settled: true, reason: 'confirmed by ear' }
    : { status: 'left_out' as const, settled: true, reason: 'left out by ear' }
  const standing = place.why === 'missing' ? [] : notesAt(bars, place.hits)
  const edits =
    place.why === 'missing'
      ? place.hits.map((hit) => ({ before: null, after: { ...hit, ...decided } }))
      : standing.map((before) => ({ before, after: { ...before, ...decided } }))
  return { edits, words: `${place.words}: ${isThere ? 'it is there' : 'it is not'}` }
}

/** One answer to all strokes of a voice: they keep its name, or get that of the rival. */
export function naming(bars: readonly Bar[], question: Naming, isRival: boolean, named: string): Offer {
  const taken = new Set(bars.flatMap((bar) => bar.hits.map(key)))
  const edits = notesAt(bars, question.places)
    .filter((before) => !isRival || !taken.has(key({ ...before, instrument: question.rival })))
    .map((before) => ({
      before,
      after: {
        ...before,
        instrument: isRival ? question.rival : before.instrument,
        status: 'heard' as const,
        settled: true,
        reason: 'named by ear',
      },
    }))
  return { edits, words: `${edits.length} strokes named by ear: ${named}` }
}

/** The notes that layers are asked about as a whole: one by one they are no doubts. */
export function askedAsLayers(questions: readonly Question[]): ReadonlySet<string> {
  return new Set(questions.filter((item) => item.kind === 'layer').flatMap((item) => item.places.map(key)))
}

export const placeKeyOf = key
