/** How far a hat is open. */
import type { Instrument } from '@/api/client'
import { HALF_OPEN_BELOW } from '@/api/vocabulary'

/** Whether a note is a hat that is struck half open. */
export function isHalfOpen(note: { instrument: Instrument | string; opening?: number | null }): boolean {
  return note.instrument === 'hihat_open' && note.opening != null && note.opening < HALF_OPEN_BELOW
}
