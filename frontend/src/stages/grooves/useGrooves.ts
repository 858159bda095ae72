/** What is found about the grooves: fetched with the stage, and again when edits have come to rest. */
import { useQueries, useQuery } from '@tanstack/vue-query'
import { useIntervalFn, useTimeoutFn } from '@vueuse/core'
import { computed, ref, type ShallowRef, shallowRef, watch } from 'vue'
import { api, type Grooves, type Phrase, type PhraseNote, type Relisten, type Score, type Shade, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import { askedAsLayers } from './offers'

const SHADES_AT_ONCE = 100
/** An answer that is behind is asked for again, but not for ever. */
const MOST_TRIES = 5
/** So long an answer is waited for before it is asked for once more. */
const PATIENCE_MS = 3000
const LOOK_MS = 1500
/** Edits that come faster one after the other than this are a series: it is waited for its end. */
const IN_A_ROW_MS = 250
/** As the server has it: the song's own recording. */
export const OWN_RECORDING = 0

export interface BarPhrase {
  phrase: Phrase
  /** Which bar of the phrase it is, from 0. */
  step: number
  notes: readonly PhraseNote[]
}

export function useGrooves(songId: string, score: ShallowRef<Score | null>, isShown: () => boolean) {
  const of = { params: { path: { song_id: songId } } }
  const isEnabled = computed(isShown)

  // Together with the score, not after it: both are on their way when the page opens. Phrases that come
  // back as they were keep their identity, so that their rows are not drawn again.
  const query = useQuery({
    queryKey: ['grooves', songId],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/grooves', of)),
    enabled: isEnabled,
  })
  const grooves = computed<Grooves | null>(() => query.data.value ?? null)
  // As soon as an edit is stored; those that are made while an answer is under way are asked for after it.
  let askedAt = -Infinity
  async function follow(): Promise<void> {
    if (performance.now() - askedAt < PATIENCE_MS) return
    for (let tries = 0; tries < MOST_TRIES; tries++) {
      const wanted = score.value?.revision
      if (!isEnabled.value || wanted === undefined || !grooves.value || grooves.value.revision >= wanted) break
      askedAt = performance.now()
      if ((await query.refetch()).isError) break
    }
    askedAt = -Infinity
  }
  // A hand that makes edit after edit is not held up by answers that the next edit makes stale.
  const afterwards = useTimeoutFn(() => void follow(), IN_A_ROW_MS, { immediate: false })
  let storedAt = -Infinity
  watch([() => score.value?.revision, isEnabled, () => grooves.value?.revision], ([revision], [before]) => {
    if (revision !== before) {
      const isInARow = performance.now() - storedAt < IN_A_ROW_MS
      storedAt = performance.now()
      if (isInARow) return void afterwards.start()
    }
    if (!afterwards.isPending.value) void follow()
  })
  // An answer may be lost on its way: it is asked for once more, and the lost one is not waited for.
  useIntervalFn(() => {
    if (!afterwards.isPending.value) void follow()
  }, LOOK_MS)

  const shadeSource = ref(OWN_RECORDING)
  /** Evidence rests on the grid alone: it is fetched anew when bars or their divisions change, or the source. */
  const spans = computed(() => {
    const bars = score.value?.bars ?? []
    return Array.from({ length: Math.ceil(bars.length / SHADES_AT_ONCE) }, (_, index) => {
      const some = bars.slice(index * SHADES_AT_ONCE, (index + 1) * SHADES_AT_ONCE)
      const cells = some.map((bar) => bar.cells.length).join(' ')
      const grid = `${bars.length} ${bars[0]?.start} ${bars.at(-1)?.end} ${cells}`
      return { grid, first: some[0]!.number, last: some.at(-1)!.number }
    })
  })
  const evidence = useQueries({
    queries: computed(() =>
      spans.value.map(({ grid, first, last }) => ({
        queryKey: ['shades', songId, shadeSource.value, grid, first],
        queryFn: () =>
          taken(
            api.GET('/api/songs/{song_id}/evidence', {
              params: { ...of.params, query: { first, last, source: shadeSource.value || undefined } },
            }),
          ),
        enabled: isEnabled.value,
        staleTime: Infinity,
        retry: false,
      })),
    ),
    combine: (found) => ({
      isMissing: found.some((item) => item.isError),
      bars: new Map<number, Shade>(found.flatMap((item) => (item.data ?? []).map((shade) => [shade.bar, shade]))),
    }),
  })

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

  /** What the tool would write otherwise, once it was asked; null again when that is settled. */
  const relisten = shallowRef<Relisten | null>(null)
  const again = useQuery({
    queryKey: ['relisten', songId],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/relisten', of)),
    enabled: false,
    retry: false,
    gcTime: 0,
  })
  async function listenAgain(): Promise<void> {
    const { data, isSuccess } = await again.refetch()
    if (isSuccess) relisten.value = data
  }

  const unplayable = computed<ReadonlyMap<number, { position: string; words: string }[]>>((before) => {
    const found = new Map<number, { position: string; words: string }[]>()
    for (const section of grooves.value?.sections ?? [])
      for (const spot of section.unplayable) found.set(spot.bar, [...(found.get(spot.bar) ?? []), spot])
    // Nearly always there is none, before and after: then nothing has changed.
    return before && !before.size && !found.size ? before : found
  })
  /** Their bars, for the ribbon. */
  const unplayableBars = computed(() => [...unplayable.value.keys()])

  /** Notes that a fact of the panel is about, lit in every bar of the phrase that has them. */
  const lit = shallowRef<{ words: string; places: ReadonlySet<string> } | null>(null)
  function light(words: string, phrase: Phrase, notes: readonly { bar: number; position: string; instrument: string }[]): void {
    if (lit.value?.words === words) {
      lit.value = null
      return
    }
    const places = new Set<string>()
    for (let index = 0; index < phrase.bars; index++)
      for (const note of notes)
        if (note.bar === index % phrase.length) places.add(`${phrase.first_bar + index} ${note.position} ${note.instrument}`)
    lit.value = { words, places }
  }

  const review = computed(() => grooves.value?.review ?? [])

  return {
    grooves,
    review,
    lit,
    light,
    /** By bar: what one player on the kit of the song cannot play. */
    unplayable,
    unplayableBars,
    layers: computed(() => askedAsLayers(review.value)),
    shades: computed<ReadonlyMap<number, Shade>>(() => evidence.value.bars),
    shadeSource,
    showShadesOf: (source: number) => (shadeSource.value = source),
    hasEvidence: computed(() => !evidence.value.isMissing),
    phrases,
    settled: computed(() => new Set(grooves.value?.settled_bars ?? [])),
    problem: computed(() => problemWords(query.error.value)),
    fetchGrooves: () => query.refetch(),
    relisten,
    isRelistening: again.isFetching,
    relistenProblem: computed(() => problemWords(again.error.value)),
    listenAgain,
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

export type GrooveFindings = ReturnType<typeof useGrooves>
