/** What one can choose of a chart, in words: the choices themselves are the core's. */
import type { ChartQuery } from '@/api/client'
import { DEFAULT_SCHOOL, SCHOOLS } from '@/api/vocabulary'

export type ChartChoice = Required<Omit<ChartQuery, 'have' | 'key'>>

export const FRESH: ChartChoice = {
  reading: 'full',
  notation: 'staff',
  level: 'all',
  limbs: '',
  doubts: 'brackets',
  voices: 'two',
  sticking: 'none',
  count: false,
  ghosts: 'brackets',
  cross_stick: 'x',
  hat_foot: 'under',
  closing_sign: true,
  swing: 'direction',
  facts: false,
  for_kit: false,
  times: true,
  size: 'a4',
  school: DEFAULT_SCHOOL as ChartChoice['school'],
}

type Choices<K extends keyof ChartChoice> = readonly { value: ChartChoice[K]; label: string; hint?: string }[]

export const READINGS: Choices<'reading'> = [
  { value: 'full', label: 'Note for note', hint: 'every bar, folded into repeats' },
  { value: 'essence', label: 'Essence', hint: 'the typical phrase of each section, real fills' },
  { value: 'map', label: 'Road map', hint: 'one page: form, a bar of groove, cues' },
  { value: 'parts', label: 'Parts', hint: 'the few bars that most of it is made of' },
]
export const NOTATIONS: Choices<'notation'> = [
  { value: 'staff', label: 'Drum staff' },
  { value: 'limbs', label: 'Limb lines' },
]
export const LEVELS: Choices<'level'> = [
  { value: 'all', label: 'All notes' },
  { value: 'no_ghosts', label: 'Without ghosts' },
  { value: 'hands', label: 'Hands only' },
  { value: 'backbeat', label: 'Kick and backbeat' },
]
export const DOUBTS: Choices<'doubts'> = [
  { value: 'brackets', label: 'in [brackets]' },
  { value: 'hidden', label: 'left off the page' },
  { value: 'plain', label: 'like all others' },
]
export const VOICES: Choices<'voices'> = [
  { value: 'two', label: 'hands up, feet down' },
  { value: 'one', label: 'all on one stem' },
  { value: 'foot_apart', label: 'left foot on its own line' },
]
export const STICKINGS: Choices<'sticking'> = [
  { value: 'none', label: 'not written' },
  { value: 'below', label: 'below the staff' },
  { value: 'above', label: 'above the staff' },
]
export const GHOSTS: Choices<'ghosts'> = [
  { value: 'brackets', label: 'in brackets' },
  { value: 'small', label: 'small heads' },
]
export const CROSS_STICKS: Choices<'cross_stick'> = [
  { value: 'x', label: 'a cross' },
  { value: 'round', label: 'a cross in a ring' },
]
export const HAT_FEET: Choices<'hat_foot'> = [
  { value: 'under', label: 'under the staff' },
  { value: 'line', label: 'on the lowest line' },
]
export const SWINGS: Choices<'swing'> = [
  { value: 'direction', label: 'straight, said over the first bar' },
  { value: 'triplets', label: 'spelled out in triplets' },
]
export const PAPERS: Choices<'size'> = [
  { value: 'a4', label: 'A4' },
  { value: 'letter', label: 'Letter' },
]
export const SCHOOL_CHOICES: Choices<'school'> = Object.entries(SCHOOLS).map(([value, label]) => ({
  value: value as ChartChoice['school'],
  label,
}))

export const FILES = [
  { name: 'chart.pdf', label: 'PDF, A4' },
  { name: 'chart-letter.pdf', label: 'PDF, Letter' },
  { name: 'chart.png', label: 'Picture, PNG' },
  { name: 'chart.svg', label: 'Drawing, SVG' },
  { name: 'chart.musicxml', label: 'MusicXML' },
  { name: 'chart.txt', label: 'Limb lines as text' },
  { name: 'drums.mid', label: 'MIDI, as played' },
  { name: 'drums-quantised.mid', label: 'MIDI, on the grid' },
  { name: 'drums.csv', label: 'Table of strokes, CSV' },
  { name: 'transcription.json', label: 'Transcription, JSON' },
] as const
/** Files that a worker makes: the click waits for them. */
export const MADE: readonly string[] = ['chart.pdf', 'chart-letter.pdf', 'chart.png', 'chart.svg']

/** What is chosen as the end of an address. */
export function queryOf(choice: ChartChoice): string {
  const changed = Object.entries(choice).filter(([name, value]) => value !== FRESH[name as keyof ChartChoice])
  return changed.length ? `?${new URLSearchParams(changed.map(([name, value]) => [name, String(value)]))}` : ''
}
