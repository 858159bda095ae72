/**
 * A kit that answers: Web MIDI where the browser has it, computer keys as pads, or a player that stands
 * in for a real one. What was struck is compared with the chart by the core.
 */
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { api, type Comparison, type Instrument, type Limb, type Struck, taken, type Wanted } from '@/api/client'
import { MIDI_KEYS } from '@/api/vocabulary'
import { problemWords } from '@/api/words'
import type { SongPlayer } from '@/transport/usePlayer'
import type { PracticeRun } from './useRun'

export type PadSource = 'none' | 'keys' | 'midi' | 'stand-in'

/** Computer keys as pads, by the place of the key. */
export const PAD_KEYS: Record<string, { instrument: Instrument; limb: Limb; name: string }> = {
  KeyD: { instrument: 'snare', limb: 'LH', name: 'D' },
  KeyK: { instrument: 'hihat_closed', limb: 'RH', name: 'K' },
  KeyL: { instrument: 'ride', limb: 'RH', name: 'L' },
  KeyJ: { instrument: 'tom_floor', limb: 'RH', name: 'J' },
  KeyF: { instrument: 'tom_high', limb: 'LH', name: 'F' },
  KeyB: { instrument: 'kick', limb: 'RF', name: 'B' },
  KeyN: { instrument: 'hihat_foot', limb: 'LF', name: 'N' },
}
const KEY_VELOCITY = 96
/** Status of a MIDI message, without its channel. */
const NOTE_ON = 0x90
const KIND = 0xf0
const PASSES_COMPARED = 4
/** After its end a pass waits so long for what is late. */
const GRACE_SECONDS = 0.2
const CLAPS = 8

interface StandIn {
  late: Record<Limb, number>
  spread: number
  missed: number
  extra: number
}

export function usePads(run: PracticeRun, player: SongPlayer, songId: string) {
  const source = useLocalStorage<PadSource>('orchesis.pads', 'none')
  const latency = useLocalStorage<Record<string, number>>('orchesis.latency', {})
  const standIn = useLocalStorage<StandIn>('orchesis.stand-in', {
    late: { RH: 0, LH: 15, RF: 0, LF: 0 },
    spread: 6,
    missed: 0,
    extra: 0,
  })
  const kits = ref<string[]>([])
  const problem = ref('')
  const lit = ref<Instrument | null>(null)
  const comparison = shallowRef<{ found: Comparison; wanted: Wanted[]; struck: Struck[] } | null>(null)
  const latencyNow = computed(() => latency.value[source.value] ?? 0)
  /** What was struck since playing began, latency not yet taken off. */
  let struck: Struck[] = []
  let comparedPasses = 0
  let access: MIDIAccess | null = null
  /** The claps of the test, while it runs. */
  let claps: number[] | null = null
  const onMidi = new Set<(message: Uint8Array) => void>()

  function strike(instrument: Instrument, velocity: number, limb: Limb | null, moment: number): void {
    lit.value = instrument
    const time = player.heardAt(moment)
    if (claps) {
      claps.push(moment)
      return
    }
    if (time === null) return
    struck.push({ time, instrument, velocity, limb })
  }

  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if (source.value !== 'keys' || event.repeat || event.ctrlKey || event.altKey || event.metaKey) return
    const pad = PAD_KEYS[event.code]
    if (!pad || (event.target as HTMLElement)?.closest?.('input, textarea, [role=combobox]')) return
    event.preventDefault()
    strike(pad.instrument, KEY_VELOCITY, pad.limb, event.timeStamp)
  })

  function heardMidi(event: MIDIMessageEvent): void {
    const data = event.data
    if (!data) return
    for (const listener of onMidi) listener(data)
    if (source.value !== 'midi' || (data[0]! & KIND) !== NOTE_ON || !data[2]) return
    const instrument = MIDI_KEYS[data[1]!]
    if (instrument) strike(instrument, data[2], null, event.timeStamp)
  }

  /** Ask the browser for kits; also needed to learn a pedal. */
  async function openMidi(): Promise<void> {
    if (!navigator.requestMIDIAccess) {
      problem.value = 'This browser cannot listen to an electronic kit.'
      return
    }
    try {
      access ??= await navigator.requestMIDIAccess()
    } catch {
      problem.value = 'The browser was not allowed to listen to the kit: allow MIDI for this page.'
      return
    }
    const inputs = [...access.inputs.values()]
    kits.value = inputs.map((input) => input.name ?? 'a kit')
    for (const input of inputs) input.onmidimessage = heardMidi
    access.onstatechange = () => void openMidi()
    problem.value = inputs.length ? '' : 'No kit is connected: switch it on and plug it in.'
  }

  watch(
    source,
    (now) => {
      problem.value = ''
      comparison.value = null
      if (now === 'midi') void openMidi()
    },
    { immediate: true },
  )

  async function playStandIn(passes: number): Promise<void> {
    const { late, spread, missed, extra } = standIn.value
    try {
      const played = await taken(
        api.POST('/api/songs/{song_id}/practice/stand-in', {
          params: { path: { song_id: songId } },
          body: { wanted: run.wanted(passes), late_ms: late, spread_ms: spread, missed, extra, seed: 1 },
        }),
      )
      struck = played.struck
    } catch (failure) {
      problem.value = problemWords(failure)
    }
  }

  watch(player.isPlaying, (now) => {
    if (!now) return
    struck = []
    comparedPasses = 0
    if (source.value === 'stand-in') void playStandIn(64)
  })
  watch(
    () => player.position.value,
    () => {
      if (source.value === 'none' || !player.isPlaying.value) return
      const passes = player.passes()
      const { start, end } = run.range.value
      const into = player.position.value - start
      if (passes < comparedPasses + PASSES_COMPARED || into < Math.min(GRACE_SECONDS, (end - start) / 2)) return
      const from = comparedPasses
      comparedPasses = passes
      void compare(from, passes)
    },
  )

  /** Compare the passes from one to another, which have been played. */
  async function compare(from: number, to: number): Promise<void> {
    const turn = (run.range.value.end - run.range.value.start) / run.share.value
    const inside = (time: number) => time >= from * turn - GRACE_SECONDS / 2 && time < to * turn - GRACE_SECONDS / 2
    const wanted = run.wanted(to).filter((item) => item.time >= from * turn - 1e-6)
    const off = source.value === 'stand-in' ? 0 : latencyNow.value / 1000
    const played = struck.map((item) => ({ ...item, time: item.time - off })).filter((item) => inside(item.time))
    try {
      const found = await taken(
        api.POST('/api/songs/{song_id}/practice/played', {
          params: { path: { song_id: songId } },
          body: { wanted, struck: played },
        }),
      )
      comparison.value = { found, wanted, struck: played }
      problem.value = ''
    } catch (failure) {
      problem.value = problemWords(failure)
    }
  }

  /** Eight clicks to clap with: how late a stroke arrives here. */
  const isClapping = ref(false)
  async function clapTest(): Promise<void> {
    if (isClapping.value) return
    player.pause()
    isClapping.value = true
    claps = []
    const context = new AudioContext()
    const begin = context.currentTime + 0.5
    const clicks: number[] = []
    for (let index = 0; index < CLAPS; index++) {
      const at = begin + index * 0.6
      const tone = new OscillatorNode(context, { frequency: 1319 })
      const gain = new GainNode(context, { gain: 0.4 })
      gain.gain.setTargetAtTime(0, at + 0.01, 0.01)
      tone.connect(gain).connect(context.destination)
      tone.start(at)
      tone.stop(at + 0.06)
      clicks.push(at)
    }
    await new Promise((done) => setTimeout(done, (0.5 + CLAPS * 0.6 + 0.3) * 1000))
    const stamp = context.getOutputTimestamp()
    const zero = (stamp.performanceTime ?? performance.now()) - (stamp.contextTime ?? context.currentTime) * 1000
    const moments = claps.map((moment) => (moment - zero) / 1000)
    claps = null
    isClapping.value = false
    await context.close()
    try {
      const found = await taken(api.POST('/api/latency', { body: { clicks, claps: moments } }))
      latency.value = { ...latency.value, [source.value]: found.latency_ms }
      problem.value = ''
    } catch (failure) {
      problem.value = problemWords(failure)
    }
  }

  onScopeDispose(() => {
    for (const input of access?.inputs.values() ?? []) input.onmidimessage = null
  })

  return { source, standIn, kits, problem, lit, comparison, latencyNow, isClapping, clapTest, openMidi, onMidi }
}

export type PracticePads = ReturnType<typeof usePads>
