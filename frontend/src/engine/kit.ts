/** The sampled kit that plays a chart. Its sounds ship with the application. */
import type { Instrument } from '@/api/client'

interface Listing {
  /** The velocity at which each layer was struck. */
  velocities: Record<string, number>
  /** How many recordings of each layer there are: a row of strokes takes them in turn. */
  variants: Record<string, number>
}

const FOLDER = `${import.meta.env.BASE_URL}kit`
const CHOKED_BY: Partial<Record<Instrument, Instrument[]>> = {
  hihat_open: ['hihat_closed', 'hihat_foot', 'hihat_open'],
  hihat_splash: ['hihat_closed', 'hihat_foot'],
}
const CHOKE_SECONDS = 0.03
/** A hat that is half open: when it begins to fade faster than the recording, and how fast. */
const HALF_FROM_SECONDS = 0.04
const HALF_SECONDS = 0.11
/** Loudness follows velocity as on most kits: half the velocity is about 10 dB softer. */
const LOUDNESS_POWER = 1.6

interface Ringing {
  source: AudioBufferSourceNode
  gain: GainNode
  since: number
  /** Where a stroke that is due cuts it off. */
  until?: number
}

export class Kit {
  private readonly sounds = new Map<string, AudioBuffer>()
  private readonly ringing = new Map<Instrument, Ringing>()
  /** What sounds or is due, with the moment at which it begins. */
  private readonly playing = new Map<AudioBufferSourceNode, number>()
  /** What is cut off, or will be. */
  private cut: [Instrument, Ringing][] = []
  private readonly turns = new Map<Instrument, number>()

  private constructor(
    private readonly context: BaseAudioContext,
    private readonly output: AudioNode,
    private readonly listing: Listing,
  ) {}

  static async load(context: BaseAudioContext, output: AudioNode): Promise<Kit> {
    const listing = (await (await fetch(`${FOLDER}/kit.json`)).json()) as Listing
    const kit = new Kit(context, output, listing)
    const names = Object.entries(listing.variants).flatMap(([instrument, count]) =>
      Object.keys(listing.velocities).flatMap((layer) =>
        Array.from({ length: count }, (_, index) => `${instrument}-${layer}-${index + 1}`),
      ),
    )
    await Promise.all(
      names.map(async (name) => {
        const answer = await fetch(`${FOLDER}/${name}.ogg`)
        kit.sounds.set(name, await context.decodeAudioData(await answer.arrayBuffer()))
      }),
    )
    return kit
  }

  strike(instrument: Instrument, velocity: number, clock: number, half = false): void {
    for (const [other, mutes] of Object.entries(CHOKED_BY)) {
      if (mutes?.includes(instrument)) this.choke(other as Instrument, clock)
    }
    const [layer, struck] = this.layerOf(velocity)
    const turn = this.turns.get(instrument) ?? 0
    this.turns.set(instrument, turn + 1)
    const variant = (turn % (this.listing.variants[instrument] ?? 1)) + 1
    const sound = this.sounds.get(`${instrument}-${layer}-${variant}`)
    if (!sound) return
    const source = new AudioBufferSourceNode(this.context, { buffer: sound })
    const level = (velocity / struck) ** LOUDNESS_POWER
    const gain = new GainNode(this.context, { gain: Math.min(1.6, level) })
    source.connect(gain).connect(this.output)
    if (half) gain.gain.setTargetAtTime(0, clock + HALF_FROM_SECONDS, HALF_SECONDS)
    source.start(clock)
    this.playing.set(source, clock)
    source.onended = () => {
      this.playing.delete(source)
      gain.disconnect()
    }
    if (instrument in CHOKED_BY) this.ringing.set(instrument, { source, gain, since: clock })
  }

  /** The layer struck most nearly so hard, and how hard that was. */
  private layerOf(velocity: number): [string, number] {
    const layers = Object.entries(this.listing.velocities)
    return layers.reduce((best, layer) => (Math.abs(layer[1] - velocity) < Math.abs(best[1] - velocity) ? layer : best))
  }

  private choke(instrument: Instrument, clock: number): void {
    const ringing = this.ringing.get(instrument)
    if (!ringing || ringing.since >= clock) return
    ringing.gain.gain.setTargetAtTime(0, clock, CHOKE_SECONDS)
    ringing.until = clock
    this.cut = [...this.cut.filter(([, one]) => this.playing.has(one.source)), [instrument, ringing]]
    this.ringing.delete(instrument)
  }

  /** Stop what is due from a moment on; without one, also what sounds. */
  silence(from = -Infinity): void {
    for (const [source, begins] of this.playing)
      if (begins >= from) {
        source.stop()
        this.playing.delete(source)
      }
    // What was to cut a cymbal off does not come: it rings on until something else does.
    for (const [instrument, one] of this.cut)
      if (one.until! >= from && one.since < from && this.playing.has(one.source)) {
        one.gain.gain.cancelScheduledValues(from)
        this.ringing.set(instrument, one)
      }
    this.cut = this.cut.filter(([, one]) => one.until! < from)
    for (const [instrument, one] of this.ringing) if (one.since >= from) this.ringing.delete(instrument)
  }
}
