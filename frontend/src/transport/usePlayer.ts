/** The player of a song page: loads the sound at the first wish to hear it, follows it, keeps its settings. */
import { useLocalStorage, useRafFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, type ShallowRef, watch } from 'vue'
import type { Score } from '@/api/client'
import { type Hearing, Player, soundPath } from '@/engine/player'
import { barAt, strokesOf } from '@/score/place'

export type ClickChoice = 'off' | 'quarters' | 'eighths' | 'sixteenths' | 'triplets'

export interface BarLoop {
  first: number
  last: number
}

interface Settings {
  speed: number
  hearing: Hearing
  click: ClickChoice
  countIn: boolean
  loop: BarLoop | null
  position: number
}

const DEFAULTS: Settings = {
  speed: 100,
  hearing: 'record',
  click: 'off',
  countIn: false,
  loop: null,
  position: 0,
}
export const SLOWEST = 25
export const FASTEST = 125

export function usePlayer(songId: string, score: ShallowRef<Score | null>) {
  const settings = useLocalStorage<Settings>(`orchesis.player.${songId}`, DEFAULTS, {
    mergeDefaults: true,
  })
  const position = ref(settings.value.position)
  const isPlaying = ref(false)
  const isLoading = ref(false)
  const level = ref(0)
  const problem = ref('')
  let player: Player | null = null
  let closed = false
  /** Which version of the record the player holds. */
  let loaded = ''
  const audioUrl = (path: string) => `/api/songs/${songId}/${path}`

  async function exchange(path: string): Promise<void> {
    if (!player || path === loaded) return
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
    const loop = settings.value.loop
    if (!loop || !score.value) return null
    const first = score.value.bars.find((bar) => bar.number === loop.first)
    const last = score.value.bars.find((bar) => bar.number === loop.last)
    return first && last ? { start: Math.max(0, first.start), end: last.end } : null
  })
  const currentBar = computed(() => (score.value ? barAt(score.value.bars, position.value) : undefined))

  function feed(): void {
    if (!player || !score.value) return
    const kit = settings.value.hearing === 'kit' || settings.value.hearing === 'sides'
    player.strokes = kit ? strokesOf(score.value) : []
    const choice = settings.value.click
    player.clicks = choice === 'off' ? [] : score.value.clicks[choice]
  }

  const loop = useRafFn(
    () => {
      if (!player) return
      position.value = player.position
      level.value = player.level
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
      loaded = soundPath(settings.value.hearing)
      try {
        await fresh.load(audioUrl(loaded))
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
    player.rate = settings.value.speed / 100
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
    const bar = barAt(score.value.bars, from + 0.01) ?? score.value.bars[0]
    const counted =
      settings.value.countIn && bar ? { length: bar.end - bar.start, beats: bar.beats.length } : null
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

  watch(() => settings.value.speed, (speed) => player?.adjust({ rate: speed / 100 }))
  watch(loopTimes, (range) => player?.adjust({ loop: range }))
  watch(
    () => settings.value.hearing,
    (hearing) => {
      player?.hear(hearing)
      feed()
      if (hearing !== 'kit') void exchange(soundPath(hearing))
    },
  )
  watch([() => settings.value.click, score], feed)

  onScopeDispose(() => {
    closed = true
    settings.value.position = position.value
    loop.pause()
    void player?.close()
  })

  return {
    settings,
    position,
    /** The moment that sounds now, finer than the picture's 60 a second. */
    now: () => player?.position ?? position.value,
    isPlaying,
    isLoading,
    level,
    problem,
    loopTimes,
    currentBar,
    play,
    pause,
    toggle: () => (isPlaying.value ? pause() : void play()),
    seek,
    setLoop,
  }
}

export type SongPlayer = ReturnType<typeof usePlayer>
