import { beforeEach, describe, expect, it } from 'vitest'
import { ref, shallowRef } from 'vue'
import type { DivisionWish, GestureWish, Hit, Score } from '@/api/client'
import { changedBars, editsBetween, type EditValue } from '@/score/edits'
import { useCursor } from '@/stages/grooves/useCursor'
import { REASONS_TO_LEAVE_OUT, useNotes } from '@/stages/grooves/useNotes'
import { bar, hit, score } from './composing'

/** A stack whose edits are applied, and kept to be looked at. */
function notes(hits: Hit[] = [hit('1/4', 'snare'), hit('0', 'kick')], heardIn = '') {
  const edits: EditValue[] = []
  const gestures: GestureWish[] = []
  const divided: DivisionWish[] = []
  const part = shallowRef<Score | null>(score([bar(1, hits), bar(2), bar(3, [hit('3/4', 'snare')])]))
  const lastEdits = shallowRef<readonly EditValue[]>([])
  const notice = ref('')
  const stack = useCursor(`song-${Math.random()}`, part)
  const acts = useNotes(stack, {
    score: part,
    lastEdits,
    notice,
    make(values) {
      const bars = changedBars(part.value!.bars, values)
      if (!bars || values.length === 0) return false
      part.value = { ...part.value!, bars }
      edits.push(...values)
      lastEdits.value = values
      return true
    },
    gesture: async (wish) => gestures.push(wish) > 0,
    divideBeats: async (wish) => divided.push(wish) > 0,
  }, () => heardIn)
  return { edits, gestures, divided, part, notice, ...stack, ...acts }
}

beforeEach(() => sessionStorage.clear())

describe('the notes at the cursor', () => {
  it('removes the note under it, and adds what the limb plays elsewhere', () => {
    const cross = hit('1/4', 'cross_stick', { limb: 'LH' })
    const { edits, place, toggleNote } = notes([cross, hit('1/2', 'cross_stick', { limb: 'LH' })])
    place({ bar: 1, position: '1/4', limb: 'LH' })
    toggleNote()
    expect(edits.at(-1)).toMatchObject({ before: { instrument: 'cross_stick' }, after: null })
    place({ position: '3/4' })
    toggleNote()
    expect(edits.at(-1)?.after).toMatchObject({ instrument: 'cross_stick', position: '3/4', limb: 'LH', time: 1.5 })
  })

  it('makes what is selected another drum by its one key, and says what is left out for it', () => {
    const hats = ['0', '1/4', '1/2'].map((place) => hit(place, 'hihat_closed'))
    const { part, notice, place, voice } = notes([...hats, hit('1/4', 'ride'), hit('0', 'kick')])
    place({ bar: 1, position: '0', limb: 'RH' })
    place({ position: '3/4' }, true)
    voice('ride')
    const now = part.value!.bars[0]!.hits.map((one) => `${one.position} ${one.instrument} ${one.status}`)
    expect(now).toContain('0 ride heard')
    expect(now).toContain('1/2 ride heard')
    expect(now).toContain('1/4 hihat_closed left_out')
    expect(now).toContain('0 kick heard')
    voice('ride')
    expect(notice.value).toContain('already')
    voice('kick')
    expect(notice.value).toContain('A hand and a foot do not share a drum')
    expect(part.value!.bars[0]!.hits.filter((one) => one.instrument === 'kick')).toHaveLength(1)
  })

  it('divides the beat at the cursor, or all beats of the selected bars', async () => {
    const { divided, place, divide, divideOtherwise, cursor } = notes()
    place({ bar: 1, position: '7/16', limb: 'LH' })
    await divide(3)
    expect(divided.at(-1)).toEqual({ bars: [1], parts: 3, beat: 1, like: false })
    expect(cursor.value.position).toBe('1/4')
    await divideOtherwise()
    expect(divided.at(-1)?.parts).toBe(8)
    place({ bar: 2, position: '0' }, true)
    await divide(6, true)
    expect(divided.at(-1)).toEqual({ bars: [1, 2], parts: 6, beat: null, like: true })
  })

  it('makes a ghost of a note, or adds one where there is none', () => {
    const { edits, place, toggleGhost } = notes()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    toggleGhost()
    expect(edits.at(-1)?.after).toMatchObject({ ghost: true, accent: false })
    expect(edits.at(-1)!.after!.velocity).toBeLessThan(45)
    place({ position: '7/16' })
    toggleGhost()
    expect(edits.at(-1)).toMatchObject({ before: null, after: { ghost: true, instrument: 'snare' } })
  })

  it('keeps from which recording it was decided, where that is another one', () => {
    const live = notes([hit('1/4', 'snare'), hit('0', 'kick')], 'Live in the yard')
    live.place({ bar: 1, position: '1/4', limb: 'LH' })
    live.settle('heard')
    expect(live.edits.at(-1)?.after).toMatchObject({ source: 'Live in the yard', settled: true })
    live.place({ position: '7/16' })
    live.toggleNote()
    expect(live.edits.at(-1)?.after?.source).toBe('Live in the yard')
    const own = notes()
    own.place({ bar: 1, position: '7/16', limb: 'LH' })
    own.toggleNote()
    expect(own.edits.at(-1)?.after?.source).toBe('')
  })

  it('accents only a note that is there', () => {
    const { edits, place, toggleAccent } = notes()
    place({ bar: 1, position: '7/16', limb: 'LH' })
    toggleAccent()
    expect(edits).toEqual([])
  })

  it('does not add what another limb plays there already', () => {
    const left = hit('0', 'hihat_closed', { limb: 'LH' })
    const { edits, place, playOn } = notes([left])
    place({ bar: 1, position: '0', limb: 'RH' })
    playOn('hihat_closed')
    expect(edits).toEqual([])
  })

  it('gives a drum a key of its own, which adds it in its lane and takes it away', () => {
    const { edits, cursor, place, voice } = notes()
    place({ bar: 2, position: '1/8', limb: 'LF' })
    voice('kick')
    expect(edits.at(-1)).toMatchObject({ before: null, after: { instrument: 'kick', limb: 'RF', position: '1/8', settled: true } })
    expect(cursor.value.limb).toBe('RF')
    voice('kick')
    expect(edits.at(-1)).toMatchObject({ before: { instrument: 'kick' }, after: null })
  })

  it.each(['flam', 'drag', 'buzz'] as const)('adds a %s and takes it away', (ornament) => {
    const { edits, place, toggleOrnament } = notes()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    toggleOrnament(ornament)
    expect(edits.at(-1)?.after).toMatchObject({ ornament })
    toggleOrnament(ornament)
    expect(edits.at(-1)?.after).toMatchObject({ ornament: null })
  })

  it('makes a closed hat half open, then wide open, and says so where there is none', () => {
    const hat = hit('1/4', 'hihat_closed', { limb: 'RH' })
    const { edits, place, toggleHalfOpen, notice } = notes([hat, hit('1/4', 'snare', { limb: 'LH' })])
    place({ bar: 1, position: '1/4', limb: 'RH' })
    toggleHalfOpen()
    expect(edits.at(-1)?.after).toMatchObject({ instrument: 'hihat_open', opening: 0.4, settled: true })
    toggleHalfOpen()
    expect(edits.at(-1)?.after).toMatchObject({ instrument: 'hihat_open', opening: null })
    const many = edits.length
    place({ bar: 1, position: '1/4', limb: 'LH' })
    toggleHalfOpen()
    expect(edits).toHaveLength(many)
    expect(notice.value).toContain('hat')
  })

  it('leaves a note out with a reason and brings it back', () => {
    const { part, place, settle, leftOut, hit: at } = notes()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    settle('left_out')
    expect(at.value).toBeUndefined()
    expect(leftOut.value).toMatchObject({ status: 'left_out', settled: true })
    settle('left_out', 'nobody plays it live')
    expect(leftOut.value?.reason).toBe('nobody plays it live')
    settle('heard')
    expect(at.value).toMatchObject({ status: 'heard', reason: 'confirmed by ear' })
    expect(part.value?.bars[0]?.hits).toHaveLength(2)
  })

  it('goes through the reasons when the same key is pressed again, and begins anew after the last', () => {
    const { place, settle, leftOut } = notes()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    const given = Array.from({ length: REASONS_TO_LEAVE_OUT.length + 1 }, () => {
      settle('left_out')
      return leftOut.value?.reason
    })
    expect(given).toEqual([...REASONS_TO_LEAVE_OUT, REASONS_TO_LEAVE_OUT[0]])
  })

  it('moves a note along the counts and to another limb, and the cursor with it', () => {
    const { edits, cursor, place, move } = notes()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    move(1, 0)
    expect(edits.at(-1)?.after).toMatchObject({ position: '5/16', time: 0.625 })
    move(0, -1)
    expect(edits.at(-1)?.after).toMatchObject({ position: '5/16', limb: 'RH', time: 0.625 })
    expect(cursor.value).toMatchObject({ position: '5/16', limb: 'RH' })
  })

  it('moves neighbours together, and nothing where one of them cannot', () => {
    const row = [hit('0', 'snare'), hit('1/16', 'snare'), hit('1/8', 'snare')]
    const { part, place, alongCounts, move, edits } = notes(row)
    place({ bar: 1, position: '0', limb: 'LH' })
    alongCounts(1, true)
    alongCounts(1, true)
    move(-1, 0)
    expect(edits).toEqual([])
    move(1, 0)
    expect(part.value?.bars[0]?.hits.map((item) => item.position).sort()).toEqual(['1/16', '1/8', '3/16'])
  })

  it('changes all that is selected in one stroke', () => {
    const { edits, place, alongBars, toggleAccent } = notes()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    alongBars(1, true)
    alongBars(1, true)
    place({ position: '3/4' }, true)
    toggleAccent()
    expect(edits.map((edit) => [edit.after?.bar, edit.after?.accent])).toEqual([
      [1, true],
      [3, true],
    ])
  })

  it('sends the last edit to like bars, and says so where there is none', async () => {
    const { gestures, place, toggleGhost, toLikeBars } = notes()
    await toLikeBars()
    expect(gestures).toEqual([])
    place({ bar: 1, position: '1/4', limb: 'LH' })
    toggleGhost()
    await toLikeBars()
    expect(gestures[0]).toMatchObject({ kind: 'like', edits: [{ after: { ghost: true } }] })
  })

  it('copies bars and lays them over others as far as the song goes', async () => {
    const { gestures, place, alongBars, copy, paste } = notes()
    place({ bar: 1, position: '0' })
    alongBars(1, true)
    copy()
    place({ bar: 3 })
    await paste()
    place({ bar: 2 })
    await paste()
    // The song ends with bar 3.
    expect(gestures).toEqual([
      { kind: 'copy', source_bars: [1], bars: [3] },
      { kind: 'copy', source_bars: [1, 2], bars: [2, 3] },
    ])
  })
})

describe('edits between two versions of a bar', () => {
  it('lead from the one to the other', () => {
    const before = bar(1, [hit('1/4', 'snare'), hit('0', 'kick')])
    const after = bar(1, [hit('1/4', 'snare', { ghost: true }), hit('1/2', 'kick')])
    const edits = editsBetween(before.hits, after.hits)
    const sorted = (hits: Hit[]) => [...hits].sort((one, other) => one.position.localeCompare(other.position))
    expect(sorted(changedBars([before], edits)![0]!.hits)).toEqual(sorted(after.hits))
    expect(editsBetween(before.hits, before.hits)).toEqual([])
  })
})
