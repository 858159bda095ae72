/** What of the stack is folded: bars of rest in a row, and sections that somebody closed. */
import { firstOf, lastOf, type StackRow } from './stackRows'

/** Fewer bars of rest are shown as they are. */
export const FEWEST_RESTS = 3

export interface Fold {
  key: string
  /** As of a row: of the first one of a section. */
  section: string | null
  first: number
  last: number
  words: string
}

export const isFold = (item: StackRow | Fold): item is Fold => !('bars' in item)
/** The last bar of a row or a fold. */
export const endOf = (item: StackRow | Fold) => (isFold(item) ? item.last : lastOf(item))

function foldOf(rows: readonly StackRow[], what: string): Fold {
  const [first, last] = [firstOf(rows[0]!), lastOf(rows.at(-1)!)]
  const many = last - first + 1
  return { key: `fold ${first}`, section: rows[0]!.section, first, last, words: `${many} ${many === 1 ? 'bar' : 'bars'}${what}` }
}

/**
 * Rows with what is folded as one item each.
 * `closed`: the first bars of closed sections. `opened`: the first bars of rests that are shown.
 */
export function foldRows(
  rows: readonly StackRow[],
  closed: ReadonlySet<number>,
  opened: ReadonlySet<number>,
): (StackRow | Fold)[] {
  const items: (StackRow | Fold)[] = []
  let index = 0
  while (index < rows.length) {
    const row = rows[index]!
    let end = index + 1
    if (row.section && closed.has(firstOf(row))) {
      while (end < rows.length && !rows[end]!.section) end++
      items.push(foldOf(rows.slice(index, end), ''))
    } else if (isRest(row)) {
      while (end < rows.length && isRest(rows[end]!) && !rows[end]!.section && !rows[end]!.change) end++
      const run = rows.slice(index, end)
      const many = lastOf(run.at(-1)!) - firstOf(row) + 1
      if (many < FEWEST_RESTS || opened.has(firstOf(row))) items.push(...run)
      else items.push(foldOf(run, ' without drums'))
    } else items.push(row)
    index = end
  }
  return items
}

const isRest = (row: StackRow) => row.bars.every((bar) => bar.hits.length === 0)
