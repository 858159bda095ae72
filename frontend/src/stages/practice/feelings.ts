/** How a step felt, in a drummer's words, and the key for each. */
import type { Feeling } from '@/api/client'

export const FEELINGS: readonly { value: Feeling; name: string; key: string }[] = [
  { value: 'easy', name: 'Easy', key: '7' },
  { value: 'work', name: 'Work', key: '8' },
  { value: 'tense', name: 'Tense', key: '9' },
]
