/**
 * Where the song is at a moment of the audio clock, and what sounds in a while.
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

const SHORTEST_LOOP = 0.05
const ROUNDING = 1e-6

/** A loop acts only when playing begins before its end. */
function actingLoop(course: Course): Loop | null {
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

/** How many times the loop has come round at a moment of the audio clock; 0 without one. */
export function passAt(course: Course, clock: number): number {
  const loop = actingLoop(course)
  if (!loop) return 0
  const passed = Math.max(0, clock - course.at) * course.rate - (loop.end - course.from)
  return passed < 0 ? 0 : 1 + Math.floor(passed / (loop.end - loop.start) + ROUNDING)
}

/** The moment of the audio clock at which a pass, from 1, begins. */
export function passClock(course: Course, pass: number): number {
  const loop = actingLoop(course)
  if (!loop) return Infinity
  const played = loop.end - course.from + (pass - 1) * (loop.end - loop.start)
  return course.at + played / course.rate
}

/** The first index of a list, in order of time, that is not before `time`. */
function firstFrom(items: readonly { time: number }[], time: number): number {
  let low = 0
  let high = items.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (items[middle]!.time < time) low = middle + 1
    else high = middle
  }
  return low
}

/**
 * Items that sound between two moments, each with its moment on the audio clock.
 *
 * Windows that follow each other hand out every item exactly once: an item is compared with the
 * window in seconds played since the start, which are computed alike on both sides of a seam.
 */
export function dueBetween<T extends { time: number }>(
  items: readonly T[],
  course: Course,
  fromClock: number,
  toClock: number,
): { item: T; clock: number }[] {
  const due: { item: T; clock: number }[] = []
  const from = Math.max(0, (fromClock - course.at) * course.rate)
  const to = (toClock - course.at) * course.rate
  const loop = actingLoop(course)
  const lead = loop ? loop.end - course.from : Infinity
  const length = loop ? loop.end - loop.start : Infinity
  let pass = from < lead ? 0 : Math.max(0, Math.floor((from - lead) / length))
  for (; ; pass++) {
    const played = pass === 0 ? 0 : lead + (pass - 1) * length
    if (played >= to) return due
    const start = pass === 0 ? course.from : loop!.start
    const end = loop ? loop.end : Infinity
    const earliest = Math.max(start, start + from - played - ROUNDING)
    for (let index = firstFrom(items, earliest); index < items.length; index++) {
      const item = items[index]!
      const at = played + item.time - start
      if (item.time >= end || at >= to) break
      if (at >= from) due.push({ item, clock: course.at + at / course.rate })
    }
    if (!loop) return due
  }
}

/** Whether the bar that is played at a moment is one without the click: counted from where playing began. */
export function barIsSilent(
  course: Course,
  clock: number,
  rule: { play: number; rest: number; barLength: number },
): boolean {
  const bar = Math.floor(((clock - course.at) * course.rate) / rule.barLength + ROUNDING)
  return bar % (rule.play + rule.rest) >= rule.play
}

/** Moments of a count-in, before playing begins: seconds before it, and the downbeats. */
export function countIn(
  barLength: number,
  beats: number,
  rate: number,
  bars = 1,
): { before: number; strength: number }[] {
  const beat = barLength / beats / rate
  return Array.from({ length: beats * bars }, (_, index) => ({
    before: beat * (beats * bars - index),
    strength: index % beats === 0 ? 2 : 1,
  }))
}
