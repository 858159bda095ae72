import { beforeEach, describe, expect, it } from 'vitest'
import { shallowRef } from 'vue'
import type { Hit, Score } from '@/api/client'
import { useCursor } from '@/stages/grooves/useCursor'
import { bar, hit, score } from './composing'

function stack(hits: Hit[] = [hit('1/4', 'snare'), hit('0', 'kick')]) {
  const edits: [Hit | null, Hit | null][] = []
  const part = shallowRef<Score | null>(score([bar(1, hits), bar(2), bar(3, [hit('3/4', 'snare', { status: 'doubtful' })])]))
  const id = `song-${Math.random()}`
  return { edits, ...useCursor(id, part, (before, after) => edits.push([before, after])) }
}

beforeEach(() => sessionStorage.clear())

describe('the cursor of the bar stack', () => {
  it('walks along the counts into the next bar and back', () => {
    const { cursor, place, alongCounts } = stack()
    place({ bar: 1, position: '15/16' })
    alongCounts(1)
    expect(cursor.value).toMatchObject({ bar: 2, position: '0' })
    alongCounts(-1)
    expect(cursor.value).toMatchObject({ bar: 1, position: '15/16' })
  })

  it('stays at the ends of the song', () => {
    const { cursor, place, alongCounts, alongLimbs } = stack()
    place({ bar: 1, position: '0', limb: 'RH' })
    alongCounts(-1)
    alongLimbs(-1)
    expect(cursor.value).toEqual({ bar: 1, position: '0', limb: 'RH' })
  })

  it('walks from the left foot to the right hand of the next bar', () => {
    const { cursor, place, alongLimbs } = stack()
    place({ bar: 1, limb: 'LF' })
    alongLimbs(1)
    expect(cursor.value).toMatchObject({ bar: 2, limb: 'RH' })
  })

  it('removes the note under it, and adds what the limb plays elsewhere', () => {
    const cross = hit('1/4', 'cross_stick', { limb: 'LH' })
    const { edits, place, toggleNote } = stack([cross])
    place({ bar: 1, position: '1/4', limb: 'LH' })
    toggleNote()
    expect(edits.at(-1)).toEqual([expect.objectContaining({ instrument: 'cross_stick' }), null])
    place({ position: '3/4' })
    toggleNote()
    expect(edits.at(-1)?.[1]).toMatchObject({ instrument: 'cross_stick', position: '3/4', limb: 'LH', time: 1.5 })
  })

  it('makes a ghost of a note, or adds one where there is none', () => {
    const { edits, place, toggleGhost } = stack()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    toggleGhost()
    expect(edits.at(-1)?.[1]).toMatchObject({ ghost: true, accent: false })
    expect(edits.at(-1)![1]!.velocity).toBeLessThan(45)
    place({ position: '7/16' })
    toggleGhost()
    expect(edits.at(-1)).toEqual([null, expect.objectContaining({ ghost: true, instrument: 'snare' })])
  })

  it('accents only a note that is there', () => {
    const { edits, place, toggleAccent } = stack()
    place({ bar: 1, position: '7/16', limb: 'LH' })
    toggleAccent()
    expect(edits).toEqual([])
  })

  it('does not add what another limb plays there already', () => {
    const left = hit('0', 'hihat_closed', { limb: 'LH' })
    const { edits, place, playOn } = stack([left])
    place({ bar: 1, position: '0', limb: 'RH' })
    playOn('hihat_closed')
    expect(edits).toEqual([])
  })

  it('finds the next doubt and comes round again', () => {
    const { cursor, place, nextDoubt } = stack()
    place({ bar: 1, position: '0' })
    expect(nextDoubt(1)?.bar).toBe(3)
    expect(cursor.value).toMatchObject({ bar: 3, position: '3/4', limb: 'LH' })
    expect(nextDoubt(1)?.bar).toBe(3)
  })
})
