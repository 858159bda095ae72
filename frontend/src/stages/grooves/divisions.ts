/** Into how many parts a beat can be divided, in the order in which the key goes through them. */
export const DIVISIONS = [
  { value: 1, label: 'quarters' },
  { value: 2, label: 'eighths' },
  { value: 4, label: 'sixteenths' },
  { value: 8, label: 'thirty-seconds' },
  { value: 3, label: 'triplets' },
  { value: 6, label: 'sextuplets' },
  { value: 5, label: 'quintuplets' },
] as const

export type Parts = (typeof DIVISIONS)[number]['value']

/** The division after this one; after the last the first that divides at all. */
export function nextDivision(parts: number): Parts {
  const order = DIVISIONS.map((one) => one.value).filter((value) => value > 1)
  return order[(order.indexOf(parts as (typeof order)[number]) + 1) % order.length]!
}
