/** Places in the written part: exact fractions of a bar, and what is where. */
import type { Bar, Hit, Instrument, Limb, Score } from '@/api/client'

/** A fraction as the format has it ("7/16", "0") as a number. */
export function fraction(text: string): number {
  const [top, bottom] = text.split('/')
  return Number(top) / Number(bottom ?? 1)
}

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

export const LIMBS: readonly Limb[] = ['RH', 'LH', 'RF', 'LF']

export const LIMB_NAMES: Record<Limb, string> = {
  RH: 'right hand',
  LH: 'left hand',
  RF: 'right foot',
  LF: 'left foot',
}

/** What a limb can play, the likeliest first. */
export const PLAYED_BY: Record<Limb, readonly Instrument[]> = {
  RH: ['hihat_closed', 'hihat_open', 'ride', 'ride_bell', 'crash', 'tom_floor', 'snare'],
  LH: ['snare', 'cross_stick', 'tom_high', 'tom_mid', 'tom_floor', 'hihat_closed', 'crash'],
  RF: ['kick'],
  LF: ['hihat_foot', 'hihat_splash'],
}

export const INSTRUMENT_NAMES: Record<Instrument, string> = {
  kick: 'kick',
  snare: 'snare',
  cross_stick: 'cross-stick',
  hihat_closed: 'closed hat',
  hihat_open: 'open hat',
  hihat_foot: 'foot hat',
  hihat_splash: 'foot splash',
  ride: 'ride',
  ride_bell: 'ride bell',
  crash: 'crash',
  splash: 'splash',
  china: 'china',
  tom_high: 'high tom',
  tom_mid: 'mid tom',
  tom_low: 'low tom',
  tom_floor: 'floor tom',
  clap: 'clap',
  shaker: 'shaker',
  cowbell: 'cowbell',
  tambourine: 'tambourine',
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

/** Before its stroke, and how much softer, a grace note is played. */
const GRACE_SECONDS = [0.035, 0.07]
const GRACE_SHARE = 0.45

/**
 * The strokes of a chart at the times at which they are written, for the kit to play.
 * `plays` says which notes sound: limbs can be muted, and one note can be heard away.
 */
export function strokesOf(
  score: Score,
  plays: (hit: Hit) => boolean = () => true,
): { time: number; instrument: Instrument; velocity: number }[] {
  const strokes = score.bars.flatMap((bar) => {
    const due = new Map(bar.cells.map((cell) => [cell.position, cell.time]))
    return bar.hits
      .filter((hit) => hit.status !== 'left_out' && plays(hit))
      .map((hit) => ({
        time: due.get(hit.position) ?? hit.time,
        instrument: hit.instrument,
        velocity: hit.ghost ? Math.min(hit.velocity, 45) : hit.accent ? Math.max(hit.velocity, 112) : hit.velocity,
        ornament: hit.ornament,
      }))
      .flatMap(({ ornament, ...stroke }) => [...graces(stroke, ornament), stroke])
  })
  return strokes.sort((one, other) => one.time - other.time)
}

function graces(
  stroke: { time: number; instrument: Instrument; velocity: number },
  ornament: Hit['ornament'],
): { time: number; instrument: Instrument; velocity: number }[] {
  const velocity = Math.max(1, Math.round(stroke.velocity * GRACE_SHARE))
  const before = (seconds: number) => ({ ...stroke, time: Math.max(0, stroke.time - seconds), velocity })
  if (ornament === 'flam') return [before(GRACE_SECONDS[0]!)]
  if (ornament === 'drag') return [before(GRACE_SECONDS[1]!), before(GRACE_SECONDS[0]!)]
  // A pressed roll: strokes so near each other that they run together.
  if (ornament === 'buzz') return [0.03, 0.06, 0.09].map((after) => ({ ...before(-after), time: stroke.time + after }))
  return []
}
