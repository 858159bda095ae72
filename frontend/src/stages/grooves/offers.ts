/** What the tool offers, as edits: layers to infer, strokes that may be the record's delay. */
import type { Bar, Echo, Proposal } from '@/api/client'
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

export function withoutEcho(bars: readonly Bar[], echo: Echo): Offer {
  const wanted = new Set(echo.places.map((place) => `${place.bar} ${place.position} ${place.instrument}`))
  const edits = bars.flatMap((bar) =>
    bar.hits
      .filter((hit) => wanted.has(`${hit.bar} ${hit.position} ${hit.instrument}`))
      .map((before) => ({
        before,
        after: { ...before, status: 'left_out' as const, settled: true, reason: 'it is the record’s delay' },
      })),
  )
  return { edits, words: `${edits.length} ${edits.length === 1 ? 'note' : 'notes'} left out: the record’s delay` }
}
