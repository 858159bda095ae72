/** Edits as values, as the server has them: what was there, and what shall be there. */
import type { Bar, Hit } from '@/api/client'

export interface EditValue {
  before: Hit | null
  after: Hit | null
}

export function newId(): string {
  return crypto.randomUUID?.() ?? fallbackId()
}

/** Without a secure context there is no randomUUID: the same from random bytes. */
function fallbackId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = (bytes[6]! & 0x0f) | 0x40
  bytes[8] = (bytes[8]! & 0x3f) | 0x80
  const hex = Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}

export function barOf(edit: EditValue): number {
  return (edit.after ?? edit.before)!.bar
}

export function sameHit(one: Hit, other: Hit): boolean {
  return (
    one.position === other.position &&
    one.instrument === other.instrument &&
    one.velocity === other.velocity &&
    one.ghost === other.ghost &&
    one.accent === other.accent &&
    one.status === other.status &&
    one.limb === other.limb &&
    (one.ornament ?? null) === (other.ornament ?? null) &&
    (one.opening ?? null) === (other.opening ?? null) &&
    (one.settled ?? false) === (other.settled ?? false)
  )
}

/** The bar after an edit, or null when the edit does not fit it. */
export function changedBar(bar: Bar, edit: EditValue): Bar | null {
  let hits = bar.hits
  if (edit.before) {
    const index = hits.findIndex((hit) => sameHit(hit, edit.before!))
    if (index < 0) return null
    hits = hits.filter((_, at) => at !== index)
  }
  if (edit.after) {
    const { position, instrument } = edit.after
    if (hits.some((hit) => hit.position === position && hit.instrument === instrument)) return null
    hits = [...hits, edit.after]
  }
  return { ...bar, hits }
}

/** The bars after edits that belong together, or null when one of them does not fit. */
export function changedBars(bars: readonly Bar[], edits: readonly EditValue[]): Bar[] | null {
  const changed = new Map<number, Bar>()
  for (const edit of edits) {
    const number = barOf(edit)
    const bar = changed.get(number) ?? bars.find((item) => item.number === number)
    const next = bar && changedBar(bar, edit)
    if (!next) return null
    changed.set(number, next)
  }
  return bars.map((bar) => changed.get(bar.number) ?? bar)
}

const place = (hit: Hit) => `${hit.position} ${hit.instrument}`

/** The edits that make one bar's hits into others. */
export function editsBetween(before: readonly Hit[], after: readonly Hit[]): EditValue[] {
  const wanted = new Map(after.map((hit) => [place(hit), hit]))
  const here = new Set(before.map(place))
  const edits: EditValue[] = []
  for (const hit of before) {
    const other = wanted.get(place(hit)) ?? null
    if (!other || !sameHit(hit, other)) edits.push({ before: hit, after: other })
  }
  for (const hit of after) if (!here.has(place(hit))) edits.push({ before: null, after: hit })
  return edits
}
