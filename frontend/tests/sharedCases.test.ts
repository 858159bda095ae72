/** The page applies edits by itself, to be quick: in every case just as the core does. */
import { describe, expect, it } from 'vitest'
import type { Bar, Hit } from '@/api/client'
import { changedBars, type EditValue } from '@/score/edits'
import cases from '../../tests/cases/edits.json'
import { bar } from './composing'

const whole = (from: { number: number; hits: unknown[] }): Bar => ({ ...bar(from.number, from.hits as Hit[]) })
const inOrder = (hits: readonly Hit[]) =>
  hits.map((hit) => JSON.stringify(hit, Object.keys(hit).toSorted())).toSorted()

describe('edits, as the core has them', () => {
  it.each(cases)('$name', ({ bars, edits, after }) => {
    const made = changedBars(bars.map(whole), edits as unknown as EditValue[])
    expect(made === null).toBe(after === null)
    if (made === null || after === null) return
    expect(made.map((one) => [one.number, inOrder(one.hits)])).toEqual(
      after.map((one) => [one.number, inOrder(one.hits as unknown as Hit[])]),
    )
  })
})
