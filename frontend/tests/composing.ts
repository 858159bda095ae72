/** Composed bars for the front end's tests. */
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, vi } from 'vitest'
import { defineComponent } from 'vue'
import type { Bar, Hit, Instrument, Score } from '@/api/client'

const WORDS = ['', 'e', '&', 'a']

export function hit(position: string, instrument: Instrument, change: Partial<Hit> = {}): Hit {
  return {
    time: 1,
    instrument,
    velocity: 84,
    ghost: false,
    accent: false,
    confidence: 0.8,
    status: 'heard',
    bar: 1,
    position,
    limb: instrument === 'kick' ? 'RF' : instrument === 'snare' ? 'LH' : 'RH',
    reason: '',
    ...change,
  }
}

export function bar(number: number, hits: Hit[] = []): Bar {
  const start = (number - 1) * 2
  return {
    number,
    start,
    end: start + 2,
    meter: [4, 4],
    beats: [start, start + 0.5, start + 1, start + 1.5],
    divisions: [4, 4, 4, 4],
    cells: Array.from({ length: 16 }, (_, index) => ({
      position: index === 0 ? '0' : reduced(index),
      word: index % 4 === 0 ? String(index / 4 + 1) : WORDS[index % 4]!,
      time: start + index * 0.125,
    })),
    hits: hits.map((item) => ({ ...item, bar: number })),
    revision: 0,
  }
}

function reduced(of16: number): string {
  let top = of16
  let bottom = 16
  while (top % 2 === 0) {
    top /= 2
    bottom /= 2
  }
  return `${top}/${bottom}`
}

export function score(bars: Bar[]): Score {
  return {
    revision: 1,
    duration: bars.length * 2,
    tempo_bpm: 120,
    meter: [4, 4],
    feel: 'straight',
    findings: [],
    sections: [],
    fills: [],
    parts: [],
    parts_coming: false,
    listening: {
      confirmed: [],
      tempo: { median: 120, slowest: 120, fastest: 120, click: true, words: 'Steady at 120.', curve: [[0, 120]] },
      feel: {
        words: 'Straight eighths.',
        subdivision: 'eighths',
        swing_8: null,
        swing_16: null,
        half_time: false,
        sections: [],
        lines: [],
      },
      beat_notation: null,
      readings: [],
    },
    bars,
    loudness: [],
    can_undo: false,
    can_redo: false,
    heard_again: false,
  }
}

/** What of a song is one's own. */
export const MINE = { parts: [], parts_coming: false, can_undo: false, can_redo: false, heard_again: false }

/** A server's answer. */
export function answer(body: unknown, status = 200): Response {
  return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
}

/** Each test begins with nothing stored, a clock that can be put on, and the real server of nobody. */
export function withOwnClockAndStore(): void {
  beforeEach(() => {
    localStorage.clear()
    vi.useFakeTimers({ shouldAdvanceTime: true })
  })
  afterEach(() => {
    leave()
    leaving = () => {}
    vi.unstubAllGlobals()
    vi.useRealTimers()
  })
}

let leaving = () => {}
/** Leave the page of what is `used`. */
export const leave = () => leaving()

/** Use something as a page would, until the page is left or the test ends. */
export function used<T>(what: () => T): T {
  let made: T
  const queryClient = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const page = mount(
    defineComponent({
      setup: () => {
        made = what()
        return () => null
      },
    }),
    { global: { plugins: [[VueQueryPlugin, { queryClient }]] } },
  )
  leaving = () => page.unmount()
  return made!
}
