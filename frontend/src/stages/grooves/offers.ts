/** What the tool offers, as edits: layers to infer, a bar as its phrase. */
import type { Bar, Hit, Proposal, ReviewQuestion } from '@/api/client'
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

/** The notes that layers are asked about as a whole: one by one they are no doubts. */
export function askedAsLayers(questions: readonly ReviewQuestion[]): ReadonlySet<string> {
  return new Set(questions.filter((item) => item.kind === 'layer').flatMap((item) => item.places.map(key)))
}

export const placeKeyOf = key
