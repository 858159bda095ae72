/** The voice that counts. Its words ship with the application; each is felt to fall where its vowel sets in. */
const FOLDER = `${import.meta.env.BASE_URL}voice`
const CUT_SECONDS = 0.015

export class Voice {
  private readonly sounds = new Map<string, AudioBuffer>()
  private readonly due = new Map<AudioBufferSourceNode, { at: number; gain: GainNode }>()

  private constructor(
    private readonly context: BaseAudioContext,
    private readonly output: AudioNode,
    private readonly leads: Record<string, number>,
  ) {}

  static async load(context: BaseAudioContext, output: AudioNode): Promise<Voice> {
    const leads = (await (await fetch(`${FOLDER}/voice.json`)).json()) as Record<string, number>
    const voice = new Voice(context, output, leads)
    await Promise.all(
      Object.keys(leads).map(async (name) => {
        const answer = await fetch(`${FOLDER}/${name}.ogg`)
        voice.sounds.set(name, await context.decodeAudioData(await answer.arrayBuffer()))
      }),
    )
    return voice
  }

  /** Say a word so that it is felt to fall at `clock`; the one before it is cut off there. */
  say(name: string, clock: number): void {
    const buffer = this.sounds.get(name)
    if (!buffer) return
    const lead = this.leads[name] ?? 0
    const start = Math.max(this.context.currentTime, clock - lead)
    for (const { at, gain } of this.due.values()) if (at < start) gain.gain.setTargetAtTime(0, start, CUT_SECONDS)
    const gain = new GainNode(this.context)
    const source = new AudioBufferSourceNode(this.context, { buffer })
    source.connect(gain).connect(this.output)
    // What begins late is begun further on, so that the vowel is where it belongs.
    source.start(start, Math.max(0, start - (clock - lead)))
    this.due.set(source, { at: start, gain })
    source.onended = () => {
      this.due.delete(source)
      gain.disconnect()
    }
  }

  /** Stop what is due from a moment on; without one, also what sounds. */
  silence(from = -Infinity): void {
    for (const [source, { at }] of this.due)
      if (at >= from) {
        source.stop()
        this.due.delete(source)
      }
  }
}
