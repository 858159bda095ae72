/** Round numbers for scales, and shapes for the pictures of the Listen stage. */
import { FEWEST_TAPS } from '@/api/vocabulary'

/** About `count` round numbers between two values, in order. */
export function steps(low: number, high: number, count: number): number[] {
  const span = high - low
  if (!(span > 0)) return [Math.round(low)]
  const raw = span / count
  const size = 10 ** Math.floor(Math.log10(raw))
  const step = [1, 2, 5, 10].map((factor) => factor * size).find((value) => value >= raw)!
  const digits = Math.max(0, -Math.floor(Math.log10(step) + 1e-9))
  const found: number[] = []
  for (let value = Math.ceil(low / step) * step; value <= high + 1e-9; value += step) {
    found.push(Number(value.toFixed(digits)))
  }
  return found
}

/** Counts around the beat as heights 0 to 1, the first repeated at the end: a beat is a circle. */
export function heights(counts: readonly number[]): number[] {
  const top = Math.max(1, ...counts)
  const scaled = counts.map((count) => count / top)
  return [...scaled, scaled[0] ?? 0]
}

/** The median tempo of taps in beats a minute; null while there are too few. */
export function tapTempo(taps: readonly number[]): number | null {
  if (taps.length < FEWEST_TAPS) return null
  const gaps = taps.slice(1).map((tap, index) => tap - taps[index]!)
  gaps.sort((one, other) => one - other)
  const middle = gaps[Math.floor(gaps.length / 2)]!
  return middle > 0 ? 60 / middle : null
}
