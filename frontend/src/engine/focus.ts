/** Only this drum: the band in which a drum sounds, and the moments at which it is written. */
import type { Instrument, Score } from '@/api/client'

export interface Focus {
  /** Hertz. */
  low: number
  high: number
  /** When it sounds, and for how many seconds it is let through. */
  moments: { time: number; seconds: number }[]
}

interface Range {
  low: number
  high: number
  seconds: number
}

const HATS: Range = { low: 5000, high: 14_000, seconds: 0.1 }
const CYMBALS: Range = { low: 3000, high: 13_000, seconds: 0.35 }
const TOMS: Range = { low: 70, high: 420, seconds: 0.3 }

/** Where a drum differs most from the others, and how long its stroke lasts; as kits usually sound. */
export const RANGES: Record<Instrument, Range> = {
  kick: { low: 35, high: 130, seconds: 0.2 },
  snare: { low: 180, high: 6000, seconds: 0.18 },
  cross_stick: { low: 700, high: 4000, seconds: 0.1 },
  hihat_closed: HATS,
  hihat_open: { ...HATS, seconds: 0.35 },
  hihat_foot: HATS,
  hihat_splash: { ...HATS, seconds: 0.3 },
  ride: CYMBALS,
  ride_bell: CYMBALS,
  crash: { ...CYMBALS, seconds: 0.9 },
  splash: { ...CYMBALS, seconds: 0.5 },
  china: { ...CYMBALS, seconds: 0.6 },
  tom_high: { ...TOMS, low: 120, high: 500 },
  tom_mid: { ...TOMS, low: 90 },
  tom_low: TOMS,
  tom_floor: { ...TOMS, low: 55, high: 260 },
  clap: { low: 800, high: 5000, seconds: 0.15 },
  shaker: HATS,
  cowbell: { low: 500, high: 3000, seconds: 0.2 },
  tambourine: HATS,
}

/** What lets one drum of a song through. */
export function focusOn(score: Score, instrument: Instrument): Focus {
  const { low, high, seconds } = RANGES[instrument]
  const moments = score.bars
    .flatMap((bar) => bar.hits)
    .filter((hit) => hit.instrument === instrument && hit.status !== 'left_out')
    .map((hit) => ({ time: hit.time, seconds }))
    .sort((one, other) => one.time - other.time)
  return { low, high, moments }
}
