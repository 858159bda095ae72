/** The chart kit over a sound card that is not there: what is taken back does not cut off what rings. */
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { Kit } from '@/engine/kit'

class Param {
  told: [string, number][] = []
  setTargetAtTime(_: number, at: number) {
    this.told.push(['cut', at])
  }
  cancelScheduledValues(from: number) {
    this.told = this.told.filter(([, at]) => at < from)
  }
}
class Gain {
  gain = new Param()
  connect(next: unknown) {
    return next
  }
  disconnect() {}
}
const sources: Source[] = []
class Source {
  at = 0
  isStopped = false
  out!: Gain
  onended = () => {}
  constructor() {
    sources.push(this)
  }
  connect(gain: Gain) {
    this.out = gain
    return gain
  }
  start(at: number) {
    this.at = at
  }
  stop() {
    this.isStopped = true
  }
}

beforeEach(() => {
  sources.length = 0
  vi.stubGlobal('GainNode', Gain)
  vi.stubGlobal('AudioBufferSourceNode', Source)
  const listing = { velocities: { full: 100 }, variants: { hihat_open: 1, hihat_closed: 1 } }
  vi.stubGlobal('fetch', async () => ({ json: async () => listing, arrayBuffer: async () => new ArrayBuffer(0) }))
})

const load = () => Kit.load({ decodeAudioData: async () => ({}) } as never, new Gain() as never)
const cuts = (index: number) => sources[index]!.out.gain.told.map(([, at]) => at)

describe('an open hat', () => {
  it('is cut off by the closed one after it', async () => {
    const kit = await load()
    kit.strike('hihat_open', 100, 1)
    kit.strike('hihat_closed', 100, 1.5)
    expect(cuts(0)).toEqual([1.5])
  })

  it('rings on where the closed one is taken back, and is cut off by the next that comes', async () => {
    const kit = await load()
    kit.strike('hihat_open', 100, 1)
    kit.strike('hihat_closed', 100, 1.5)
    kit.silence(1.2)
    expect(sources[1]!.isStopped).toBe(true)
    expect(cuts(0)).toEqual([])
    kit.strike('hihat_closed', 100, 1.75)
    expect(cuts(0)).toEqual([1.75])
  })

  it('that is half open fades by itself, faster than its recording', async () => {
    const kit = await load()
    kit.strike('hihat_open', 100, 1, true)
    kit.strike('hihat_open', 100, 2)
    expect(cuts(0)[0]).toBeCloseTo(1.04)
    expect(cuts(1)).toEqual([])
  })

  it('that is taken back itself leaves nothing to cut off', async () => {
    const kit = await load()
    kit.strike('hihat_open', 100, 1)
    kit.strike('hihat_closed', 100, 1.5)
    kit.silence(0.5)
    expect(sources.every((one) => one.isStopped)).toBe(true)
    kit.strike('hihat_closed', 100, 2)
    expect(cuts(0)).toEqual([1.5])
  })
})
