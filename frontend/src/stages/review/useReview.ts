/** The queue of questions: which one is in front, what has been skipped, what an answer does. */
import { computed, ref, type ShallowRef, watch } from 'vue'
import type { Hit, ReviewQuestion, Score } from '@/api/client'
import type { StackCursor } from '@/stages/grooves/useCursor'
import type { GrooveFindings } from '@/stages/grooves/useGrooves'
import type { useScore } from '@/score/useScore'
import type { SongPlayer } from '@/transport/usePlayer'
import { answered } from './answered'

/** Two bars heard twice, and the answer. */
const SECONDS_A_QUESTION = 20

type Loops = { loopDoubt: (bar: number) => void }

export function useReview(
  score: ShallowRef<Score | null>,
  part: ReturnType<typeof useScore>,
  found: GrooveFindings,
  stack: StackCursor,
  player: SongPlayer,
  loops: Loops,
  takeReading: (key: string) => Promise<boolean>,
) {
  const questions = computed<readonly ReviewQuestion[]>(() => found.grooves.value?.review ?? [])
  /** Answered here, while the list of what is left is on its way. */
  const answeredKeys = ref<readonly string[]>([])
  const skipped = ref<readonly string[]>([])
  const isAnswering = ref(false)
  const steps: ('skip' | 'answer')[] = []
  const open = computed(() => questions.value.filter((item) => !answeredKeys.value.includes(item.key)))
  const question = computed(() => open.value.find((item) => !skipped.value.includes(item.key)) ?? null)
  const done = ref(0)
  const minutes = computed(() => Math.max(1, Math.round((open.value.length * SECONDS_A_QUESTION) / 60)))

  /** Which of the places is shown: the examples first, then one place of each further bar. */
  const turn = ref(0)
  const shownBars = computed(() => {
    const item = question.value
    if (!item) return []
    return [...new Set([...item.examples.map((hit) => hit.bar), ...item.bars])]
  })
  const bar = computed(() => {
    const number = shownBars.value[turn.value % Math.max(1, shownBars.value.length)]
    return score.value?.bars.find((item) => item.number === number) ?? null
  })
  const marked = computed<readonly Hit[]>(() => {
    const item = question.value
    const home = bar.value
    if (!item || !home) return []
    if (item.is_missing) return item.examples.filter((hit) => hit.bar === home.number)
    const places = new Set(item.places.filter((place) => place.bar === home.number).map((place) => `${place.position} ${place.instrument}`))
    return home.hits.filter((hit) => places.has(`${hit.position} ${hit.instrument}`))
  })

  function show(step: 1 | -1): void {
    const many = shownBars.value.length
    if (many) turn.value = (turn.value + step + many) % many
    goThere()
  }

  /** The cursor goes along: whoever changes to Grooves is where the question is. */
  function goThere(): void {
    const home = bar.value
    if (!home) return
    const hit = marked.value[0]
    stack.place({ bar: home.number, position: hit?.position ?? '0' })
    if (player.settings.value.loop) loops.loopDoubt(home.number)
  }

  function listen(): void {
    const home = bar.value
    if (!home) return
    const loop = player.settings.value.loop
    if (loop?.first === home.number && loop.last === home.number && player.isPlaying.value) {
      player.pause()
      return
    }
    player.settings.value.hearing = player.preview.value ? player.settings.value.hearing : 'record'
    loops.loopDoubt(home.number)
    void player.play()
  }

  /** The chart as it would be with an answer, on the kit. */
  function hear(value: string): void {
    const item = question.value
    const home = bar.value
    if (!item || !home) return
    player.preview.value = (written) => answered(written, item, value)
    player.settings.value.hearing = 'kit'
    loops.loopDoubt(home.number)
    void player.play()
  }

  function hearRecord(): void {
    player.preview.value = null
    player.settings.value.hearing = 'record'
    const home = bar.value
    if (!home) return
    loops.loopDoubt(home.number)
    void player.play()
  }

  watch(
    () => question.value?.key,
    () => {
      turn.value = 0
      player.preview.value = null
      if (question.value) goThere()
    },
  )

  async function answer(value: string): Promise<void> {
    const item = question.value
    if (!item || isAnswering.value) return
    isAnswering.value = true
    const isCounting = item.kind === 'counting'
    try {
      const taken = isCounting
        ? await count(item, value)
        : await part.gesture({ kind: 'answer', question: item.key, answer: value })
      if (!taken) return
      steps.push('answer')
      done.value += 1
      answeredKeys.value = [...answeredKeys.value, item.key]
    } finally {
      isAnswering.value = false
    }
  }

  async function count(item: ReviewQuestion, value: string): Promise<boolean> {
    if (value !== item.answers[0]?.value && !(await takeReading(value))) return false
    return part.confirm('meter', true)
  }

  async function answerBy(index: number): Promise<void> {
    const value = question.value?.answers[index]?.value
    if (value !== undefined) await answer(value)
  }

  function skip(): void {
    const item = question.value
    if (!item) return
    steps.push('skip')
    skipped.value = [...skipped.value, item.key]
  }

  async function back(): Promise<void> {
    const step = steps.pop()
    if (step === 'skip') skipped.value = skipped.value.slice(0, -1)
    if (step !== 'answer') return
    answeredKeys.value = answeredKeys.value.slice(0, -1)
    done.value = Math.max(0, done.value - 1)
    await part.undo()
  }

  return {
    open,
    question,
    done,
    minutes,
    skipped,
    isAnswering,
    bar,
    marked,
    shownBars,
    turn,
    show,
    listen,
    hear,
    hearRecord,
    answer,
    answerBy,
    skip,
    back,
    /** All that was skipped, once more. */
    again: () => (skipped.value = []),
    leave: () => (player.preview.value = null),
  }
}

export type Review = ReturnType<typeof useReview>
