declare module 'signalsmith-stretch' {
  interface StretchChange {
    output?: number
    active?: boolean
    input?: number
    rate?: number
    semitones?: number
    loopStart?: number
    loopEnd?: number
  }
  interface StretchNode extends AudioNode {
    addBuffers(channels: Float32Array[]): Promise<number>
    dropBuffers(): Promise<void>
    schedule(change: StretchChange): Promise<void>
    latency(): Promise<number>
  }
  interface Factory {
    (context: BaseAudioContext, options?: AudioWorkletNodeOptions): Promise<StretchNode>
    moduleUrl?: string
  }
  const SignalsmithStretch: Factory
  export default SignalsmithStretch
  export type { StretchNode }
}

declare module 'signalsmith-stretch?url' {
  const url: string
  export default url
}
