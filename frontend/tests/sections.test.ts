/** What is read off a section. */
import { describe, expect, it } from 'vitest'
import type { Section } from '@/api/client'
import { firstOfEach, isOdd, isPlain, opensPhrase, wordsOf } from '@/stages/form/sections'

function section(change: Partial<Section> = {}): Section {
  return { mark: 'A', like: null, differing: [], phrases: [4, 4], notes: [], words: '', ...change } as Section
}
const note = (kind: string, words: string) => ({ kind, words }) as Section['notes'][number]

describe('a section', () => {
  it('is odd where a note says so', () => {
    expect(isOdd(section())).toBe(false)
    expect(isOdd(section({ notes: [note('odd-length', 'Nine bars.')] }))).toBe(true)
    expect(isOdd(section({ notes: [note('tempo', 'Faster.')] }))).toBe(false)
  })

  it('has plain bars only where it repeats another, but for those that differ', () => {
    expect(isPlain(section(), 0)).toBe(false)
    const again = section({ like: 'Verse 1' as never, differing: [8] })
    expect([0, 6, 7].map((index) => isPlain(again, index))).toEqual([true, true, false])
  })

  it('opens a phrase after each but the last', () => {
    const uneven = section({ phrases: [4, 3, 2] })
    const opens = Array.from({ length: 9 }, (_, index) => opensPhrase(uneven, index))
    expect(opens.flatMap((does, index) => (does ? [index] : []))).toEqual([4, 7])
    expect(opensPhrase(section({ phrases: [] }), 0)).toBe(false)
  })

  it('is told in its own words first, then in those of its notes', () => {
    expect(wordsOf(section({ words: 'Half-time.', notes: [note('odd', 'Nine bars.')] }))).toBe('Half-time. Nine bars.')
    expect(wordsOf(section({ phrases: [4, 4] }))).toBe('Phrases of 4.')
    expect(wordsOf(section({ phrases: [4, 3] }))).toBe('Phrases of 4 and 3.')
    expect(wordsOf(section({ phrases: [8] }))).toBe('')
  })

  it('is the first of its kind once', () => {
    const song = ['A', 'B', 'A', '', 'C', 'B'].map((mark, index) => section({ mark, words: String(index) }))
    expect(firstOfEach(song).map((item) => item.words)).toEqual(['0', '1', '4'])
    expect(firstOfEach([])).toEqual([])
  })
})
