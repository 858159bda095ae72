/** The page applies edits by itself, to be quick: in every case just as the core does. */
import { describe, expect, it } from 'vitest'
import type { Bar, Hit } from '@/api/client'
import { changedBars, type EditValue } from '@/score/edits'
import { bars, cases } from '../../tests/cases/edits.json'
import { bar } from './composing'

const whole = (from: { number: number; hits: unknown[] }): Bar => bar(from.number, from.hits as Hit[])
const inOrder = (hits: readonly unknown[]) =>
  hits.map((hit) => JSON.stringify(hit, Object.keys(hit as Hit).toSorted())).toSorted()

describe('edits, as the core has them', () => {
  it.each(cases)('$name', ({ edits, after }) => {
    const made = changedBars(bars.map(whole), edits as unknown as EditValue[])
    expect(made === null).toBe(after === null)
    if (made === null || after === null) return
    // A bar that no edit touches stays as it was.
    const wanted = new Map<number, unknown[]>([...bars, ...after].map((one) => [one.number, one.hits]))
    expect(made.map((one) => [one.number, inOrder(one.hits)])).toEqual(
      [...wanted].map(([number, hits]) => [number, inOrder(hits)]),
    )
  })
})
