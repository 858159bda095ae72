/**
 * Practising a step: what sounds, at which rung of the ladder, how many passes, what comes of it. The
 * passes are counted by the audio clock; what is entered in the log is what was played.
 */
import { useLocalStorage } from '@vueuse/core'
import { computed, onScopeDispose, ref, watch } from 'vue'
import type { Feeling, Instrument, Limb, PracticeNote, PracticeStep, Wanted } from '@/api/client'
import { api, taken } from '@/api/client'
import { LIMBS } from '@/api/vocabulary'
import type { SongPlayer, Tape } from '@/transport/usePlayer'
import type { SongPractice } from './usePractice'

export interface PracticeSound {
  /** Subdivisions of the click, joined by +; empty: none. */
  click: string
  /** After three bars with the click one without. */
  isTested: boolean
  voice: boolean
  record: 'off' | 'record' | 'drums-down' | 'bass-forward'
  kit: boolean
  countIn: 0 | 1 | 2
  /** Up a rung by itself after as many passes as the ladder asks for. */
  climbs: boolean
  /** What ears are protected by, in dB. */
  protection: number
}

const FRESH: PracticeSound = {
  click: 'quarters',
  isTested: false,
  voice: false,
  record: 'off',
  kit: true,
  countIn: 1,
  climbs: true,
  protection: 0,
}
const TESTED = { play: 3, rest: 1 }
const RECORD_BESIDE = 0.75
/** A pass that was begun counts as minutes from here on. */
const PASSES_EACH = 2
const LEAST_MINUTES = 0.05

/** What comes and goes in every other pass. */
export type Detail = 'none' | 'ghosts' | 'accents' | Limb

export function useRun(practice: SongPractice, player: SongPlayer, songId: string, hasRecording: () => boolean) {
  const sound = useLocalStorage<PracticeSound>('orchesis.practice-sound', FRESH, { mergeDefaults: true })
  const rung = ref(0)
  const window = ref<number | null>(null)
  const muted = ref<ReadonlySet<Limb>>(new Set())
  const detail = ref<Detail>('none')
  /** Notes of a free variation instead of the step's own. */
  const varied = ref<readonly PracticeNote[] | null>(null)
  /** What is called for the pass that is played: of the notes that come and go those that are there. */
  const called = ref<readonly string[]>([])
  const choices = computed(() => practice.plan.value?.variation ?? [])
  /** Somebody chose what is there: chance changes nothing then. */
  const isOnCall = ref(false)
  /** A kit answers, and has not said yet that it may be faster. */
  const isHeld = ref(false)
  const passes = ref(0)
  const feeling = ref<Feeling>('work')
  let countedBefore = 0
  let begun: number | null = null
  let secondsBefore = 0
  let coming: { notes: PracticeNote[]; taken: string[] } | null = null

  const step = practice.step
  const share = computed(() => step.value?.rungs[rung.value]?.share ?? 1)
  const bpm = computed(() => step.value?.rungs[rung.value]?.bpm ?? 0)
  const range = computed(() => {
    const own = step.value
    if (!own) return { start: 0, end: 0 }
    return own.windows[window.value ?? -1] ?? own
  })
  const notes = computed(() => {
    const { start, end } = range.value
    return (varied.value ?? step.value?.notes ?? []).filter((note) => note.time >= start - 1e-6 && note.time < end - 1e-6)
  })

  function isDetail(note: PracticeNote): boolean {
    if (detail.value === 'ghosts') return note.ghost
    if (detail.value === 'accents') return note.accent
    return note.limb === detail.value
  }

  const firstBar = computed(() => practice.plan.value?.bars[0] ?? null)
  const tape = computed<Tape | null>(() => {
    if (!step.value || !practice.isOpen.value) return null
    const { start, end } = range.value
    const { record } = sound.value
    const isHeard = record !== 'off' && hasRecording()
    return {
      start,
      end,
      rate: share.value,
      strokes: notes.value
        .filter((note) => !note.limb || !muted.value.has(note.limb))
        .map((note) => ({
          time: note.time,
          instrument: note.instrument,
          velocity: note.velocity,
          late: note.late,
          half: note.half,
          everyOther: detail.value !== 'none' && isDetail(note),
        })),
      words: sound.value.voice ? step.value.voice.filter((word) => word.time >= start - 1e-6 && word.time < end - 1e-6) : [],
      click: sound.value.click,
      silence:
        sound.value.isTested && firstBar.value
          ? { ...TESTED, barLength: firstBar.value.end - firstBar.value.start }
          : null,
      balance: { record: isHeard ? RECORD_BESIDE : 0, kit: sound.value.kit ? 1 : 0 },
      record: isHeard ? record : 'record',
      countIn: sound.value.countIn,
    }
  })
  watch(tape, (now) => (player.tape.value = now), { immediate: true })

  /** As many strokes as were asked for in so many passes, in seconds since playing began. */
  function wanted(count: number): Wanted[] {
    const { start, end } = range.value
    const turn = end - start
    return Array.from({ length: count }, (_, pass) =>
      notes.value
        .filter((note) => detail.value === 'none' || !isDetail(note) || pass % 2 === 1)
        .map((note) => ({
          time: Math.max(0, (pass * turn + note.time - start) / share.value),
          instrument: note.instrument,
          limb: note.limb,
          velocity: Math.max(1, note.velocity),
          ghost: note.ghost,
          accent: note.accent,
        })),
    ).flat()
  }

  const secondsPlayed = () => secondsBefore + (begun === null ? 0 : (performance.now() - begun) / 1000)

  /** Enter what was played at this tempo, and begin to count anew. */
  function closeEntry(told: readonly string[] = []): void {
    const own = step.value
    const minutes = secondsPlayed() / 60
    if (own && minutes >= LEAST_MINUTES) {
      practice.enter({
        target: practice.target.value,
        step: own.key,
        title: own.title,
        share: share.value,
        bpm: bpm.value,
        loops: passes.value,
        minutes: Math.round(minutes * 100) / 100,
        feeling: feeling.value,
        level_db: Math.max(30, level.value),
        told: [...told],
      })
    }
    countedBefore = 0
    passes.value = 0
    secondsBefore = 0
    begun = player.isPlaying.value ? performance.now() : null
  }

  const level = computed(() => (step.value?.level_db ?? 0) - sound.value.protection)

  watch(player.isPlaying, (now) => {
    if (now) begun = performance.now()
    else {
      secondsBefore = secondsPlayed()
      begun = null
      countedBefore = passes.value
    }
  })
  watch(
    () => player.position.value,
    () => {
      if (!player.isPlaying.value || !tape.value) return
      const now = countedBefore + player.passes()
      if (now <= passes.value) return
      passes.value = now
      if (sound.value.climbs && !isHeld.value && step.value && passes.value >= step.value.loops) climb(1)
    },
  )

  /** Begin again at the beginning of the loop, with a count-in. */
  async function again(): Promise<void> {
    player.pause()
    await player.play()
  }

  function climb(by: -1 | 1, told: readonly string[] = []): void {
    const top = (step.value?.rungs.length ?? 1) - 1
    const next = Math.min(top, Math.max(0, rung.value + by))
    if (next === rung.value) return
    const wasPlaying = player.isPlaying.value
    closeEntry(told)
    rung.value = next
    // The new tempo is counted in: nobody falls into it.
    if (wasPlaying) void again()
  }

  function zoom(): void {
    const count = step.value?.windows.length ?? 0
    if (!count) return
    const wasPlaying = player.isPlaying.value
    closeEntry()
    window.value = window.value === null ? 0 : window.value + 1 < count ? window.value + 1 : null
    if (wasPlaying) void again()
  }

  function go(by: -1 | 1): void {
    const next = practice.at.value + by
    if (next < 0 || next >= practice.steps.value.length) return
    const wasPlaying = player.isPlaying.value
    closeEntry()
    practice.goTo(next)
    if (wasPlaying) void again()
  }

  /** Of another step nothing is known yet: it begins at its own first rung. */
  watch(
    () => step.value?.key,
    () => {
      rung.value = rungOf(step.value)
      window.value = null
      asItIs()
      coming = null
    },
    { immediate: true },
  )

  /** Where the log says that one was, or the first rung. */
  function rungOf(own: PracticeStep | null): number {
    const due = practice.overview.value?.session.find((item) => item.target === practice.target.value && item.step === own?.key)
    if (!own || !due?.share) return 0
    return Math.max(0, own.rungs.findLastIndex((item) => item.share <= due.share + 1e-6))
  }

  function toggleLimb(limb: Limb): void {
    const next = new Set(muted.value)
    if (!next.delete(limb)) next.add(limb)
    muted.value = next
  }

  let seed = 0
  function pass(body: { seed?: number; called?: { bar: number; position: string; instrument: Instrument }[] }) {
    return taken(
      api.POST('/api/songs/{song_id}/practice/variation/{target}', {
        params: { path: { song_id: songId, target: practice.target.value } },
        body: { ...body, school: practice.school.value },
      }),
    ).catch(() => null)
  }

  async function fetchPass(): Promise<void> {
    seed += 1
    coming = await pass({ seed })
  }

  /** The next pass of a free variation; the groove's core stays. The one after it is fetched ahead. */
  async function vary(): Promise<void> {
    isOnCall.value = false
    if (!coming) await fetchPass()
    varied.value = coming?.notes ?? null
    called.value = coming?.taken ?? []
    void fetchPass()
  }

  /** Just these notes beside the core: they stay until others are called. */
  async function call(names: readonly string[]): Promise<void> {
    const wanted = choices.value.filter((item) => names.includes(item.name))
    const found = await pass({
      called: wanted.map(({ bar, position, instrument }) => ({ bar, position, instrument })),
    })
    if (!found) return
    isOnCall.value = true
    varied.value = found.notes
    called.value = found.taken
  }

  /** Surprise note that is not there, or leave it out again. */
  function callOne(name: string): Promise<void> {
    const now = called.value
    return call(now.includes(name) ? now.filter((item) => item !== name) : [...now, name])
  }

  /** One after the other, each alone: "now the & of 3". */
  function callNext(): Promise<void> {
    const all = choices.value
    const at = all.findIndex((item) => isOnCall.value && called.value.includes(item.name))
    const next = all[(at + 1) % Math.max(1, all.length)]
    return next ? call([next.name]) : Promise.resolve()
  }

  function asItIs(): void {
    isOnCall.value = false
    varied.value = null
    called.value = []
  }

  // Once begun, every other pass is another one: twice is what it takes to hear it.
  watch(passes, (now, before) => {
    if (varied.value && !isOnCall.value && now > before && now % PASSES_EACH === 0) void vary()
  })

  function leave(told: readonly string[] = []): void {
    player.pause()
    closeEntry(told)
    practice.isOpen.value = false
  }

  onScopeDispose(() => {
    if (practice.isOpen.value) leave()
    player.tape.value = null
  })

  return {
    sound,
    rung,
    share,
    bpm,
    window,
    range,
    notes,
    muted,
    toggleLimb,
    limbs: computed(() => LIMBS.filter((limb) => step.value?.notes.some((note) => note.limb === limb))),
    detail,
    varied,
    called,
    choices,
    vary,
    callOne,
    callNext,
    asItIs,
    passes,
    isHeld,
    feeling,
    level,
    secondsPlayed,
    wanted,
    again,
    faster: () => climb(1),
    slower: () => climb(-1),
    climb,
    zoom,
    next: () => go(1),
    before: () => go(-1),
    leave,
    tape,
  }
}

export type PracticeRun = ReturnType<typeof useRun>
