import { describe, expect, it, vi } from 'vitest'
import { effectScope, ref, shallowRef } from 'vue'
import type { Score } from '@/api/client'
import { usePreviews } from '@/score/usePreviews'
import { useScore } from '@/score/useScore'
import { answer, bar, score, used, withOwnClockAndStore } from './composing'

const READINGS = ['tracked/4-4/0', 'half-0/4-4/0', 'double/4-4/0', 'tracked/3-4/0'].map((key) => ({
  key,
  words: key,
  tempo_bpm: 100,
  meter: [4, 4],
  evidence: ['composed'],
}))

function counted(tempo: number, revision = 1): Score {
  const made = score([bar(1)])
  return { ...made, revision, tempo_bpm: tempo, listening: { ...made.listening, readings: READINGS } }
}

/** A server whose other readings are at 60 bpm; what was asked of it is kept. */
function server() {
  const state = { asked: [] as string[], refuses: false, revision: 1, stored: Promise.resolve() }
  vi.stubGlobal('fetch', async (request: Request) => {
    const url = new URL(request.url)
    if (request.method === 'GET' && url.pathname.endsWith('/reading')) {
      state.asked.push(url.searchParams.get('key')!)
      return answer(counted(60, state.revision))
    }
    if (url.pathname.endsWith('/score')) return answer(counted(120))
    if (state.refuses) return answer({ code: 'refused', detail: 'Not now.' }, 400)
    await state.stored
    const stored = counted(60, 2)
    return answer({ words: 'Counted another way', revision: 2, bars: [], score: stored, can_undo: true, can_redo: false })
  })
  return state
}

withOwnClockAndStore()

describe('readings that are not chosen yet', () => {
  it('are fetched once for each revision, the likeliest without being reached for', async () => {
    const state = server()
    const now = shallowRef<Score | null>(counted(120))
    const shown = ref(false)
    const previews = used(() => usePreviews('one', now, () => shown.value))
    await vi.advanceTimersByTimeAsync(2000)
    expect(state.asked).toEqual([])
    shown.value = true
    await vi.advanceTimersByTimeAsync(2000)
    await vi.waitFor(() => expect(state.asked).toEqual(['half-0/4-4/0', 'double/4-4/0']))
    await previews.prepare('half-0/4-4/0')
    await previews.prepare('tracked/3-4/0')
    expect(state.asked).toHaveLength(3)
    expect(previews.preview('tracked/3-4/0')?.tempo_bpm).toBe(60)
  })

  it('count no more once the song has changed', async () => {
    const state = server()
    const now = shallowRef<Score | null>(counted(120))
    const previews = used(() => usePreviews('two', now, () => false))
    await previews.prepare('double/4-4/0')
    now.value = counted(120, 2)
    expect(previews.preview('double/4-4/0')).toBeNull()
    // An answer that was under way while it changed tells of the old one.
    await previews.prepare('double/4-4/0')
    expect(previews.preview('double/4-4/0')).toBeNull()
    expect(state.asked).toHaveLength(2)
  })
})

describe('choosing a reading', () => {
  it('shows at once where it is at hand, and is what is stored in the end', async () => {
    const state = server()
    const part = effectScope().run(() => useScore('three'))!
    await part.fetchScore()
    let store = () => {}
    state.stored = new Promise((done) => (store = done))
    const choosing = part.takeReading('double/4-4/0', () => counted(60))
    await vi.waitFor(() => expect(part.score.value?.tempo_bpm).toBe(60))
    expect(part.isChanging.value).toBe(true)
    store()
    await choosing
    expect(part.score.value?.revision).toBe(2)
  })

  it('goes back to what is stored where the server refuses it', async () => {
    const state = server()
    const part = effectScope().run(() => useScore('four'))!
    await part.fetchScore()
    state.refuses = true
    expect(await part.takeReading('double/4-4/0', () => counted(60))).toBe(false)
    expect(part.score.value?.tempo_bpm).toBe(120)
    expect(part.notice.value).toContain('Not now')
  })
})
