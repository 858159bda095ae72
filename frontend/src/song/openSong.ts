/**
 * The song that is open: its part, cursors, player and recordings, provided once to every stage. A stage
 * asks for what it needs with `useOpenSong()`; nothing is handed down from component to component.
 */
import { until, useSessionStorage } from '@vueuse/core'
import { computed, inject, type InjectionKey, provide, ref, shallowRef, watch } from 'vue'
import { api, type Hit, type Instrument, type ReviewQuestion, type Shared, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import type { Timing } from '@/score/place'
import { usePreviews } from '@/score/usePreviews'
import { useScore } from '@/score/useScore'
import { isWorking } from '@/shelf/useShelf'
import { endWords } from '@/shelf/words'
import { useChart } from '@/stages/chart/useChart'
import { useFeel } from '@/stages/feel/useFeel'
import { useFills } from '@/stages/fills/useFills'
import { useFormCursor } from '@/stages/form/useFormCursor'
import { placeKeyOf } from '@/stages/grooves/offers'
import { useCursor } from '@/stages/grooves/useCursor'
import { useGrooves } from '@/stages/grooves/useGrooves'
import { useNotes } from '@/stages/grooves/useNotes'
import { useSources } from '@/stages/listen/useSources'
import { type PracticeLevel, usePractice } from '@/stages/practice/usePractice'
import { useTaps } from '@/stages/listen/useTaps'
import { useReview } from '@/stages/review/useReview'
import { usePresence } from '@/share/usePresence'
import { usePlayer } from '@/transport/usePlayer'
import { useLoops } from './useLoops'
import { useSong } from './useSong'
import { useStage } from './useStage'

/** What is beside the bar stack. */
export type PanelTab = 'note' | 'count' | 'kin'
const TABS: readonly PanelTab[] = ['note', 'count', 'kin']

function openSong(id: string, guest: Shared | null) {
  const { data: song, error, refetch } = useSong(id)
  /** Whoever reads only is told so at his first edit; guests have no stage to edit in. */
  const mayEdit = computed(() => !song.value || song.value.role === 'owner' || song.value.role === 'editor')
  const part = useScore(id, mayEdit)
  const player = usePlayer(id, part.score, guest?.with_audio ?? true)
  const stack = useCursor(id, part.score)
  const stage = useStage(id, guest !== null)
  const isShown = (...stages: string[]) => stages.includes(stage.stage.value)
  const sources = useSources(id, guest === null)
  const found = useGrooves(id, part.score, () => isShown('grooves', 'review'))
  const fills = useFills(id, part, () => isShown('fills'))
  const practice = usePractice(id, part, () => isShown('practice'), guest !== null, guest?.level as PracticeLevel | undefined)
  // Alone with one's own song nobody need be told; a song that others see says who is here.
  const others = usePresence(
    id,
    () => stack.cursor.value.bar,
    () => guest === null && !!song.value?.is_shared,
  )
  const view = {
    showKeys: ref(false),
    /** What a new run heard is being looked at. */
    showHeard: ref(false),
    showWave: useSessionStorage('orchesis.waveform', false),
    showShare: ref(false),
    showComments: ref(false),
    showPicture: useSessionStorage('orchesis.picture', false),
    panelTab: useSessionStorage<PanelTab>('orchesis.panel', 'note'),
  }
  const bars = computed(() => part.score.value?.bars ?? [])

  /** The recording that judges a note now, where it is another one: what is heard, or else what is shaded. */
  function heardIn(): string {
    const { hearing } = player.settings.value
    const other = sources.sources.value.find((item) => `source:${item.id}` === hearing)
    const shaded = sources.sources.value.find((item) => item.id === found.shadeSource.value)
    return (other ?? shaded)?.title ?? ''
  }

  const taps = useTaps(player.placeAt, part.layTaps)
  const previews = usePreviews(id, part.score, () => isShown('listen'))
  const loops = useLoops(player, stack)

  async function tryAgain(): Promise<void> {
    try {
      await taken(api.POST('/api/songs/{song_id}/listening', { params: { path: { song_id: id } } }))
    } catch (failure) {
      part.notice.value = problemWords(failure)
    }
    await refetch()
  }

  /** Undo or redo, and go where it was. */
  async function travel(how: () => Promise<{ bars: { number: number }[] } | null>): Promise<void> {
    const answer = await how()
    const first = answer?.bars[0]
    if (first && !answer.bars.some((bar) => bar.number === stack.cursor.value.bar)) stack.place({ bar: first.number })
  }

  /** Count every bar from a beat later: one of the song's own readings. */
  function later(): void {
    const readings = part.score.value?.listening.readings ?? []
    const [level, metre, phase] = (readings[0]?.key ?? '').split('/')
    const beats = Number(metre?.split('-')[0]) / (metre?.endsWith('-8') ? 3 : 1)
    const next = (Number(phase) + 1) % beats
    const other = readings.find((item) => item.key === `${level}/${metre}/${next}`)
    if (other) takeReading(other.key)
    else void part.shiftDownbeats(1)
  }

  const readAs = (key: string) => part.takeReading(key, () => previews.preview(key))
  const takeReading = (key: string) => void readAs(key)
  const review = useReview(part.score, part, found, stack, player, loops, readAs)

  /** The doubts that are gone through: of one kind, or all that no layer's question asks about. */
  const doubtsOf = shallowRef<{ words: string; places: ReadonlySet<string> } | null>(null)
  const isAlone = (hit: Hit) => hit.status === 'doubtful' && !found.layers.value.has(placeKeyOf(hit))
  const isMeant = (hit: Hit) => (doubtsOf.value ? doubtsOf.value.places.has(placeKeyOf(hit)) : isAlone(hit))

  function doubt(step: -1 | 1): void {
    let next = stack.nextDoubt(step, isMeant)
    if (!next && doubtsOf.value) {
      // Those of that kind are settled: the others follow.
      doubtsOf.value = null
      next = stack.nextDoubt(step, isMeant)
    }
    if (next) loops.loopDoubt(next.bar)
  }

  /** Go through the doubts of one kind, one by one. */
  function doubtsOneByOne(question: ReviewQuestion): void {
    doubtsOf.value = { words: question.words, places: new Set(question.places.map(placeKeyOf)) }
    doubt(1)
  }

  async function relisten(): Promise<void> {
    await found.listenAgain()
    if (found.relistenProblem.value) part.notice.value = found.relistenProblem.value
  }

  // The score is asked for together with the song, not after it; a song that has none yet says so.
  void part.fetchScore()
  watch(
    () => song.value?.has_score && !isWorking(song.value.run),
    async (ready, before) => {
      if (!ready) return
      await until(part.isFetching).toBe(false)
      // A run that ended while the page was open has merged what it heard into the song.
      if (part.score.value && before !== false) return
      await part.fetchScore()
      if (before !== false || !song.value?.run) return
      part.notice.value = endWords(song.value.run)
      if (part.score.value?.heard_again) view.showHeard.value = true
    },
    { immediate: true },
  )
  watch(song, (value) => {
    if (value) document.title = `${value.title} · Orchesis`
  })
  // Another grid has another tempo in the header.
  watch(
    () => part.score.value && `${part.score.value.tempo_bpm} ${part.score.value.meter.join('/')}`,
    (_, before) => {
      if (before) void refetch()
    },
  )
  // Without a recording there is the kit to be heard.
  watch(
    () => (guest ? !guest.with_audio : song.value && !song.value.has_recording),
    (isMute) => {
      if (isMute) player.settings.value.hearing = 'kit'
    },
    { immediate: true },
  )
  const hasBars = computed(() => bars.value.length > 0)
  // Without bars there is one thing to do, which is done in Listen: its keys hold.
  watch(
    () => part.score.value !== null && !hasBars.value,
    (isBeatless) => {
      if (!isBeatless) return
      stage.stage.value = 'listen'
      taps.isOpen.value = true
    },
    { immediate: true },
  )

  return {
    id,
    /** By which link it was opened; null for those who have an account and a right to it. */
    guest,
    mayEdit,
    /** Who else is here. */
    others,
    song,
    error,
    part,
    player,
    stack,
    notes: useNotes(stack, part, heardIn),
    form: useFormCursor(part.score, part.changeForm, part.evenOutBar),
    sources,
    taps,
    found,
    fills,
    feel: useFeel(id, part.score, () => isShown('feel')),
    /** The chart's kit with as much of the feel as is asked for. */
    hearFeel: (timing: Timing) => {
      player.settings.value.timing = timing
      player.settings.value.hearing = 'kit'
      if (!player.isPlaying.value) void player.play()
    },
    /** The chosen fill with a lead-in, over and over; or no loop any more. */
    loopFill: () => {
      const fill = fills.fill.value
      if (fill) loops.loopStretch(fill)
    },
    previews,
    review,
    chart: useChart(id, part.score, () => isShown('chart'), guest),
    ...stage,
    ...view,
    ...loops,
    practice,
    now: () => player.position.value,
    bars,
    hasBars,
    sections: computed(() => part.score.value?.sections ?? []),
    /** Notes to be looked at one by one, and layers that are asked about as a whole. */
    doubts: computed(
      () =>
        bars.value.reduce((sum, bar) => sum + bar.hits.filter(isAlone).length, 0) +
        found.review.value.filter((item) => item.kind === 'layer').length,
    ),
    isAlone,
    doubtsOf,
    doubtsOneByOne,
    soundingIndex: computed(() => {
      const bar = player.currentBar.value
      return bar ? bars.value.indexOf(bar) : null
    }),
    /** The drums of the song, the commonest first. */
    drums: computed(() => {
      const counts = new Map<Instrument, number>()
      for (const bar of bars.value)
        for (const hit of bar.hits) counts.set(hit.instrument, (counts.get(hit.instrument) ?? 0) + 1)
      return [...counts].sort((one, other) => other[1] - one[1]).map(([instrument]) => instrument)
    }),
    isListening: computed(() => !!song.value?.run && isWorking(song.value.run)),
    tryAgain,
    undo: () => travel(part.undo),
    redo: () => travel(part.redo),
    later,
    takeReading,
    doubt,
    relisten,
    nextTab: () => (view.panelTab.value = TABS[(TABS.indexOf(view.panelTab.value) + 1) % TABS.length]!),
  }
}

export type OpenSong = ReturnType<typeof openSong>

/** Under which the open song is provided. */
export const OPEN_SONG: InjectionKey<OpenSong> = Symbol('the open song')

/** Open a song for the page that calls this, and for all that is in it. */
export function provideSong(id: string, guest: Shared | null = null): OpenSong {
  const open = openSong(id, guest)
  provide(OPEN_SONG, open)
  return open
}

/** The song of the page that this component is in. */
export function useOpenSong(): OpenSong {
  const open = inject(OPEN_SONG)
  if (!open) throw new Error('Only the parts of a song page have an open song.')
  return open
}

/** Its part, for what is shown only once it is there. */
export function useOpenScore() {
  const { part } = useOpenSong()
  return computed(() => part.score.value!)
}
