import { describe, expect, it } from 'vitest'
import type { Phrase, PhraseNote, Section } from '@/api/client'
import { RANGES, focusOn } from '@/engine/focus'
import { passAt, passClock } from '@/engine/timeline'
import { timeAt, throughBar } from '@/score/place'
import { asPhrase, inferring } from '@/stages/grooves/offers'
import { keptSame, stackRows } from '@/stages/grooves/stackRows'
import type { BarPhrase } from '@/stages/grooves/useGrooves'
import { bar, hit, score } from './composing'

const kick: PhraseNote = {
  bar: 0,
  position: '0',
  instrument: 'kick',
  standing: 'core',
  share: 1,
  count: 4,
  asked: 4,
  velocity: 90,
  ghost: false,
  accent: false,
  limb: 'RF',
  ornament: null,
  opening: null,
}

function rowsOf(length: number, isNarrow = false, fill = 0) {
  const bars = Array.from({ length: 5 }, (_, index) =>
    bar(index + 1, index === 2 ? [hit('0', 'kick'), hit('1/4', 'snare')] : [hit('0', 'kick')]),
  )
  const phrase: Phrase = { first_bar: 1, bars: 5, length, words: '', odds: 5, notes: [kick] }
  const phrases = new Map<number, BarPhrase>(
    bars.map((item, index) => [item.number, { phrase, step: index % length, notes: [kick] }]),
  )
  const section = { label: 'Verse', first_bar: 1, bars: 5 } as Section
  const fills = fill ? [{ start: 0, end: 1, bar: fill, settled: false }] : []
  const part = { ...score(bars), sections: [section], fills }
  const found = [
    { stamp: 'a', first_bar: 1, label: 'Verse', phrases: [phrase], names: [], facts: [], difficulty: null, unplayable: [], changes: [{ bar: 4, words: 'From bar 4', evidence: '' }], kinds: [], proposals: [] },
  ]
  return stackRows(part, phrases, found, new Set([1, 2]), isNarrow)
}

describe('the rows of the stack', () => {
  it('set the bars of a longer phrase side by side, and begin anew where the groove changes', () => {
    expect(rowsOf(1).map((row) => row.bars.length)).toEqual([1, 1, 1, 1, 1])
    expect(rowsOf(2).map((row) => row.bars.map((item) => item.number))).toEqual([[1, 2], [3], [4], [5]])
    expect(rowsOf(2).map((row) => row.change)).toEqual([null, null, 'From bar 4', null])
  })

  it('are one bar wide where there is no room', () => {
    expect(rowsOf(2, true).every((row) => row.bars.length === 1)).toBe(true)
  })

  it('say what is as the phrase, what is a fill, and what is confirmed', () => {
    const rows = rowsOf(1, false, 5)
    expect(rows.map((row) => row.words)).toEqual(['as phrase', 'as phrase', '', 'as phrase', 'fill in 5'])
    expect(rows.map((row) => row.isSettled)).toEqual([true, true, false, false, false])
    expect(rows.map((row) => row.section)).toEqual(['Verse', null, null, null, null])
  })

  it('stay the objects they were where nothing changed, so that they are not redrawn', () => {
    const before = rowsOf(1)
    const after = before.map((row) => ({ ...row, bars: [...row.bars] }))
    after[2] = { ...after[2]!, bars: [bar(3, [hit('0', 'kick')])] }
    after[4] = { ...after[4]!, isSettled: true }
    const kept = keptSame(after, before)
    expect(kept.map((row, index) => row === before[index])).toEqual([true, true, false, true, false])
    expect(kept[2]!.bars[0]!.hits).toHaveLength(1)
  })
})

describe('listening aids', () => {
  const course = { at: 10, from: 1, rate: 0.5, loop: { start: 0, end: 2 } }

  it('count the passes of a loop, slowed down', () => {
    expect([10, 11.9, 12, 15.9, 16].map((clock) => passAt(course, clock))).toEqual([0, 0, 1, 1, 2])
    expect([passClock(course, 1), passClock(course, 2)]).toEqual([12, 16])
    expect(passAt({ ...course, loop: null }, 99)).toBe(0)
  })

  it('let one drum through in its band, at its moments, without what was left out', () => {
    const part = score([bar(1, [hit('1/4', 'snare', { time: 0.5 }), hit('0', 'kick')]), bar(2, [hit('0', 'snare', { status: 'left_out' })])])
    const focus = focusOn(part, 'snare')
    expect(focus.moments.map((moment) => moment.time)).toEqual([0.5])
    for (const range of Object.values(RANGES)) expect(range.low).toBeLessThan(range.high)
  })

  it('find the moment of a place on uneven beats, and the place of the moment', () => {
    const uneven = { ...bar(1), beats: [0, 0.4, 1, 1.5] }
    for (const place of [0, 0.125, 0.3, 0.75, 0.99]) expect(throughBar(uneven, timeAt(uneven, place))).toBeCloseTo(place)
  })
})

describe('what is offered', () => {
  it('becomes edits that can be taken back: inferred notes, a bar as its phrase', () => {
    const ghost = hit('3/16', 'snare', { bar: 1 })
    const proposal = { kind: 'bass', words: '', hits: [hit('0', 'kick', { status: 'inferred' })] }
    expect(inferring(proposal)).toMatchObject({ words: '1 note inferred from the bass', edits: [{ before: null }] })
    const typical = [
      { position: '0', instrument: 'kick', standing: 'core' },
      { position: '1/2', instrument: 'kick', standing: 'occasional' },
    ]
    expect(asPhrase(bar(1, [ghost]), typical)).toMatchObject({ added: 1, gone: [{ position: '3/16' }] })
  })
})
