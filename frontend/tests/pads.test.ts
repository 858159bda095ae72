/** Pads: what is struck, on which drum, by which limb and when; and what of it is compared. */
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

const { post } = vi.hoisted(() => ({ post: vi.fn() }))
vi.mock('@/api/client', async (original) => ({
  ...(await original<object>()),
  api: { POST: post },
  taken: async (answer: Promise<unknown>) => answer,
}))

import { MIDI_KEYS } from '@/api/vocabulary'
import { type PadSource, usePads } from '@/stages/practice/usePads'

/** A bar of two seconds at full tempo: the chart asks for a kick at its beginning. */
const BAR = 2

function padding(source: PadSource, share = 1) {
  const passes = ref(0)
  const player = {
    isPlaying: ref(false),
    position: ref(0),
    passes: () => passes.value,
    heardAt: (moment: number) => (player.isPlaying.value ? moment / 1000 : null),
    pause: vi.fn(),
  }
  const wanted = (count: number) =>
    Array.from({ length: count }, (_, turn) => ({ time: (turn * BAR) / share, instrument: 'kick', velocity: 90 }))
  const run = { range: ref({ start: 0, end: BAR }), share: ref(share), wanted }
  const scope = effectScope()
  const pads = scope.run(() => usePads(run as never, player as never, 'song'))!
  pads.source.value = source
  async function played(count: number, into = 0.5): Promise<void> {
    passes.value = count
    player.position.value = into + count * 1e-6
    await nextTick()
    await nextTick()
  }
  async function begin(): Promise<void> {
    player.isPlaying.value = true
    await nextTick()
  }
  return { pads, player, played, begin, scope }
}

function press(code: string, moment: number, extra: KeyboardEventInit & { from?: Element } = {}): boolean {
  const { from, ...more } = extra
  const event = new KeyboardEvent('keydown', { code, bubbles: true, cancelable: true, ...more })
  Object.defineProperty(event, 'timeStamp', { value: moment })
  return !(from ?? window).dispatchEvent(event)
}

const struck = (call = 0) => post.mock.calls[call]![1].body.struck as { time: number; instrument: string; limb: string }[]

beforeEach(() => {
  localStorage.clear()
  post.mockReset().mockResolvedValue({ voices: [], struck: [] })
})

describe('computer keys as pads', () => {
  it('strike the drum and limb of their place at the moment that is heard', async () => {
    const { begin, played, scope } = padding('keys')
    await begin()
    expect(press('KeyB', 10)).toBe(true)
    press('KeyD', 1000)
    await played(4)
    expect(struck().map((one) => [one.time, one.instrument, one.limb])).toEqual([
      [0.01, 'kick', 'RF'],
      [1, 'snare', 'LH'],
    ])
    scope.stop()
  })

  it.each([
    ['with another key held', { ctrlKey: true }],
    ['held down', { repeat: true }],
  ])('are no strokes %s', async (_, extra) => {
    const { begin, played, scope } = padding('keys')
    await begin()
    expect(press('KeyB', 10, extra)).toBe(false)
    await played(4)
    expect(struck()).toEqual([])
    scope.stop()
  })

  it('write letters in a field, and strike nothing', async () => {
    const field = document.body.appendChild(document.createElement('input'))
    const { begin, played, scope } = padding('keys')
    await begin()
    expect(press('KeyB', 10, { from: field })).toBe(false)
    await played(4)
    expect(struck()).toEqual([])
    field.remove()
    scope.stop()
  })

  it('are left to the page where no pads are wanted', async () => {
    const { begin, played, scope } = padding('none')
    await begin()
    expect(press('KeyB', 10)).toBe(false)
    await played(4)
    expect(post).not.toHaveBeenCalled()
    scope.stop()
  })
})

describe('passes', () => {
  it('are compared four at a time, once what is late has arrived', async () => {
    const { begin, played, scope } = padding('keys')
    await begin()
    await played(3)
    await played(4, 0.1)
    expect(post).not.toHaveBeenCalled()
    await played(4, 0.3)
    await played(7)
    expect(post).toHaveBeenCalledTimes(1)
    await played(8)
    expect(post).toHaveBeenCalledTimes(2)
    scope.stop()
  })

  it('are compared with their own strokes and notes alone, however slow they are', async () => {
    const { begin, played, scope } = padding('keys', 0.5)
    await begin()
    for (let turn = 0; turn < 8; turn++) press('KeyB', 4000 * turn + 5)
    await played(4)
    await played(8)
    expect(struck(0).map((one) => one.time)).toEqual([0.005, 4.005, 8.005, 12.005])
    expect(struck(1).map((one) => one.time)).toEqual([16.005, 20.005, 24.005, 28.005])
    expect(post.mock.calls[1]![1].body.wanted.map((one: { time: number }) => one.time)).toEqual([16, 20, 24, 28])
    scope.stop()
  })

  it('count a stroke that came early to the one it was meant for', async () => {
    const { begin, played, scope } = padding('keys')
    await begin()
    press('KeyB', 8000 - 50)
    await played(4)
    await played(8)
    expect(struck(0)).toEqual([])
    expect(struck(1)).toHaveLength(1)
    scope.stop()
  })

  it('have what a kit is late by taken off', async () => {
    localStorage.setItem('orchesis.latency', JSON.stringify({ keys: 40 }))
    const { begin, played, scope } = padding('keys')
    await begin()
    press('KeyB', 2040)
    await played(4)
    expect(struck()[0]!.time).toBeCloseTo(2)
    scope.stop()
  })

  it('begin anew when playing begins', async () => {
    const { begin, played, player, scope } = padding('keys')
    await begin()
    press('KeyB', 10)
    player.isPlaying.value = false
    await nextTick()
    await begin()
    await played(4)
    expect(struck()).toEqual([])
    scope.stop()
  })

  it('say so when the comparison fails', async () => {
    const { begin, played, pads, scope } = padding('keys')
    post.mockRejectedValueOnce(new Error('no connection'))
    await begin()
    await played(4)
    await vi.waitFor(() => expect(pads.problem.value).not.toBe(''))
    expect(pads.comparison.value).toBeNull()
    scope.stop()
  })
})

describe('a player that stands in', () => {
  it('is asked for his strokes, and nothing is taken off them', async () => {
    localStorage.setItem('orchesis.latency', JSON.stringify({ 'stand-in': 40 }))
    post.mockResolvedValueOnce({ struck: [{ time: 0.02, instrument: 'kick', velocity: 90, limb: 'RF' }] })
    const { begin, played, scope } = padding('stand-in')
    await begin()
    await vi.waitFor(() => expect(post).toHaveBeenCalledTimes(1))
    expect(post.mock.calls[0]![0]).toContain('stand-in')
    await nextTick()
    await played(4)
    expect(struck(1)[0]!.time).toBe(0.02)
    scope.stop()
  })
})

describe('an electronic kit', () => {
  const inputs = new Map<string, { name: string; onmidimessage: ((event: unknown) => void) | null }>()
  const hit = (data: number[], moment: number) =>
    inputs.get('pad')!.onmidimessage!({ data: new Uint8Array(data), timeStamp: moment })
  const snare = Number(Object.entries(MIDI_KEYS).find(([, drum]) => drum === 'snare')![0])

  beforeEach(() => {
    inputs.clear()
    vi.stubGlobal('navigator', { requestMIDIAccess: async () => ({ inputs, onstatechange: null }) })
  })

  it('is named, and strikes by its notes on any channel', async () => {
    inputs.set('pad', { name: 'Practice pad', onmidimessage: null })
    const { pads, begin, played, scope } = padding('midi')
    await vi.waitFor(() => expect(pads.kits.value).toEqual(['Practice pad']))
    await begin()
    hit([0x99, snare, 70], 500)
    hit([0x90, snare, 30], 700)
    hit([0x99, snare, 0], 900)
    hit([0x89, snare, 64], 950)
    await played(4)
    expect(struck()).toEqual([
      { time: 0.5, instrument: 'snare', velocity: 70, limb: null },
      { time: 0.7, instrument: 'snare', velocity: 30, limb: null },
    ])
    scope.stop()
    expect(inputs.get('pad')!.onmidimessage).toBeNull()
  })

  it('that is not there is asked for in words', async () => {
    const { pads, scope } = padding('midi')
    await vi.waitFor(() => expect(pads.problem.value).toContain('switch it on'))
    scope.stop()
  })

  it('that the browser may not listen to is told apart from none', async () => {
    vi.stubGlobal('navigator', { requestMIDIAccess: () => Promise.reject(new Error('denied')) })
    const { pads, scope } = padding('midi')
    await vi.waitFor(() => expect(pads.problem.value).toContain('allow'))
    scope.stop()
  })

  it('is beyond a browser without MIDI, which says so', async () => {
    vi.stubGlobal('navigator', {})
    const { pads, scope } = padding('midi')
    await vi.waitFor(() => expect(pads.problem.value).toContain('cannot'))
    scope.stop()
  })
})
