/** The rows of the bar stack: bars set side by side as their phrase is long, with what is said of each row. */
import type { Bar, Hit, PhraseNote, Score, SectionGroove } from '@/api/client'
import type { BarPhrase } from './useGrooves'

export interface StackRow {
  key: string
  /** Of the first row of a section. */
  section: string | null
  /** A change of the groove that begins here, in words. */
  change: string | null
  bars: Bar[]
  words: string
  hasDoubt: boolean
  isSettled: boolean
}

export const MOST_SIDE_BY_SIDE = 2

export function sideBySide(phrase: BarPhrase | undefined, isNarrow: boolean): number {
  return isNarrow || !phrase ? 1 : Math.min(MOST_SIDE_BY_SIDE, phrase.phrase.length)
}

const sounding = (hit: Hit) => hit.status !== 'left_out'
const sameness = new WeakMap<Bar, { notes: readonly PhraseNote[]; same: boolean }>()

/** True when a bar plays its phrase's core and usual notes and nothing else. */
export function isAsPhrase(bar: Bar, notes: readonly PhraseNote[]): boolean {
  const known = sameness.get(bar)
  if (known?.notes === notes) return known.same
  const here = new Set(bar.hits.filter(sounding).map((hit) => `${hit.position} ${hit.instrument}`))
  const firm = notes.filter((note) => note.standing !== 'occasional')
  const wanted = new Set(firm.map((note) => `${note.position} ${note.instrument}`))
  const core = firm.filter((note) => note.standing === 'core')
  const same =
    [...here].every((place) => wanted.has(place)) &&
    core.every((note) => here.has(`${note.position} ${note.instrument}`))
  sameness.set(bar, { notes, same })
  return same
}

export function stackRows(
  score: Score,
  phrases: ReadonlyMap<number, BarPhrase>,
  found: readonly SectionGroove[],
  settled: ReadonlySet<number>,
  isNarrow: boolean,
): StackRow[] {
  const labels = new Map(score.sections.map((section) => [section.first_bar, section.label]))
  const changes = new Map(found.flatMap((section) => section.changes.map((change) => [change.bar, change.words])))
  const fills = new Set(score.fills.map((fill) => fill.bar))
  const rows: StackRow[] = []
  let row: Bar[] = []
  const close = () => {
    if (row.length === 0) return
    const first = row[0]!
    const filled = row.filter((bar) => fills.has(bar.number)).map((bar) => bar.number)
    rows.push({
      key: `${first.number}`,
      section: labels.get(first.number) ?? null,
      change: changes.get(first.number) ?? null,
      bars: row,
      words: rowWords(row, phrases, filled),
      hasDoubt: row.some((bar) => bar.hits.some((hit) => hit.status === 'doubtful')),
      isSettled: row.every((bar) => settled.has(bar.number) || bar.hits.length === 0) && row.some((bar) => bar.hits.length),
    })
    row = []
  }
  for (const bar of score.bars) {
    const home = phrases.get(bar.number)
    const starts = labels.has(bar.number) || changes.has(bar.number) || home?.step === 0
    const wide = sideBySide(home, isNarrow)
    if (starts || row.length >= wide) close()
    row.push(bar)
    if (row.length >= wide) close()
  }
  close()
  return rows
}

/** The rows anew, but those in which nothing changed as the objects they were: they are not redrawn. */
export function keptSame(rows: StackRow[], before: readonly StackRow[]): StackRow[] {
  const known = new Map(before.map((row) => [row.key, row]))
  return rows.map((row) => {
    const old = known.get(row.key)
    return old && isSame(row, old) ? old : row
  })
}

function isSame(one: StackRow, other: StackRow): boolean {
  return (
    one.section === other.section &&
    one.change === other.change &&
    one.words === other.words &&
    one.hasDoubt === other.hasDoubt &&
    one.isSettled === other.isSettled &&
    one.bars.length === other.bars.length &&
    one.bars.every((bar, index) => bar === other.bars[index])
  )
}

function rowWords(row: Bar[], phrases: ReadonlyMap<number, BarPhrase>, filled: number[]): string {
  if (filled.length) return `fill in ${filled.join(', ')}`
  if (row.every((bar) => bar.hits.length === 0)) return 'no drums'
  const same = row.every((bar) => {
    const home = phrases.get(bar.number)
    return home && isAsPhrase(bar, home.notes)
  })
  return same ? 'as phrase' : ''
}

/** The numbers of the first and the last bar of a row. */
export const firstOf = (row: StackRow) => row.bars[0]!.number
export const lastOf = (row: StackRow) => row.bars.at(-1)!.number
