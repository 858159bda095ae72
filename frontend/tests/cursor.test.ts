import { beforeEach, describe, expect, it } from 'vitest'
import { nextTick, shallowRef } from 'vue'
import type { Hit, Score } from '@/api/client'
import { useCursor } from '@/stages/grooves/useCursor'
import { bar, hit, score } from './composing'

function stack(hits: Hit[] = [hit('1/4', 'snare'), hit('0', 'kick')]) {
  const part = shallowRef<Score | null>(score([bar(1, hits), bar(2), bar(3, [hit('3/4', 'snare', { status: 'doubtful' })])]))
  const id = `song-${Math.random()}`
  return useCursor(id, part)
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

  it('begins where the playing begins, and at the next visit where it was', async () => {
    const part = shallowRef<Score | null>(null)
    const visit = () => useCursor('late drums', part).cursor
    const first = visit()
    part.value = score([bar(1), bar(2, [hit('0', 'kick', { status: 'left_out' })]), bar(3, [hit('0', 'kick')])])
    expect(first.value.bar).toBe(3)
    first.value = { ...first.value, bar: 1 }
    await nextTick()
    part.value = null
    const second = visit()
    part.value = score([bar(1), bar(2), bar(3, [hit('0', 'kick')])])
    expect(second.value.bar).toBe(1)
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

  it('selects a stretch of counts and lanes with Shift, over bar lines', () => {
    const { selection, targets, bars, place, alongCounts, alongBars, alongLimbs, anchor } = stack()
    place({ bar: 1, position: '1/4', limb: 'LH' })
    alongCounts(1, true)
    expect(targets.value.map((item) => item.instrument)).toEqual(['snare'])
    alongBars(1, true)
    alongLimbs(1, true)
    expect(selection.value).toMatchObject({ from: { bar: 1, place: 0.25 }, to: { bar: 2, place: 0.3125 }, limbs: ['LH', 'RF'] })
    expect(bars.value).toEqual([1, 2])
    alongCounts(1)
    expect(anchor.value).toBeNull()
  })

  it('selects a whole bar', () => {
    const { targets, place, selectBar } = stack()
    place({ bar: 1, position: '1/2' })
    selectBar()
    expect(targets.value.map((item) => item.instrument).sort()).toEqual(['kick', 'snare'])
  })

  it('finds the next doubt and comes round again', () => {
    const { cursor, place, nextDoubt } = stack()
    place({ bar: 1, position: '0' })
    expect(nextDoubt(1)?.bar).toBe(3)
    expect(cursor.value).toMatchObject({ bar: 3, position: '3/4', limb: 'LH' })
    expect(nextDoubt(1)?.bar).toBe(3)
  })
})
