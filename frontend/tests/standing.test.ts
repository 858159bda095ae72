/** How far a class is with what was given to it: read at a glance, with three in it or thirty. */
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import StandingList from '@/people/StandingList.vue'
import type { Given, Student } from '@/people/useGroups'

function student(name: string, standing: Student['standing'], best_bpm = 0, more: Partial<Student> = {}): Student {
  const played = { minutes: best_bpm ? 27 : 0, days: best_bpm ? 3 : 0, last: best_bpm ? '2030-03-04' : null }
  const words = best_bpm ? `at ${best_bpm} of 96` : standing
  return { user: name.length, name, standing, best_bpm, told: [], words, ...played, ...more }
}

const shown = (students: Student[]) => mount(StandingList, { props: { given: { id: 1, bpm: 96, students } as unknown as Given } })
const atIt = (count: number) => Array.from({ length: count }, (_, n) => student(`Student ${'x'.repeat(n)}`, 'at it', 60 + n))

describe('how far a class is', () => {
  it('has whoever is stuck first, then who has not begun, and last who is there', () => {
    const told = shown([student('Ada', 'there', 97), student('Ben', 'not begun'), student('Cleopatra', 'at it', 70), student('Da', 'stuck', 60, { words: 'stuck at 60 of 96' })])
    expect(told.findAll('[data-test=student] strong').map((one) => one.text())).toEqual(['Da', 'Ben', 'Cleopatra', 'Ada'])
    expect(told.get('.stuck').text()).toContain('stuck at 60 of 96')
  })

  it('names those who have not begun in one list, with no empty bars', () => {
    const names = shown([student('Ben', 'not begun'), student('Cleo', 'not begun')]).get('.names')
    expect(names.get('ul').attributes('aria-labelledby')).toBe(names.get('[id]').attributes('id'))
    expect(names.get('[id]').attributes('id')).toMatch(/^\S+$/)
    expect(names.findAll('li').map((one) => one.text())).toEqual(['Ben', 'Cleo'])
    expect(names.find('.way').exists()).toBe(false)
  })

  it('says all of a few who are at it, and the tempo of many in half a line', () => {
    const few = shown(atIt(8))
    expect(few.find('.dense').exists()).toBe(false)
    expect(few.get('[data-test=student]').text()).toContain('at 60 of 96')
    expect(few.get('[data-test=student]').text()).toContain('27 min on 3 days')
    const many = shown(atIt(9))
    expect(many.findAll('.dense > li')).toHaveLength(9)
    expect(many.get('[data-test=student]').text()).not.toContain('of 96')
    expect(many.get('[data-test=student]').text()).toContain('27 min, 3 days')
  })

  it('keeps what a kit said of the playing, however many there are', () => {
    const late = student('Cleo', 'at it', 70, { told: ['The left hand is 12 ms late.'] })
    expect(shown([...atIt(9), late]).text()).toContain('The left hand is 12 ms late.')
    expect(shown([late]).text()).toContain('The left hand is 12 ms late.')
  })

  it('draws how much of the tempo is held, and no more than all of it', () => {
    const bars = shown([student('Ben', 'at it', 48), student('Cleo', 'at it', 120)]).findAll('.way i')
    expect(bars.map((one) => one.attributes('style'))).toEqual(['width: 50%;', 'width: 100%;'])
  })

  it('says that somebody began where no tempo was held yet', () => {
    expect(shown([...atIt(9), student('Ben', 'at it', 0, { minutes: 4, days: 1, last: '2030-03-04' })]).text()).toContain('begun')
  })
})
