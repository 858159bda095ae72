/** Places in the written part: exact fractions of a bar, and what is where. */
import { isHalfOpen } from './opening'
import type { Bar, Hit, Instrument, Limb, Score } from '@/api/client'
import { GRACE_SECONDS, GRACE_SHARE } from '@/api/vocabulary'

/** A fraction as the format has it ("7/16", "0") as a number. */
export function fraction(text: string): number {
  const [top, bottom] = text.split('/')
  return Number(top) / Number(bottom ?? 1)
}

/** Bars from one to another by their numbers, as they are named in the midst of a sentence. */
export const barsWords = (first: number, last: number) => (first === last ? `bar ${first}` : `bars ${first}–${last}`)

/** The bar that sounds at a time, or undefined between songs' ends. Bars are in order. */
export function barAt(bars: readonly Bar[], time: number): Bar | undefined {
  let low = 0
  let high = bars.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (bars[middle]!.start <= time) low = middle + 1
    else high = middle
  }
  const bar = bars[low - 1]
  return bar && time < bar.end ? bar : undefined
}

/** How far through a bar a time is, 0 to 1, following its beats as they were played. */
export function throughBar(bar: Bar, time: number): number {
  const edges = [...bar.beats, bar.end]
  for (let beat = 0; beat < bar.beats.length; beat++) {
    const from = edges[beat]!
    const to = edges[beat + 1]!
    if (time < to) return (beat + Math.max(0, (time - from) / (to - from))) / bar.beats.length
  }
  return 1
}

/** The moment of a place in a bar, 0 to 1, following its beats as they were played. */
export function timeAt(bar: Bar, place: number): number {
  const edges = [...bar.beats, bar.end]
  const at = place * bar.beats.length
  const beat = Math.min(bar.beats.length - 1, Math.floor(at + 1e-9))
  return edges[beat]! + (at - beat) * (edges[beat + 1]! - edges[beat]!)
}

/** The lane of a note; what no limb is free for is shown with the right hand. */
export function laneOf(limb: Limb | null): Limb {
  return limb ?? 'RH'
}

/** The hit of a lane at a place, if there is one; what is left out is not there. */
export function hitAt(bar: Bar, limb: Limb, position: string): Hit | undefined {
  return bar.hits.find(
    (hit) => hit.position === position && laneOf(hit.limb) === limb && hit.status !== 'left_out',
  )
}

/** What was left out at a place of a lane, where nothing else sounds there. */
export function leftOutAt(bar: Bar, limb: Limb, position: string): Hit | undefined {
  return bar.hits.find(
    (hit) => hit.position === position && laneOf(hit.limb) === limb && hit.status === 'left_out',
  )
}

/** "the a of 2", "beat 3": how one tells somebody a place. */
export function placeWords(bar: Bar, position: string): string {
  const place = fraction(position) * bar.beats.length
  const beat = Math.floor(place + 1e-9)
  if (Math.abs(place - beat) < 1e-9) return `beat ${beat + 1}`
  const word = bar.cells.find((cell) => cell.position === position)?.word
  return word ? `the ${word} of ${beat + 1}` : `inside beat ${beat + 1}`
}

/** When the chart's kit strikes: where notes are written, where they were played, or twice as far from the grid. */
export type Timing = 'written' | 'played' | 'twice'
const SHARE_OF_FEEL: Record<Timing, number> = { written: 0, played: 1, twice: 2 }

/**
 * The strokes of a chart, for the kit to play. `plays` says which notes sound: limbs can be muted, and one
 * note can be heard away.
 */
export function strokesOf(
  score: Score,
  plays: (hit: Hit) => boolean = () => true,
  timing: Timing = 'written',
): { time: number; instrument: Instrument; velocity: number; half?: boolean }[] {
  const strokes = score.bars.flatMap((bar) => {
    const due = new Map(bar.cells.map((cell) => [cell.position, cell.time]))
    return bar.hits
      .filter((hit) => hit.status !== 'left_out' && plays(hit))
      .map((hit) => ({
        time: struck(due.get(hit.position) ?? hit.time, hit.time, timing),
        instrument: hit.instrument,
        velocity: hit.ghost ? Math.min(hit.velocity, 45) : hit.accent ? Math.max(hit.velocity, 112) : hit.velocity,
        ornament: hit.ornament,
        ...(isHalfOpen(hit) && { half: true }),
      }))
      .flatMap(({ ornament, ...stroke }) => [...graces(stroke, ornament), stroke])
  })
  return strokes.sort((one, other) => one.time - other.time)
}

/** What is far from its place was written there by hand: its time says nothing of the feel. */
const FARTHEST_SECONDS = 0.07
function struck(due: number, heard: number, timing: Timing): number {
  const apart = heard - due
  return Math.abs(apart) > FARTHEST_SECONDS ? due : Math.max(0, due + SHARE_OF_FEEL[timing] * apart)
}

/** The soft strokes that belong to a stroke with an ornament. */
function graces(
  stroke: { time: number; instrument: Instrument; velocity: number },
  ornament: Hit['ornament'],
): { time: number; instrument: Instrument; velocity: number }[] {
  if (!ornament) return []
  const velocity = Math.max(1, Math.round(stroke.velocity * GRACE_SHARE))
  return GRACE_SECONDS[ornament].map((away) => ({ ...stroke, time: Math.max(0, stroke.time + away), velocity }))
}
