/** What is found about the grooves: fetched with the stage, and again when edits have come to rest. */
import { computed, onScopeDispose, ref, shallowRef, type ShallowRef, watch } from 'vue'
import { api, type Grooves, type Phrase, type PhraseNote, type Relisten, type Score, type Shade, taken } from '@/api/client'

const STILLNESS_MS = 900
const SHADES_AT_ONCE = 100
/** As the server has it: the song's own recording. */
export const OWN_RECORDING = 0

export interface BarPhrase {
  phrase: Phrase
  /** Which bar of the phrase it is, from 0. */
  step: number
  notes: readonly PhraseNote[]
}

export function useGrooves(songId: string, score: ShallowRef<Score | null>, isShown: () => boolean) {
  const grooves = shallowRef<Grooves | null>(null)
  const shades = shallowRef<ReadonlyMap<number, Shade>>(new Map())
  const shadeSource = ref(OWN_RECORDING)
  const hasEvidence = ref(true)
  const relisten = shallowRef<Relisten | null>(null)
  const isRelistening = ref(false)
  const problem = ref('')
  const of = { params: { path: { song_id: songId } } }
  let timer: ReturnType<typeof setTimeout> | undefined
  let shadesOf = ''

  let isFetching = false
  async function fetchGrooves(): Promise<void> {
    isFetching = true
    try {
      grooves.value = keptWhereSame(grooves.value, await taken(api.GET('/api/songs/{song_id}/grooves', of)))
      problem.value = ''
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error)
    } finally {
      isFetching = false
    }
  }

  /** Evidence rests on the grid alone: it is fetched anew when the bars are, or the source is. */
  async function fetchShades(): Promise<void> {
    const bars = score.value?.bars ?? []
    const key = `${shadeSource.value} ${bars.length} ${bars[0]?.start} ${bars.at(-1)?.end}`
    if (!bars.length || key === shadesOf) return
    shadesOf = key
    const found = new Map<number, Shade>()
    for (let first = 0; first < bars.length; first += SHADES_AT_ONCE) {
      const last = bars[Math.min(bars.length, first + SHADES_AT_ONCE) - 1]!
      const query = { first: bars[first]!.number, last: last.number, source: shadeSource.value || undefined }
      try {
        const some = await taken(
          api.GET('/api/songs/{song_id}/evidence', { params: { ...of.params, query } }),
        )
        for (const shade of some) found.set(shade.bar, shade)
      } catch {
        hasEvidence.value = false
        return
      }
      if (key !== shadesOf) return
      shades.value = new Map(found)
    }
  }

  // Together with the score, not after it: both are on their way when the page opens.
  if (isShown()) void fetchGrooves()
  watch(
    [() => score.value?.revision, isShown],
    ([revision, shown]) => {
      clearTimeout(timer)
      if (!shown || revision === undefined || grooves.value?.revision === revision) return
      if (isFetching && !grooves.value) return
      timer = setTimeout(() => void fetchGrooves(), grooves.value ? STILLNESS_MS : 0)
    },
    { immediate: true },
  )
  watch([() => score.value?.bars, isShown, shadeSource], ([, shown]) => {
    if (shown) void fetchShades()
  }, { immediate: true })
  onScopeDispose(() => clearTimeout(timer))

  /** For each bar its phrase, and the notes that are typical of it. */
  const phrases = computed<ReadonlyMap<number, BarPhrase>>(() => {
    const found = new Map<number, BarPhrase>()
    for (const section of grooves.value?.sections ?? [])
      for (const phrase of section.phrases) {
        const steps = notesByStep(phrase)
        for (let index = 0; index < phrase.bars; index++) {
          const step = index % phrase.length
          found.set(phrase.first_bar + index, { phrase, step, notes: steps[step]! })
        }
      }
    return found
  })
  const settled = computed(() => new Set(grooves.value?.settled_bars ?? []))

  async function listenAgain(): Promise<void> {
    isRelistening.value = true
    try {
      relisten.value = await taken(api.GET('/api/songs/{song_id}/relisten', of))
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error)
    } finally {
      isRelistening.value = false
    }
  }

  return {
    grooves,
    shades,
    shadeSource,
    showShadesOf: (source: number) => (shadeSource.value = source),
    hasEvidence,
    phrases,
    settled,
    problem,
    relisten,
    isRelistening,
    listenAgain,
    fetchGrooves,
  }
}

const stepsOf = new WeakMap<Phrase, PhraseNote[][]>()

/** The same lists for the same phrase: rows that do not change are not drawn again. */
export function notesByStep(phrase: Phrase): PhraseNote[][] {
  const known = stepsOf.get(phrase)
  if (known) return known
  const steps = Array.from({ length: phrase.length }, (_, step) => phrase.notes.filter((note) => note.bar === step))
  stepsOf.set(phrase, steps)
  return steps
}

/** Phrases that came back as they were keep their identity. */
function keptWhereSame(old: Grooves | null, fresh: Grooves): Grooves {
  const known = new Map(
    (old?.sections ?? []).flatMap((section) => section.phrases.map((phrase) => [JSON.stringify(phrase), phrase])),
  )
  return {
    ...fresh,
    sections: fresh.sections.map((section) => ({
      ...section,
      phrases: section.phrases.map((phrase) => known.get(JSON.stringify(phrase)) ?? phrase),
    })),
  }
}

export type GrooveFindings = ReturnType<typeof useGrooves>
