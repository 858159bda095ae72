/** What is read off a section. */
import type { Section } from '@/api/client'

export const isOdd = (section: Section) => section.notes.some((note) => note.kind.startsWith('odd'))

/** Whether a bar of it, from 0, is as in the section that it repeats. */
export const isPlain = (section: Section, index: number) =>
  section.like !== null && !section.differing.includes(index + 1)

/** Whether a phrase of it begins with its bar `index`, from 0; the first bar has no gap before it. */
export function opensPhrase(section: Section, index: number): boolean {
  let end = 0
  for (const length of section.phrases) {
    end += length
    if (index === end) return true
  }
  return false
}

export function wordsOf(section: Section): string {
  const parts = section.notes.map((note) => note.words)
  if (section.words) parts.unshift(section.words)
  if (!parts.length && section.phrases.length > 1) parts.push(`Phrases of ${[...new Set(section.phrases)].join(' and ')}.`)
  return parts.join(' ')
}

/** The first section of each kind of music: what another can be said to repeat. */
export function firstOfEach(sections: readonly Section[]): Section[] {
  const known = new Set<string>()
  return sections.filter((section) => {
    if (!section.mark || known.has(section.mark)) return false
    known.add(section.mark)
    return true
  })
}
