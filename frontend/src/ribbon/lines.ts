/** Which bar lines and beats there is room for in a stretch of the song. */
import type { Bar } from '@/api/client'

export interface GridLine {
  time: number
  kind: 'bar' | 'beat'
  /** The bar's number where there is room to write it. */
  number: number | null
  /** Of a bar line that there is room to take hold of: its bar. */
  bar: number | null
}

const BEAT_PIXELS = 12
const BAR_PIXELS = 7
const NUMBER_PIXELS = 34
const HANDLE_PIXELS = 26

/** Lines from `start` to `end` seconds on so many pixels: beats where they are apart, else bars, else every fourth. */
export function linesBetween(bars: readonly Bar[], start: number, end: number, pixels: number): GridLine[] {
  const inside = bars.filter((bar) => bar.end > start && bar.start < end)
  if (inside.length === 0 || pixels <= 0 || end <= start) return []
  const scale = pixels / (end - start)
  const barPixels = ((inside.at(-1)!.end - inside[0]!.start) / inside.length) * scale
  const beatPixels = barPixels / Math.max(1, inside[0]!.beats.length)
  const every = barPixels >= BAR_PIXELS ? 1 : barPixels * 4 >= BAR_PIXELS ? 4 : 16
  const numbered = every * Math.max(1, 2 ** Math.ceil(Math.log2(NUMBER_PIXELS / (barPixels * every))))
  const lines: GridLine[] = []
  for (const bar of inside) {
    const counted = bar.number - 1
    if (counted % every === 0) {
      lines.push({
        time: bar.start,
        kind: 'bar',
        number: counted % numbered === 0 ? bar.number : null,
        bar: barPixels >= HANDLE_PIXELS ? bar.number : null,
      })
    }
    if (beatPixels >= BEAT_PIXELS) {
      for (const beat of bar.beats.slice(1)) lines.push({ time: beat, kind: 'beat', number: null, bar: null })
    }
  }
  return lines.filter((line) => line.time >= start && line.time <= end)
}
