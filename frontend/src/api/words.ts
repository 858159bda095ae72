/** What is said of something that went wrong. */
import { Problem } from './client'

/** A sentence for the screen. That one was signed out is said by the dialog that signs in again: here nothing is. */
export function problemWords(error: unknown): string {
  if (!error) return ''
  if (error instanceof Problem && error.isSignedOut) return ''
  return error instanceof Error ? error.message : String(error)
}
