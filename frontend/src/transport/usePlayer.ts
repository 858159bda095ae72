/** The player of a song page: loads the sound at the first wish to hear it, follows it, keeps its settings. */
import { useLocalStorage, useRafFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, type ShallowRef, shallowRef, watch } from 'vue'
import { api, type Hit, type Instrument, type Limb, type Score, taken } from '@/api/client'
import { focusOn } from '@/engine/focus'
import { type Balance, type Hearing, Player, type Silence, soundPath, type Stroke, type Word } from '@/engine/player'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import { barAt, strokesOf, timeAt, type Timing } from '@/score/place'

export type ClickChoice = 'off' | 'quarters' | 'eighths' | 'sixteenths' | 'triplets'

/** Whole bars; or, with `from` and `to`, a part of them: places in the first and the last bar, 0 to 1. */
export interface BarLoop {
  first: number
  last: number
  from?: number
  to?: number
}

/** A part of a bar is looped with half a beat before it, so that one hears it come. */
const LEAD_IN_BEATS = 0.5

/** What is played instead of the song as a whole: a step that is practised. */
export interface Tape {
  /** Of the loop, in seconds of the song. */
  start: number
  end: number
  /** 1: as fast as the record. */
  rate: number
  strokes: readonly Stroke[]
  words: readonly Word[]
  /** A subdivision or several, joined by +; empty: none. */
  click: string
  silence: Silence | null
  balance: Balance
  record: 'record' | 'drums-down' | 'bass-forward'
  countIn: 0 | 1 | 2
}

interface Settings {
  speed: number
  hearing: Hearing
  click: ClickChoice
  countIn: boolean
  loop: BarLoop | null
  position: number
  /** The limbs of the chart that the kit plays. */
  limbs: Record<Limb, boolean>
  /** The drum of "only this drum". */
  only: Instrument
  /** When the chart's kit strikes. */
  timing: Timing
}

const DEFAULTS: Settings = {
  speed: 100,
  hearing: 'record',
  click: 'off',
  countIn: false,
  loop: null,
  position: 0,
  limbs: { RH: true, LH: true, RF: true, LF: true },
  only: 'snare',
  timing: 'written',
}
export const SLOWEST = 25
export const FASTEST = 125

/** `hasRecord`: not where a link is without it; then there is the kit to be heard, and nothing is asked for. */
export function usePlayer(songId: string, score: ShallowRef<Score | null>, hasRecord = true) {
  // A copy: what is stored is changed in place, and the next song begins with the defaults.
  const settings = useLocalStorage<Settings>(`orchesis.player.${songId}`, structuredClone(DEFAULTS), {
    mergeDefaults: true,
  })
  const position = ref(settings.value.position)
  const isPlaying = ref(false)
  const isLoading = ref(false)
  const level = ref(0)
  const problem = ref('')
  /** The score as it might be, for the kit to play: an answer that is not given yet. */
  const preview = shallowRef<((written: Score) => Score) | null>(null)
  /** The note that the kit leaves away, to hear what it does: see placeKey. */
  const without = ref<string | null>(null)
  let player: Player | null = null
  let closed = false
  const tape = shallowRef<Tape | null>(null)
  /** Which version of the record the player holds. */
  let loaded = ''
  const audioUrl = (path: string) => `/api/songs/${songId}/${path}`

  async function exchange(path: string): Promise<void> {
    if (!player || path === loaded || !hasRecord) return
    isLoading.value = true
    problem.value = ''
    try {
      await player.exchange(audioUrl(path))
      loaded = path
    } catch (error) {
      problem.value = error instanceof Error ? error.message : 'The sound could not be loaded.'
      settings.value.hearing = 'record'
    } finally {
      isLoading.value = false
    }
  }

  const loopTimes = computed(() => {
    if (tape.value) return { start: tape.value.start, end: tape.value.end }
    const loop = settings.value.loop
    if (!loop || !score.value) return null
    const first = score.value.bars.find((bar) => bar.number === loop.first)
    const last = score.value.bars.find((bar) => bar.number === loop.last)
    if (!first || !last) return null
    if (loop.from === undefined || loop.to === undefined) return { start: Math.max(0, first.start), end: last.end }
    const beat = (first.end - first.start) / first.beats.length
    return { start: Math.max(0, timeAt(first, loop.from) - LEAD_IN_BEATS * beat), end: timeAt(last, loop.to) }
  })
  const rate = computed(() => tape.value?.rate ?? settings.value.speed / 100)
  const currentBar = computed(() => (score.value ? barAt(score.value.bars, position.value) : undefined))

  function feed(): void {
    if (!player || !score.value) return
    player.balance = tape.value?.balance ?? null
    player.words = tape.value?.words ?? []
    player.silence = tape.value?.silence ?? null
    if (tape.value) {
      player.strokes = tape.value.strokes
      player.only(null)
      player.hear(settings.value.hearing)
      if (player.words.length) void player.speak()
      player.replan()
      void feedClicks()
      return
    }
    const { hearing, limbs, only } = settings.value
    const kit = hearing === 'kit' || hearing === 'sides' || hearing === 'turns'
    player.strokes = kit
      ? strokesOf(
          preview.value ? preview.value(score.value) : score.value,
          (hit) => (!hit.limb || limbs[hit.limb]) && placeKey(hit) !== without.value,
          settings.value.timing,
        )
      : []
    player.only(hearing === 'only' ? focusOn(score.value, only) : null)
    player.replan()
    void feedClicks()
  }

  /** The clicks that the player holds: which, and of which grid. */
  let clicksOf = ''

  async function feedClicks(): Promise<void> {
    const bars = score.value?.bars ?? []
    const choice = tape.value ? tape.value.click || 'off' : settings.value.click
    const grid = bars.reduce((sum, bar) => sum + bar.start * bar.number, 0)
    const wanted = `${choice} ${bars.length} ${grid}`
    if (!player || wanted === clicksOf) return
    clicksOf = wanted
    if (choice === 'off') {
      player.clicks = []
      player.replan()
      return
    }
    try {
      const path = { song_id: songId, subdivision: choice }
      const points = await taken(api.GET('/api/songs/{song_id}/clicks/{subdivision}', { params: { path } }))
      if (wanted !== clicksOf) return
      player.clicks = points
      player.replan()
    } catch {
      clicksOf = ''
      problem.value = 'The click could not be fetched.'
    }
  }

  const loop = useRafFn(
    () => {
      if (!player) return
      position.value = player.position
      // In the practice player no meter is shown.
      if (!tape.value) level.value = player.level
      isPlaying.value = player.isPlaying
    },
    { immediate: false },
  )

  async function ready(): Promise<Player | null> {
    if (player) return player
    isLoading.value = true
    problem.value = ''
    const fresh = new Player()
    try {
      loaded = soundPath(tape.value ? tape.value.record : settings.value.hearing)
      try {
        await fresh.load(hasRecord ? audioUrl(loaded) : null, score.value?.duration)
      } catch (error) {
        // That version may be gone since: the record itself is still there.
        if (loaded === 'audio') throw error
        settings.value.hearing = 'record'
        loaded = 'audio'
        await fresh.load(audioUrl(loaded))
      }
    } catch (error) {
      problem.value = error instanceof Error ? error.message : 'The sound could not be loaded.'
      await fresh.close()
      return null
    } finally {
      isLoading.value = false
    }
    if (closed) {
      await fresh.close()
      return null
    }
    player = fresh
    player.onEnd = () => {
      isPlaying.value = false
      position.value = 0
      loop.pause()
    }
    player.rate = rate.value
    player.loop = loopTimes.value
    player.hear(settings.value.hearing)
    feed()
    return player
  }

  async function play(): Promise<void> {
    if (isLoading.value || isPlaying.value) return
    const sound = await ready()
    if (!sound || !score.value) return
    const range = loopTimes.value
    let from = position.value
    if (range && (from < range.start || from >= range.end - 0.02)) from = range.start
    if (from >= sound.duration - 0.05) from = 0
    // A step is always begun at its beginning: its passes are counted from there.
    if (tape.value) from = tape.value.start
    const bar = barAt(score.value.bars, from + 0.01) ?? score.value.bars[0]
    const bars = tape.value ? tape.value.countIn : settings.value.countIn ? 1 : 0
    const counted =
      bars && bar ? { length: bar.end - bar.start, beats: bar.beats.length, bars } : null
    await sound.play(from, counted)
    isPlaying.value = true
    loop.resume()
  }

  function pause(): void {
    player?.pause()
    isPlaying.value = false
    level.value = 0
    loop.pause()
    settings.value.position = position.value
  }

  function seek(time: number): void {
    position.value = Math.max(0, time)
    player?.seek(position.value)
    settings.value.position = position.value
  }

  function setLoop(range: BarLoop | null): void {
    settings.value.loop = range
    if (range && loopTimes.value && !isPlaying.value) {
      const { start, end } = loopTimes.value
      if (position.value < start || position.value >= end) seek(start)
    }
  }

  watch(rate, (value) => player?.adjust({ rate: value }))
  watch(tape, (now, before) => {
    if (!now !== !before) pause()
    if (!now || !before || now.record !== before.record) void exchange(soundPath(now ? now.record : settings.value.hearing))
    feed()
    // A record that was left out is let in, or the other way round.
    if (now && before && (now.balance.record > 0) !== (before.balance.record > 0)) player?.adjust({})
  })
  watch(loopTimes, (range) => player?.adjust({ loop: range }))
  watch(
    () => settings.value.hearing,
    (hearing) => {
      player?.hear(hearing)
      feed()
      if (hearing !== 'kit') void exchange(soundPath(hearing))
    },
  )
  watch([() => settings.value.click, () => settings.value.limbs, () => settings.value.only, settings.value.timing, without, preview, score], feed, {
    deep: 1,
  })

  function toggleLimb(limb: Limb, solo = false): void {
    const { limbs } = settings.value
    const others = Object.values(limbs).filter(Boolean).length
    if (!solo) settings.value.limbs = { ...limbs, [limb]: !limbs[limb] }
    else {
      const isSolo = limbs[limb] && others === 1
      settings.value.limbs = { RH: isSolo, LH: isSolo, RF: isSolo, LF: isSolo, [limb]: true }
    }
  }

  /** Only this drum, or the record again. */
  function hearOnly(instrument: Instrument): void {
    const now = settings.value
    if (now.hearing === 'only' && now.only === instrument) now.hearing = 'record'
    else settings.value = { ...now, hearing: 'only', only: instrument }
  }

  /** Hear the chart with or without a note, in turn. */
  function hearWithout(hit: Hit): string {
    without.value = without.value === placeKey(hit) ? null : placeKey(hit)
    if (!['kit', 'sides', 'turns'].includes(settings.value.hearing)) settings.value.hearing = 'kit'
    return `The kit plays ${without.value ? 'without' : 'with'} the ${INSTRUMENT_NAMES[hit.instrument]} at the cursor`
  }

  onScopeDispose(() => {
    closed = true
    settings.value.position = position.value
    loop.pause()
    void player?.close()
  })

  return {
    settings,
    position,
    /** The place in the song that sounds at a moment of the page's clock: of an event, when it was made. */
    placeAt: (moment: number) => player?.placeAt(moment) ?? position.value,
    isPlaying,
    isLoading,
    level,
    problem,
    tape,
    /** Passes of the loop that were played to their end. */
    passes: () => player?.passes ?? 0,
    /** Seconds played, as heard at a moment of the page's clock; null while nothing plays. */
    heardAt: (moment: number) => player?.heardAt(moment) ?? null,
    loopTimes,
    currentBar,
    play,
    pause,
    toggle: () => (isPlaying.value ? pause() : void play()),
    seek,
    setLoop,
    toggleLimb,
    hearOnly,
    hearWithout,
    preview,
  }
}

function placeKey(hit: Hit): string {
  return `${hit.bar} ${hit.position} ${hit.instrument}`
}

export type SongPlayer = ReturnType<typeof usePlayer>
