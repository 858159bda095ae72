/** The voice that counts, over a sound card that is not there: each word's vowel falls on its beat. */
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { Voice } from '@/engine/voice'

class Gain {
  cuts: number[] = []
  isGone = false
  gain = { setTargetAtTime: (_: number, at: number) => void this.cuts.push(at) }
  connect(next: unknown) {
    return next
  }
  disconnect() {
    this.isGone = true
  }
}
class Source {
  began: [number, number] | null = null
  isStopped = false
  out!: Gain
  onended = () => {}
  constructor() {
    said.push(this)
  }
  connect(gain: Gain) {
    this.out = gain
    return gain
  }
  start(at: number, into: number) {
    this.began = [at, into]
  }
  stop() {
    this.isStopped = true
  }
}
const said: Source[] = []
const context = { currentTime: 0, decodeAudioData: async () => ({}) }

beforeEach(() => {
  said.length = 0
  context.currentTime = 0
  vi.stubGlobal('GainNode', Gain)
  vi.stubGlobal('AudioBufferSourceNode', Source)
  const leads = { one: 0.05, two: 0.125 }
  vi.stubGlobal('fetch', async () => ({ json: async () => leads, arrayBuffer: async () => new ArrayBuffer(0) }))
})

const load = () => Voice.load(context as never, new Gain() as never)

describe('a word', () => {
  it('begins so much earlier that its vowel falls on the beat', async () => {
    const voice = await load()
    voice.say('one', 2)
    voice.say('two', 3)
    expect(said.map((one) => one.began)).toEqual([
      [1.95, 0],
      [2.875, 0],
    ])
  })

  it('that is late is begun further on: the vowel stays where it belongs', async () => {
    const voice = await load()
    context.currentTime = 1.9375
    voice.say('two', 2)
    expect(said[0]!.began).toEqual([1.9375, 0.0625])
  })

  it('is cut off by the next one, and by none that was said before', async () => {
    const voice = await load()
    voice.say('one', 1)
    voice.say('two', 1.5)
    expect(said[0]!.out.cuts).toEqual([1.375])
    expect(said[1]!.out.cuts).toEqual([])
  })

  it('that nobody recorded is passed over', async () => {
    const voice = await load()
    voice.say('fourteen', 1)
    expect(said).toEqual([])
  })
})

describe('silence', () => {
  it('takes back what is due and lets be heard what has begun', async () => {
    const voice = await load()
    voice.say('one', 1)
    voice.say('two', 3)
    voice.silence(2)
    expect(said.map((one) => one.isStopped)).toEqual([false, true])
  })

  it('without a moment ends everything', async () => {
    const voice = await load()
    voice.say('one', 1)
    voice.say('two', 3)
    voice.silence()
    expect(said.map((one) => one.isStopped)).toEqual([true, true])
  })

  it('leaves alone what has ended', async () => {
    const voice = await load()
    voice.say('one', 1)
    said[0]!.onended()
    voice.silence()
    expect([said[0]!.isStopped, said[0]!.out.isGone]).toEqual([false, true])
  })
})
