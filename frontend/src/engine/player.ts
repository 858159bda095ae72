/**
 * One song's sound: the record at any speed and constant pitch, the chart on a kit, the click.
 *
 * The audio clock rules: a course (see timeline.ts) says where the song is at each moment, the
 * stretcher is told once per change, and strokes and clicks are handed to the audio thread two
 * seconds ahead: a page that is busy or out of sight for less than that is late with none of them.
 */
import type { StretchNode } from 'signalsmith-stretch'
import stretchUrl from 'signalsmith-stretch?url'
import type { Instrument } from '@/api/client'
import { Kit } from './kit'
import type { Focus } from './focus'
import { Voice } from './voice'
import { barIsSilent, countIn, type Course, dueBetween, type Loop, passAt, passClock, songTimeAt } from './timeline'

/** A tenth of a megabyte that nobody needs before something is played. */
async function loadStretcher() {
  const { default: stretcher } = await import('signalsmith-stretch')
  // The security policy forbids scripts from blobs, so the stretcher loads from its own file.
  stretcher.moduleUrl = stretchUrl
  return stretcher
}

/** Load what stretches, and say where its other half is: for a page that wants to have all of it. */
export async function stretcherAddress(): Promise<string> {
  await loadStretcher()
  return stretchUrl
}

export type RecordPart = 'drums-forward' | 'drums-down' | 'bass-forward'
/** A second recording of the song, lined up with it. */
export type OtherSource = `source:${number}`
/** `turns`: the record and the chart in turn, a pass of the loop each. `only`: one drum of the record. */
export type Hearing = 'record' | RecordPart | OtherSource | 'kit' | 'sides' | 'turns' | 'only'

const PARTS: readonly string[] = ['drums-forward', 'drums-down', 'bass-forward']

/** Where the sound for this way of hearing is, below the song's address. */
export function soundPath(what: Hearing): string {
  if (PARTS.includes(what)) return `audio/${what}`
  // One drum stands out best where the band is far behind already.
  if (what === 'only') return 'audio/drums-forward'
  const source = /^source:(\d+)$/.exec(what)
  return source ? `sources/${source[1]}/audio` : 'audio'
}

export interface Stroke {
  time: number
  instrument: Instrument
  velocity: number
  /** How far behind its place it sits, in seconds of the song; slowed down it grows no further than `FARTHEST_LATE`. */
  late?: number
  /** A hat that is half open. */
  half?: boolean
  /** Only in every other pass of the loop. */
  everyOther?: boolean
}
export interface Word {
  time: number
  sample: string
}
/** Bars with the click and bars without, in turn: to hear whether one keeps the tempo. */
export interface Silence {
  play: number
  rest: number
  /** Of the song at its own speed, in seconds. */
  barLength: number
}
/** How loud what is, 0 to 1: instead of what `hear` says. */
export interface Balance {
  record: number
  kit: number
}
export interface ClickPoint {
  time: number
  strength: number
}
export interface CountedBar {
  length: number
  beats: number
  /** One where nothing is said. */
  bars?: number
}

const AHEAD_SECONDS = 2
const TICK_MS = 50
/** The stretcher needs this long to be at full strength when a change comes. */
const START_SECONDS = 0.12
const RECORD_LEVEL = 0.7
const KIT_LEVEL = 0.6
/** Between its moments one drum's band is nearly, not quite, silent: one hears where one is. */
const GATE_FLOOR = 0.03
const GATE_GAIN = 1.6
/** Later than this nothing is felt as pocket, at whatever speed: seconds. */
const FARTHEST_LATE = 0.03
/** A change of what is played is heard so soon. */
const CHANGE_SECONDS = 0.015
const VOICE_LEVEL = 0.6
const CLICK_HZ = [1046, 1319, 1760]
const CLICK_LEVEL = [0.25, 0.4, 0.55]

export class Player {
  private readonly context: AudioContext
  private readonly master: GainNode
  private readonly recordSide: StereoPannerNode
  private readonly recordGain: GainNode
  /** Only this drum: its band, and its moments. */
  private readonly band: BiquadFilterNode
  private readonly gate: GainNode
  private readonly kitSide: StereoPannerNode
  private readonly kitGain: GainNode
  private readonly analyser: AnalyserNode
  private readonly meter: Float32Array<ArrayBuffer>
  private stretch: StretchNode | null = null
  private kit: Kit | null = null
  private course: Course | null = null
  private rest = 0
  private planned = 0
  private timer: ReturnType<typeof setInterval> | undefined
  private clickNodes = new Map<OscillatorNode, number>()
  private voice: Voice | null = null
  private readonly voiceGain: GainNode

  private hearing: Hearing = 'record'
  private focus: Focus | null = null
  strokes: readonly Stroke[] = []
  clicks: readonly ClickPoint[] = []
  words: readonly Word[] = []
  silence: Silence | null = null
  balance: Balance | null = null
  loop: Loop | null = null
  rate = 1
  duration = 0
  onEnd: () => void = () => {}

  constructor() {
    this.context = new AudioContext({ latencyHint: 'interactive' })
    this.master = new GainNode(this.context)
    this.analyser = new AnalyserNode(this.context, { fftSize: 2048 })
    this.meter = new Float32Array(this.analyser.fftSize)
    this.master.connect(this.analyser).connect(this.context.destination)
    this.recordSide = new StereoPannerNode(this.context)
    this.recordGain = new GainNode(this.context, { gain: RECORD_LEVEL })
    this.recordGain.connect(this.recordSide).connect(this.master)
    this.band = new BiquadFilterNode(this.context, { type: 'allpass' })
    this.gate = new GainNode(this.context, { gain: 1 })
    this.band.connect(this.gate).connect(this.recordGain)
    this.kitSide = new StereoPannerNode(this.context)
    this.kitGain = new GainNode(this.context, { gain: 0 })
    this.kitGain.connect(this.kitSide).connect(this.master)
    this.voiceGain = new GainNode(this.context, { gain: VOICE_LEVEL })
    this.voiceGain.connect(this.master)
  }

  private async decoded(url: string): Promise<AudioBuffer> {
    const answer = await fetch(url)
    if (!answer.ok) throw new Error('The recording could not be fetched.')
    return this.context.decodeAudioData(await answer.arrayBuffer())
  }

  /** Play another version of the same record, from the same place on. */
  async exchange(url: string): Promise<void> {
    const buffer = await this.decoded(url)
    if (!this.stretch) return
    await this.stretch.dropBuffers()
    await this.fill(buffer)
    if (this.course) this.seek(this.position)
  }

  private async fill(buffer: AudioBuffer): Promise<void> {
    const channels = Array.from({ length: buffer.numberOfChannels }, (_, index) =>
      buffer.getChannelData(index).slice(),
    )
    await this.stretch!.addBuffers(channels.length === 1 ? [channels[0]!, channels[0]!.slice()] : channels)
  }

  /** `audioUrl` null: there is no record, and the song is as long as is said. */
  async load(audioUrl: string | null, seconds = 0): Promise<void> {
    const [buffer, kit, makeStretch] = await Promise.all([
      audioUrl === null ? null : this.decoded(audioUrl),
      Kit.load(this.context, this.kitGain),
      loadStretcher(),
    ])
    this.kit = kit
    this.duration = buffer?.duration ?? seconds
    // Without an input of its own the node stays silent in a live context.
    this.stretch = await makeStretch(this.context, {
      numberOfInputs: 1,
      numberOfOutputs: 1,
      outputChannelCount: [2],
    })
    if (buffer) await this.fill(buffer)
    this.stretch.connect(this.band)
  }

  get isPlaying(): boolean {
    return this.course !== null
  }

  /** What one hears now: the audio that leaves the loudspeaker, not the one just computed. */
  get position(): number {
    if (!this.course) return this.rest
    const latency = this.context.outputLatency || this.context.baseLatency || 0
    return Math.min(songTimeAt(this.course, this.context.currentTime - latency), this.duration)
  }

  /** Root mean square of what is sounding, 0 to about 1. */
  get level(): number {
    this.analyser.getFloatTimeDomainData(this.meter)
    let sum = 0
    for (const value of this.meter) sum += value * value
    return Math.sqrt(sum / this.meter.length)
  }

  /** One drum of the record: its band is let through, at its moments; null lets all through. */
  only(focus: Focus | null): void {
    this.focus = focus
    const now = this.context.currentTime
    this.band.type = focus ? 'bandpass' : 'allpass'
    if (focus) {
      this.band.frequency.setValueAtTime(Math.sqrt(focus.low * focus.high), now)
      this.band.Q.setValueAtTime(Math.sqrt(focus.low * focus.high) / (focus.high - focus.low), now)
    }
    this.restGate()
    if (this.course) this.openFor(this.course, now, this.planned)
  }

  private restGate(): void {
    const now = this.context.currentTime
    this.gate.gain.cancelScheduledValues(now)
    this.gate.gain.setTargetAtTime(this.focus ? GATE_FLOOR : 1, now, 0.01)
  }

  hear(what: Hearing): void {
    this.hearing = what
    const now = this.context.currentTime
    const set = (param: AudioParam, value: number) => {
      param.cancelScheduledValues(now)
      param.setTargetAtTime(value, now, 0.015)
    }
    const turn = this.course ? passAt(this.course, now) % 2 : 0
    if (this.balance) {
      set(this.recordGain.gain, RECORD_LEVEL * this.balance.record)
      set(this.kitGain.gain, KIT_LEVEL * this.balance.kit)
      set(this.recordSide.pan, 0)
      set(this.kitSide.pan, 0)
      return
    }
    const isKit = what === 'kit' || (what === 'turns' && turn === 1)
    set(this.recordGain.gain, isKit ? 0 : RECORD_LEVEL)
    set(this.kitGain.gain, isKit || what === 'sides' ? KIT_LEVEL : 0)
    set(this.recordSide.pan, what === 'sides' ? -1 : 0)
    set(this.kitSide.pan, what === 'sides' ? 1 : 0)
    // Turns that were planned for these knobs went with what was set before.
    if (this.course) this.takeTurns(this.course, now, this.planned)
  }

  /** Begin at `from`; with a bar to count, its beats sound before. */
  async play(from: number, counted: CountedBar | null = null): Promise<void> {
    await this.context.resume()
    let begin = this.context.currentTime + START_SECONDS
    if (counted) {
      const points = countIn(counted.length, counted.beats, this.rate, counted.bars)
      const lead = points[0]?.before ?? 0
      begin += lead
      for (const point of points) this.click(point.strength, begin - point.before)
    }
    this.begin(from, begin)
    clearInterval(this.timer)
    this.timer = setInterval(() => this.tick(), TICK_MS)
    this.tick()
  }

  pause(): void {
    this.rest = this.position
    this.halt()
  }

  seek(to: number): void {
    const place = Math.min(Math.max(0, to), this.duration)
    if (this.course) {
      this.quiet()
      this.begin(place, this.context.currentTime + START_SECONDS)
    } else this.rest = place
  }

  /** Take a new speed or loop into account while playing. */
  adjust(change: { rate?: number; loop?: Loop | null }): void {
    const place = this.position
    if (change.rate !== undefined) this.rate = change.rate
    if (change.loop !== undefined) this.loop = change.loop
    if (!this.course) return
    const outside = this.loop && (place < this.loop.start || place >= this.loop.end)
    this.quiet()
    this.begin(outside ? this.loop!.start : place, this.context.currentTime + START_SECONDS)
  }

  async close(): Promise<void> {
    this.halt()
    await this.context.close()
  }

  private begin(from: number, at: number): void {
    this.course = { at, from, rate: this.rate, loop: this.loop }
    this.planned = at
    this.hear(this.hearing)
    const loops = this.loop && from < this.loop.end
    void this.stretch?.schedule({
      output: at,
      // What nobody hears is not stretched: on a telephone that is most of the work.
      active: this.balance?.record !== 0,
      input: from,
      rate: this.rate,
      semitones: 0,
      loopStart: loops ? this.loop!.start : 0,
      loopEnd: loops ? this.loop!.end : 0,
    })
  }

  private tick(): void {
    if (!this.course) return
    const until = this.context.currentTime + AHEAD_SECONDS
    if (until > this.planned) {
      for (const { item, clock } of dueBetween(this.strokes, this.course, this.planned, until))
        if (!item.everyOther || passAt(this.course, clock) % 2 === 1) this.strike(item, clock)
      for (const { item, clock } of dueBetween(this.clicks, this.course, this.planned, until))
        if (!this.silence || !barIsSilent(this.course, clock, this.silence)) this.click(item.strength, clock)
      for (const { item, clock } of dueBetween(this.words, this.course, this.planned, until)) this.voice?.say(item.sample, clock)
      this.openFor(this.course, this.planned, until)
      this.takeTurns(this.course, this.planned, until)
      this.planned = until
    }
    if (songTimeAt(this.course, this.context.currentTime) >= this.duration) {
      this.halt()
      this.rest = 0
      this.onEnd()
    }
  }

  private strike(item: Stroke, clock: number): void {
    const late = Math.max(-FARTHEST_LATE, Math.min(FARTHEST_LATE, (item.late ?? 0) / this.rate))
    this.kit?.strike(item.instrument, item.velocity, Math.max(this.context.currentTime, clock + late), item.half)
  }

  /** Take what is to be played now into account at once: what was due by the old wish is dropped. */
  replan(): void {
    if (!this.course) return
    const from = this.context.currentTime + CHANGE_SECONDS
    // Before the first note nothing of the course is due yet; the count-in goes on.
    if (from <= this.course.at) return
    this.kit?.silence(from)
    this.voice?.silence(from)
    for (const [tone, begins] of this.clickNodes)
      if (begins >= from) {
        tone.stop()
        this.clickNodes.delete(tone)
      }
    this.planned = Math.max(this.course.at, from)
    this.tick()
  }

  /** Load the voice that counts, once. */
  async speak(): Promise<void> {
    this.voice ??= await Voice.load(this.context, this.voiceGain)
  }

  /** Seconds played, as heard at a moment of the page's clock (`performance.now()`); null while nothing plays. */
  heardAt(moment: number): number | null {
    return this.course && this.clockAt(moment) - this.course.at
  }

  /** The place in the song that is heard at a moment of the page's clock; where it rests while nothing plays. */
  placeAt(moment: number): number {
    return this.course ? Math.min(songTimeAt(this.course, this.clockAt(moment)), this.duration) : this.rest
  }

  /** The audio clock of what leaves the loudspeaker at a moment of the page's clock. */
  private clockAt(moment: number): number {
    const { contextTime, performanceTime } = this.context.getOutputTimestamp()
    return contextTime !== undefined && performanceTime
      ? contextTime + (moment - performanceTime) / 1000
      : this.context.currentTime - (this.context.outputLatency || 0) + (moment - performance.now()) / 1000
  }

  /** Passes of the loop that have been played to their end. */
  get passes(): number {
    return this.course ? passAt(this.course, this.context.currentTime) : 0
  }

  private openFor(course: Course, from: number, to: number): void {
    for (const { item, clock } of dueBetween(this.focus?.moments ?? [], course, from, to)) this.open(item.seconds, clock)
  }

  private open(seconds: number, clock: number): void {
    const { gain } = this.gate
    gain.setTargetAtTime(GATE_GAIN, Math.max(this.context.currentTime, clock - 0.015), 0.004)
    gain.setTargetAtTime(GATE_FLOOR, clock + seconds / this.rate, 0.05)
  }

  /** With each pass of the loop the record and the chart change places. */
  private takeTurns(course: Course, from: number, to: number): void {
    if (this.hearing !== 'turns') return
    for (let pass = passAt(course, from) + 1; pass <= passAt(course, to); pass++) {
      const clock = passClock(course, pass)
      const isKit = pass % 2 === 1
      this.recordGain.gain.setTargetAtTime(isKit ? 0 : RECORD_LEVEL, clock, 0.008)
      this.kitGain.gain.setTargetAtTime(isKit ? KIT_LEVEL : 0, clock, 0.004)
    }
  }

  private click(strength: number, clock: number): void {
    const tone = new OscillatorNode(this.context, { frequency: CLICK_HZ[strength] ?? 1046 })
    const gain = new GainNode(this.context, { gain: 0 })
    gain.gain.setValueAtTime(0, clock)
    gain.gain.linearRampToValueAtTime(CLICK_LEVEL[strength] ?? 0.3, clock + 0.001)
    gain.gain.exponentialRampToValueAtTime(0.001, clock + 0.05)
    tone.connect(gain).connect(this.master)
    tone.start(clock)
    tone.stop(clock + 0.06)
    this.clickNodes.set(tone, clock)
    tone.onended = () => this.clickNodes.delete(tone)
  }

  private quiet(): void {
    this.kit?.silence()
    this.voice?.silence()
    this.restGate()
    this.hear(this.hearing)
    for (const tone of this.clickNodes.keys()) tone.stop()
    this.clickNodes.clear()
  }

  private halt(): void {
    clearInterval(this.timer)
    this.course = null
    this.quiet()
    void this.stretch?.schedule({ output: this.context.currentTime, active: false })
  }
}
