import { describe, expect, it } from 'vitest'
import { foldRows, isFold } from '@/stages/grooves/folding'
import { stackRows } from '@/stages/grooves/stackRows'
import { bar, hit, score } from './composing'

const played = (number: number) => bar(number, [hit('0', 'kick')])
const section = (label: string, first_bar: number, bars: number) => ({ label, first_bar, bars, notes: [] }) as never

function rows() {
  const bars = [played(1), bar(2), bar(3), bar(4), played(5), bar(6), bar(7), played(8)]
  const song = { ...score(bars), sections: [section('A', 1, 5), section('B', 6, 3)] }
  return stackRows(song, new Map(), [], new Set(), true)
}
const labelsOf = (items: ReturnType<typeof foldRows>) => items.map((item) => (isFold(item) ? item.words : item.key))

describe('folding', () => {
  it('makes one line of three bars of rest and more, and leaves two as they are', () => {
    expect(labelsOf(foldRows(rows(), new Set(), new Set()))).toEqual(['1', '3 bars without drums', '5', '6', '7', '8'])
  })

  it('opens a rest that is asked for', () => {
    expect(labelsOf(foldRows(rows(), new Set(), new Set([2])))).toEqual(['1', '2', '3', '4', '5', '6', '7', '8'])
  })

  it('closes a section as one line that keeps its name', () => {
    const items = foldRows(rows(), new Set([6]), new Set())
    expect(labelsOf(items).at(-1)).toBe('3 bars')
    expect(items.at(-1)).toMatchObject({ section: 'B', first: 6, last: 8 })
  })

  it('keeps every bar, shown or folded, in order', () => {
    const items = foldRows(rows(), new Set([1]), new Set())
    const ends = items.map((item) => (isFold(item) ? [item.first, item.last] : [item.bars[0]!.number, item.bars.at(-1)!.number]))
    expect(ends.flat()).toEqual([1, 5, 6, 6, 7, 7, 8, 8])
  })
})
