/** The score as it would be with an answer: to be heard before it is given. */
import type { Hit, Instrument, ReviewQuestion, Score } from '@/api/client'

const place = (hit: { bar: number; position: string; instrument: string }) => `${hit.bar} ${hit.position} ${hit.instrument}`

export function answered(score: Score, question: ReviewQuestion, answer: string): Score {
  const asked = new Set(question.places.map(place))
  const isYes = answer === 'yes'
  const isThere = question.kind === 'echo' ? !isYes : isYes
  const change = (hit: Hit): Hit[] => {
    if (!asked.has(place(hit))) return [hit]
    if (question.kind === 'voice') return answer === 'not_played' ? [] : [{ ...hit, instrument: answer as Instrument }]
    return isThere ? [hit] : []
  }
  return {
    ...score,
    bars: score.bars.map((bar) => {
      const added = question.is_missing && isYes ? question.examples.filter((hit) => hit.bar === bar.number) : []
      return { ...bar, hits: [...bar.hits.flatMap(change), ...added] }
    }),
  }
}
