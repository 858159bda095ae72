/** The written part of one song, and its edits: shown at once, stored within a second. */
import { useLocalStorage } from '@vueuse/core'
import { computed, onScopeDispose, ref, shallowRef } from 'vue'
import { api, type Bar, type Edited, type FormChange, type Hit, Problem, type Score, taken } from '@/api/client'
import { changedBar, type EditValue, newId } from './edits'

const RETRY_MS = 2500

export type Finding = 'tempo' | 'meter' | 'first beat' | 'feel'
export type SaveState = 'saved' | 'saving' | 'kept'

interface Waiting extends EditValue {
  client_id: string
}

export function useScore(songId: string) {
  const score = shallowRef<Score | null>(null)
  const problem = ref('')
  const notice = ref('')
  const isFetching = ref(false)
  const isSending = ref(false)
  const isChanging = ref(false)
  const lost = ref(false)
  /** Edits that are not stored yet survive a reload, and are sent when the server is back. */
  const waiting = useLocalStorage<Waiting[]>(`orchesis.waiting.${songId}`, [])
  const of = { params: { path: { song_id: songId } } }
  let retry: ReturnType<typeof setTimeout> | undefined

  const saveState = computed<SaveState>(() => {
    if (waiting.value.length === 0) return 'saved'
    return lost.value ? 'kept' : 'saving'
  })

  async function fetchScore(): Promise<void> {
    isFetching.value = true
    problem.value = ''
    try {
      let fresh = await taken(api.GET('/api/songs/{song_id}/score', of))
      for (const edit of waiting.value) fresh = withEdit(fresh, edit) ?? fresh
      score.value = fresh
    } catch (error) {
      problem.value = words(error)
    } finally {
      isFetching.value = false
    }
    void send()
  }

  function withEdit(from: Score, edit: EditValue): Score | null {
    const number = (edit.after ?? edit.before)!.bar
    const bar = from.bars.find((item) => item.number === number)
    const changed = bar && changedBar(bar, edit)
    return changed ? withBar(from, changed) : null
  }

  function withBar(from: Score, bar: Bar): Score {
    return { ...from, bars: from.bars.map((item) => (item.number === bar.number ? bar : item)) }
  }

  /** Show an edit now and store it as soon as possible. */
  function edit(before: Hit | null, after: Hit | null): void {
    if (!score.value) return
    const value: Waiting = { before, after, client_id: newId() }
    const shown = withEdit(score.value, value)
    if (!shown) return
    score.value = { ...shown, can_undo: true, can_redo: false }
    notice.value = ''
    waiting.value = [...waiting.value, value]
    void send()
  }

  async function send(): Promise<void> {
    if (isSending.value) return
    isSending.value = true
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
      isSending.value = false
    }
  }

  async function failed(error: unknown): Promise<void> {
    if (error instanceof Problem && error.mayPass) {
      lost.value = true
      retry = setTimeout(() => void send(), RETRY_MS)
      return
    }
    // It can never be stored: say so, and show what is stored.
    waiting.value = waiting.value.slice(1)
    await fetchScore()
    notice.value = words(error)
  }

  function take(answer: Edited): void {
    if (!score.value) return
    notice.value = answer.words
    // Later edits of the same bar may be on their way: their outcome is not in this answer.
    const pending = waiting.value.some((item) => (item.after ?? item.before)!.bar === answer.bar)
    const bar = score.value.bars.find((item) => item.number === answer.bar)
    const next =
      bar && !pending
        ? withBar(score.value, { ...bar, hits: answer.hits, revision: answer.bar_revision ?? bar.revision })
        : score.value
    score.value = {
      ...next,
      revision: answer.revision,
      can_undo: answer.can_undo,
      can_redo: answer.can_redo,
    }
  }

  async function travel(path: '/api/songs/{song_id}/undo' | '/api/songs/{song_id}/redo'): Promise<Edited | null> {
    await send()
    if (waiting.value.length > 0) {
      notice.value = 'Some edits are not stored yet: undo waits until they are.'
      return null
    }
    try {
      const answer = await taken(api.POST(path, of))
      if (answer.score) score.value = answer.score
      take(answer)
      return answer
    } catch (error) {
      notice.value = words(error)
      return null
    }
  }

  /** A change of the whole song: stored first, then all is shown anew. False when it was refused. */
  async function change(ask: () => Promise<Edited>): Promise<boolean> {
    await send()
    if (waiting.value.length > 0) {
      notice.value = 'Some edits are not stored yet: this waits until they are.'
      return false
    }
    isChanging.value = true
    try {
      const answer = await ask()
      if (answer.score) score.value = answer.score
      notice.value = answer.words
      return true
    } catch (error) {
      notice.value = words(error)
      return false
    } finally {
      isChanging.value = false
    }
  }

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
    edit,
    change,
    takeReading: (key: string) => change(() => taken(api.POST('/api/songs/{song_id}/reading', { ...of, body: { key } }))),
    layTaps: (taps: number[], beats_a_bar: number) =>
      change(() => taken(api.POST('/api/songs/{song_id}/taps', { ...of, body: { taps, beats_a_bar } }))),
    moveBarLine: (bar: number, time: number) =>
      change(() => taken(api.POST('/api/songs/{song_id}/bar-line', { ...of, body: { bar, time } }))),
    confirm: (finding: Finding, confirmed: boolean) =>
      change(() => taken(api.POST('/api/songs/{song_id}/confirm', { ...of, body: { finding, confirmed } }))),
    changeForm: (body: FormChange) => change(() => taken(api.POST('/api/songs/{song_id}/form', { ...of, body }))),
    undo: () => travel('/api/songs/{song_id}/undo'),
    redo: () => travel('/api/songs/{song_id}/redo'),
  }
}

function words(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}

