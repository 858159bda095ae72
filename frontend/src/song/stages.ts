/**
 * The stages in working order. A stage appears here when it does what it promises: add an entry,
 * a folder below stages/, and its place in SongPage.
 */
export interface Stage {
  id: 'listen' | 'form' | 'grooves' | 'chart'
  name: string
}

export const STAGES: readonly Stage[] = [
  { id: 'listen', name: 'Listen' },
  { id: 'form', name: 'Form' },
  { id: 'grooves', name: 'Grooves' },
  { id: 'chart', name: 'Chart' },
]
