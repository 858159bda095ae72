import { describe, expect, it } from 'vitest'
import { changedBar, newId } from '@/score/edits'
import { barAt, barsWords, fraction, hitAt, placeWords, strokesOf, throughBar } from '@/score/place'
import { bar, hit, score } from './composing'

describe('places', () => {
  it('reads exact fractions', () => {
    expect(fraction('7/16')).toBe(0.4375)
    expect(fraction('0')).toBe(0)
  })

  it('finds the bar that sounds', () => {
    const bars = [bar(1), bar(2), bar(3)]
    expect(barAt(bars, 2)?.number).toBe(2)
    expect(barAt(bars, 5.99)?.number).toBe(3)
    expect(barAt(bars, 6)).toBeUndefined()
    expect(barAt(bars, -1)).toBeUndefined()
  })

  it('follows uneven beats through a bar', () => {
    const uneven = { ...bar(1), beats: [0, 0.4, 1, 1.5] }
    expect(throughBar(uneven, 0.2)).toBeCloseTo(0.125)
    expect(throughBar(uneven, 0.7)).toBeCloseTo(0.375)
  })

  it('calls one bar a bar and several bars', () => {
    expect(barsWords(3, 10)).toBe('bars 3–10')
    expect(barsWords(7, 7)).toBe('bar 7')
    expect(barsWords(0, 0)).toBe('bar 0')
  })

  it('says a place as drummers say it', () => {
    expect(placeWords(bar(1), '7/16')).toBe('the a of 2')
    expect(placeWords(bar(1), '1/2')).toBe('beat 3')
    expect(placeWords(bar(1), '1/32')).toBe('inside beat 1')
  })

  it('does not find a note that was left out', () => {
    const one = bar(1, [hit('1/4', 'snare', { status: 'left_out' })])
    expect(hitAt(one, 'LH', '1/4')).toBeUndefined()
  })

  it('plays written notes when they are due, ghosts softly, in order', () => {
    const late = hit('1/4', 'snare', { time: 0.53, ghost: true })
    const strokes = strokesOf(score([bar(1, [late, hit('0', 'kick')])]))
    expect(strokes.map(({ time }) => time)).toEqual([0, 0.5])
    expect(strokes[1]!.velocity).toBeLessThanOrEqual(45)
  })
})

describe('a hat that is half open', () => {
  it('is told to the kit; one that is wide open or of which nothing is known is not', () => {
    const hats = [0.4, 0.9, null].map((opening, index) => hit(['0', '1/4', '1/2'][index]!, 'hihat_open', { opening }))
    expect(strokesOf(score([bar(1, hats)])).map(({ half }) => half ?? false)).toEqual([true, false, false])
  })

  it('is another note than one that is wide open', () => {
    const half = hit('0', 'hihat_open', { opening: 0.4 })
    expect(changedBar(bar(1, [half]), { before: { ...half, opening: null }, after: null })).toBeNull()
  })
})

describe('edits', () => {
  const snare = hit('1/4', 'snare')

  it('adds, changes and removes a note', () => {
    const one = bar(1, [snare])
    const ghost = { ...snare, ghost: true }
    expect(changedBar(one, { before: snare, after: ghost })?.hits).toEqual([ghost])
    expect(changedBar(one, { before: snare, after: null })?.hits).toEqual([])
    expect(changedBar(bar(1), { before: null, after: snare })?.hits).toEqual([snare])
  })

  it('refuses an edit that does not fit the bar', () => {
    expect(changedBar(bar(1), { before: snare, after: null })).toBeNull()
    expect(changedBar(bar(1, [snare]), { before: null, after: snare })).toBeNull()
  })

  it('gives every edit an id of its own', () => {
    expect(new Set(Array.from({ length: 50 }, newId)).size).toBe(50)
    expect(newId()).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/)
  })
})
