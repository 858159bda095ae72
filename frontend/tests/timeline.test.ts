import { describe, expect, it } from 'vitest'
import { countIn, type Course, dueBetween, songTimeAt } from '@/engine/timeline'

const straight: Course = { at: 10, from: 2, rate: 1, loop: null }
const looped: Course = { at: 10, from: 4, rate: 0.5, loop: { start: 4, end: 6 } }
const beats = Array.from({ length: 40 }, (_, index) => ({ time: index * 0.5 }))

describe('where the song is', () => {
  it('waits at its start until playing begins', () => {
    expect(songTimeAt(straight, 9)).toBe(2)
    expect(songTimeAt(straight, 11.5)).toBe(3.5)
  })

  it('goes at half the pace at half speed', () => {
    expect(songTimeAt({ ...straight, rate: 0.5 }, 14)).toBe(4)
  })

  it('comes round in a loop, however often', () => {
    expect(songTimeAt(looped, 13.9)).toBeCloseTo(5.95)
    expect(songTimeAt(looped, 14)).toBeCloseTo(4)
    expect(songTimeAt(looped, 10 + 4 * 100 + 1)).toBeCloseTo(4.5)
  })

  it('runs into a loop that lies ahead, and past one that lies behind', () => {
    const ahead = { ...looped, from: 2, rate: 1 }
    expect(songTimeAt(ahead, 11)).toBe(3)
    expect(songTimeAt(ahead, 14.5)).toBeCloseTo(4.5)
    const behind = { ...looped, from: 7, rate: 1 }
    expect(songTimeAt(behind, 20)).toBe(17)
  })
})

describe('what sounds in a while', () => {
  it('hands out each beat of a loop exactly once a pass, in many small windows', () => {
    const handed: number[] = []
    for (let clock = 10; clock < 25.92; clock += 0.05) {
      handed.push(...dueBetween(beats, looped, clock, clock + 0.05).map(({ item }) => item.time))
    }
    expect(handed).toEqual([...Array(4)].flatMap(() => [4, 4.5, 5, 5.5]))
  })

  it('places them on the audio clock by the speed', () => {
    const [first, second] = dueBetween(beats, looped, 10, 11.5)
    expect(first?.clock).toBeCloseTo(10)
    expect(second?.clock).toBeCloseTo(11)
  })

  it('has nothing before playing begins', () => {
    expect(dueBetween(beats, straight, 5, 10)).toEqual([])
  })

  it('hands out what lies before a loop once, and then the loop', () => {
    const ahead = { ...looped, from: 3, rate: 1 }
    const times = dueBetween(beats, ahead, 10, 15).map(({ item }) => item.time)
    expect(times).toEqual([3, 3.5, 4, 4.5, 5, 5.5, 4, 4.5, 5, 5.5])
  })

  it('takes a loop too short to be one as none', () => {
    const short = { ...looped, rate: 1, loop: { start: 4, end: 4.01 } }
    expect(dueBetween(beats, short, 10, 11)).toHaveLength(2)
  })
})

describe('the count-in', () => {
  it('is one bar at the speed that is played, the one first', () => {
    expect(countIn(2, 4, 0.5)).toEqual([
      { before: 4, strength: 2 },
      { before: 3, strength: 1 },
      { before: 2, strength: 1 },
      { before: 1, strength: 1 },
    ])
  })
})
