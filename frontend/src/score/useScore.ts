/** The written part of one song, and its edits: shown at once, stored within a second. */
import { useLocalStorage } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import {
  api,
  type Bar,
  type BeatNotation,
  type Compared,
  type DivisionWish,
  type Edited,
  type FillAsked,
  type FormChange,
  type GestureWish,
  type Hit,
  type PartAsked,
  Problem,
  type Score,
  taken,
  type Written,
} from '@/api/client'
import { isStillMine, useSession } from '@/session/useSession'
import { barOf, changedBars, editsBetween, type EditValue, newId } from './edits'

const RETRY_MS = 2500
const PARTS_MS = 2000
const TO_READ = 'You may read this song, not change it: ask its owner to let you work on it.'

export type Finding = 'tempo' | 'meter' | 'first beat' | 'feel'
export type SaveState = 'saved' | 'saving' | 'kept' | 'signed-out'

interface Waiting {
  client_id: string
  edits: EditValue[]
  words?: string
}

/** A bar that somebody else changed while it was changed here. */
export interface Conflict {
  bar: number
  mine: Hit[]
  theirs: Hit[]
}

/** `mayEdit`: not where one may only read the song; his edits are refused in a sentence. */
export function useScore(songId: string, mayEdit: { readonly value: boolean } = { value: true }) {
  const score = shallowRef<Score | null>(null)
  const problem = ref('')
  const notice = ref('')
  const isFetching = ref(false)
  const isChanging = ref(false)
  const lost = ref(false)
  const { signedOut } = useSession()
  /** Edits that are not stored yet survive a reload, and are sent when the server is back. */
  const waiting = useLocalStorage<Waiting[]>(`orchesis.waiting.${songId}`, [])
  // Edits that an earlier version kept stood alone; they are sent all the same.
  waiting.value = waiting.value.map((item) =>
    item.edits ? item : { client_id: item.client_id, edits: [item as unknown as EditValue] },
  )
  const conflicts = ref<Conflict[]>([])
  /** The last single edit, which can go to the bars like its own. */
  const lastEdits = shallowRef<readonly EditValue[]>([])
  const of = { params: { path: { song_id: songId } } }
  let retry: ReturnType<typeof setTimeout> | undefined
  /** The sending that is under way, so that whoever must wait for it can. */
  let sending: Promise<void> | null = null
  /** The change, gesture or undo that was asked for last: the next one waits until it is answered. */
  let turn: Promise<unknown> = Promise.resolve()
  let isAsking = false

  const saveState = computed<SaveState>(() => {
    if (waiting.value.length === 0) return 'saved'
    if (signedOut.value) return 'signed-out'
    return lost.value ? 'kept' : 'saving'
  })

  async function fetchScore(): Promise<void> {
    isFetching.value = true
    problem.value = ''
    try {
      const [written, mine] = await Promise.all([
        taken(api.GET('/api/songs/{song_id}/score', of)),
        taken(api.GET('/api/songs/{song_id}/mine', of)),
      ])
      score.value = withWaiting({ ...written, ...mine })
      lookForParts()
    } catch (error) {
      problem.value = words(error)
    } finally {
      isFetching.value = false
    }
    void send()
  }

  let looking: ReturnType<typeof setTimeout> | undefined
  /** The record is taken apart after the chart is there: its parts are offered when they come. */
  function lookForParts(): void {
    clearTimeout(looking)
    if (!score.value?.parts_coming) return
    looking = setTimeout(async () => {
      const { data } = await api.GET('/api/songs/{song_id}/mine', of).catch(() => ({ data: undefined }))
      const { parts, parts_coming } = data ?? {}
      if (score.value && parts && parts_coming !== undefined) score.value = { ...score.value, parts, parts_coming }
      lookForParts()
    }, PARTS_MS)
  }
  onScopeDispose(() => clearTimeout(looking))

  function withEdits(from: Score, edits: readonly EditValue[]): Score | null {
    const bars = changedBars(from.bars, edits)
    return bars && { ...from, bars }
  }

  /** A stored song as it will be with the edits that are still on their way. */
  function withWaiting(stored: Score): Score {
    return waiting.value.reduce((shown, item) => withEdits(shown, item.edits) ?? shown, stored)
  }

  /** Show edits now and store them, as one, as soon as possible. False where they do not fit. */
  function make(edits: EditValue[], words?: string): boolean {
    if (!score.value || edits.length === 0) return false
    if (!mayEdit.value) {
      notice.value = TO_READ
      return false
    }
    const shown = withEdits(score.value, edits)
    if (!shown) return false
    score.value = { ...shown, can_undo: true, can_redo: false }
    lastEdits.value = edits
    notice.value = ''
    waiting.value = [...waiting.value, { edits, words, client_id: newId() }]
    void send()
    return true
  }

  function send(): Promise<void> {
    // While the whole song is being changed, edits wait: they are to be stored after it.
    if (!sending && waiting.value.length > 0 && !isAsking) sending = sendAll()
    return sending ?? Promise.resolve()
  }

  async function sendAll(): Promise<void> {
    clearTimeout(retry)
    try {
      while (waiting.value.length > 0) {
        const first = waiting.value[0]!
        const answer = await taken(
          api.POST('/api/songs/{song_id}/edits', { ...of, body: first }),
        )
        lost.value = false
        waiting.value = waiting.value.slice(1)
        take(answer)
      }
    } catch (error) {
      await failed(error)
    } finally {
      sending = null
    }
    // What stood behind a refused edit is sent all the same.
    if (!lost.value) void send()
  }

  /**
   * Asks of the whole song one after the other, each when what is on its way is stored: an undo right after
   * a change means that change, although it is shown before it is stored. Null, with a notice, where it is not.
   */
  function inTurn<T>(waits: string, ask: () => Promise<T>): Promise<T | null> {
    const next = turn.then(async () => {
      await send()
      if (waiting.value.length > 0) {
        notice.value = `Some edits are not stored yet: ${waits} until they are.`
        return null
      }
      isAsking = true
      try {
        return await ask()
      } catch (error) {
        notice.value = words(error)
        return null
      } finally {
        isAsking = false
        void send()
      }
    })
    turn = next
    return next
  }

  async function failed(error: unknown): Promise<void> {
    if (error instanceof Problem && error.mayPass) {
      lost.value = true
      retry = setTimeout(() => void send(), RETRY_MS)
      return
    }
    if (error instanceof Problem && (error.isSignedOut || (error.status === 404 && !(await isStillMine())))) {
      // Nothing is wrong with the edit: it waits for whoever made it.
      lost.value = true
      return
    }
    lost.value = false
    const refused = waiting.value[0]
    const mine = score.value?.bars ?? []
    // It can never be stored: say so, and show what is stored.
    waiting.value = waiting.value.slice(1)
    if (error instanceof Problem && error.code === 'conflict' && refused) {
      const touched = new Set(refused.edits.map(barOf))
      // Later edits of those bars rest on what is not there: they are settled together with it.
      waiting.value = waiting.value.filter((item) => !item.edits.some((edit) => touched.has(barOf(edit))))
      await fetchScore()
      conflicts.value = [
        ...conflicts.value.filter((item) => !touched.has(item.bar)),
        ...[...touched].flatMap((number) => conflictIn(number, mine)),
      ]
    } else await fetchScore()
    notice.value = words(error)
  }

  function conflictIn(number: number, before: readonly Bar[]): Conflict[] {
    const mine = before.find((item) => item.number === number)?.hits ?? []
    const theirs = score.value?.bars.find((item) => item.number === number)?.hits ?? []
    return editsBetween(theirs, mine).length ? [{ bar: number, mine, theirs }] : []
  }

  /** Settle a bar that two people changed: theirs is stored already, mine is an edit of it. */
  function resolve(number: number, choice: 'mine' | 'theirs'): void {
    const conflict = conflicts.value.find((item) => item.bar === number)
    conflicts.value = conflicts.value.filter((item) => item.bar !== number)
    if (!conflict || choice === 'theirs') return
    const now = score.value?.bars.find((item) => item.number === number)?.hits ?? []
    make(editsBetween(now, conflict.mine), `Bar ${number} as it was changed here`)
  }

  function take(answer: Edited): void {
    if (!score.value) return
    notice.value = answer.words
    // Later edits of the same bar may be on their way: their outcome is not in this answer.
    const pending = new Set(waiting.value.flatMap((item) => item.edits.map(barOf)))
    const fresh = new Map(answer.bars.filter((bar) => !pending.has(bar.number)).map((bar) => [bar.number, bar]))
    const bars = fresh.size
      ? score.value.bars.map((bar) => {
          const stored = fresh.get(bar.number)
          return stored ? { ...bar, hits: stored.hits, revision: stored.revision } : bar
        })
      : score.value.bars
    score.value = {
      ...score.value,
      bars,
      revision: answer.revision,
      can_undo: answer.can_undo,
      can_redo: answer.can_redo,
    }
  }

  /** Where all of the song has changed the answer holds it whole; what is one's own comes beside it. */
  function showWhole(answer: Edited): void {
    if (!answer.score || !score.value) return
    const { can_undo, can_redo } = answer
    score.value = withWaiting({ ...score.value, ...answer.score, can_undo, can_redo })
  }

  /** A gesture that the tool works out: it waits for what is on its way. */
  async function gesture(wish: GestureWish): Promise<boolean> {
    const body = { ...wish, client_id: newId() }
    const answer = await inTurn('this waits', () => taken(api.POST('/api/songs/{song_id}/gestures', { ...of, body })))
    if (answer) take(answer)
    return answer !== null
  }

  async function travel(path: '/api/songs/{song_id}/undo' | '/api/songs/{song_id}/redo'): Promise<Edited | null> {
    return inTurn('undo waits', async () => {
      const answer = await taken(api.POST(path, of))
      showWhole(answer)
      take(answer)
      return answer
    })
  }

  /**
   * A change of the whole song: stored first, then all is shown anew. False when it was refused.
   * `preview`: how the song will be, where that is known: it is shown while it is being stored.
   */
  async function change(ask: () => Promise<Edited>, preview?: () => Written | null): Promise<boolean> {
    const answer = await inTurn('this waits', async () => {
      isChanging.value = true
      const before = score.value
      const shown = preview?.()
      if (shown && before) score.value = { ...before, ...shown, can_undo: true, can_redo: false }
      try {
        const changed = await ask()
        showWhole(changed)
        notice.value = changed.words
        return changed
      } catch (error) {
        score.value = before
        throw error
      } finally {
        isChanging.value = false
      }
    })
    return answer !== null
  }

  function nothingWaits(): void {
    if (score.value) score.value = { ...score.value, heard_again: false }
  }

  watch(signedOut, (out) => {
    if (!out && waiting.value.length > 0) void send()
  })
  onScopeDispose(() => clearTimeout(retry))

  return {
    score,
    problem,
    notice,
    isFetching,
    saveState,
    waiting: computed(() => waiting.value.length),
    isChanging,
    fetchScore,
    make,
    gesture,
    lastEdits,
    conflicts,
    resolve,
    change,
    takeReading: (key: string, preview?: () => Written | null) =>
      change(() => taken(api.POST('/api/songs/{song_id}/reading', { ...of, body: { key } })), preview),
    layTaps: (taps: number[], beats_a_bar: number) =>
      change(() => taken(api.POST('/api/songs/{song_id}/taps', { ...of, body: { taps, beats_a_bar } }))),
    shiftDownbeats: (beats: number) =>
      change(() => taken(api.POST('/api/songs/{song_id}/downbeats/shift', { ...of, body: { beats } }))),
    evenOutBar: (bar: number) =>
      change(() => taken(api.POST('/api/songs/{song_id}/bars/even-out', { ...of, body: { bar } }))),
    writeBeats: (notation: BeatNotation) =>
      change(() => taken(api.POST('/api/songs/{song_id}/beat-notation', { ...of, body: { notation } }))),
    divideBeats: (body: DivisionWish) =>
      change(() => taken(api.POST('/api/songs/{song_id}/division', { ...of, body }))),
    layTempo: (bpm: number, beats_a_bar: number) =>
      change(() => taken(api.POST('/api/songs/{song_id}/tempo', { ...of, body: { bpm, beats_a_bar } }))),
    moveBarLine: (bar: number, time: number) =>
      change(() => taken(api.POST('/api/songs/{song_id}/bar-line', { ...of, body: { bar, time } }))),
    confirm: (finding: Finding, confirmed: boolean) =>
      change(() => taken(api.POST('/api/songs/{song_id}/confirm', { ...of, body: { finding, confirmed } }))),
    decideFill: (body: FillAsked) => change(() => taken(api.POST('/api/songs/{song_id}/fills', { ...of, body }))),
    setCue: (bar: number, words: string) =>
      change(() => taken(api.POST('/api/songs/{song_id}/cues', { ...of, body: { bar, words } }))),
    decidePart: (body: PartAsked) => change(() => taken(api.POST('/api/songs/{song_id}/parts', { ...of, body }))),
    /** A drum part of another program: compared with the song, or taken over. Null where it was refused. */
    comparePart: async (file: File, take: boolean): Promise<Compared | null> => {
      let found: Compared | null = null
      const ask = async () => {
        const body = new FormData()
        body.append('file', file)
        if (take) body.append('take', 'true')
        found = await taken(
          api.POST('/api/songs/{song_id}/part-file', { ...of, body: body as never, bodySerializer: (sent) => sent as never }),
        )
        return found.edited!
      }
      if (take) return (await change(ask)) ? found : null
      try {
        await ask()
      } catch (error) {
        notice.value = words(error)
      }
      return found
    },
    giveHands: (sixteenths: '' | 'by tempo' | 'one hand' | 'two hands' = '') =>
      change(() => taken(api.POST('/api/songs/{song_id}/hands', { ...of, body: { sixteenths } }))),
    changeForm: (body: FormChange) => change(() => taken(api.POST('/api/songs/{song_id}/form', { ...of, body }))),
    /** What a new run heard: taken as a step, or left. */
    takeHeard: () => change(() => taken(api.POST('/api/songs/{song_id}/heard-again', of))).then(nothingWaits),
    leaveHeard: () => taken(api.DELETE('/api/songs/{song_id}/heard-again', of)).then(nothingWaits, (error: unknown) => {
      notice.value = words(error)
    }),
    undo: () => travel('/api/songs/{song_id}/undo'),
    redo: () => travel('/api/songs/{song_id}/redo'),
  }
}

function words(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}

