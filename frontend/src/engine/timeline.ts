/**
 * Where the song is at a moment of the audio clock, and which stretch of it a while covers.
 *
 * Pure arithmetic: the playhead, the click, the chart kit and the tests all use it.
 * Times are seconds; `rate` 0.5 is half speed.
 */
export interface Loop {
  start: number
  end: number
}

/** Playing began at `at` on the audio clock, from `from` in the song. */
export interface Course {
  at: number
  from: number
  rate: number
  loop: Loop | null
}

/** A stretch of the song that sounds from `clock` on. */
export interface Stretch {
  start: number
  end: number
  clock: number
}

const SHORTEST_LOOP = 0.05

/** A loop acts only when playing begins before its end. */
export function actingLoop(course: Course): Loop | null {
  const { loop, from } = course
  return loop && loop.end - loop.start > SHORTEST_LOOP && from < loop.end ? loop : null
}

/** The place in the song at a moment of the audio clock; before the start it waits at `from`. */
export function songTimeAt(course: Course, clock: number): number {
  const passed = Math.max(0, clock - course.at) * course.rate
  const loop = actingLoop(course)
  const straight = course.from + passed
  if (!loop || straight < loop.end) return straight
  return loop.start + ((straight - loop.end) % (loop.end - loop.start))
}

/** The stretches of the song that sound between two moments of the audio clock. */
export function stretchesBetween(course: Course, fromClock: number, toClock: number): Stretch[] {
  const stretches: Stretch[] = []
  const loop = actingLoop(course)
  let clock = Math.max(fromClock, course.at)
  while (clock < toClock - 1e-9) {
    const start = songTimeAt(course, clock)
    const left = (toClock - clock) * course.rate
    const end = loop && start < loop.end ? Math.min(start + left, loop.end) : start + left
    stretches.push({ start, end, clock })
    // A wrap may be closer than rounding can tell: always move on.
    clock += Math.max((end - start) / course.rate, 1e-6)
  }
  return stretches
}

/** The first index of a list, in order of time, that is not before `time`. */
export function firstFrom(items: readonly { time: number }[], time: number): number {
  let low = 0
  let high = items.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (items[middle]!.time < time) low = middle + 1
    else high = middle
  }
  return low
}

/** Items that sound between two moments, each with its moment on the audio clock. */
export function dueBetween<T extends { time: number }>(
  items: readonly T[],
  course: Course,
  fromClock: number,
  toClock: number,
): { item: T; clock: number }[] {
  const due: { item: T; clock: number }[] = []
  for (const stretch of stretchesBetween(course, fromClock, toClock)) {
    for (let index = firstFrom(items, stretch.start); index < items.length; index++) {
      const item = items[index]!
      if (item.time >= stretch.end) break
      due.push({ item, clock: stretch.clock + (item.time - stretch.start) / course.rate })
    }
  }
  return due
}

/** Moments of a count-in of one bar, before playing begins: seconds before it, and the downbeat. */
export function countIn(barLength: number, beats: number, rate: number): { before: number; strength: number }[] {
  const beat = barLength / beats / rate
  return Array.from({ length: beats }, (_, index) => ({
    before: beat * (beats - index),
    strength: index === 0 ? 2 : 1,
  }))
}
