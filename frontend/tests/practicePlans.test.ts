/** Where one is in a plan stays where one is, in whatever order Orchesis answers. */
import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { shallowRef } from 'vue'
import type { Score } from '@/api/client'
import { usePractice } from '@/stages/practice/usePractice'
import { answer, bar, score, used, withOwnClockAndStore } from './composing'

withOwnClockAndStore()

const KEYS = ['slow', 'faster', 'at tempo', 'with the record']
const step = (key: string) => ({ key, title: key, rungs: [], windows: [] })
const PLAN = { target: 'groove-1', name: 'Verse', steps: KEYS.map(step), methods: [{ key: 'all', steps: KEYS }] }
const entry = { target: 'groove-1', step: 'slow', title: 'slow', minutes: 1, bpm: 60, feeling: 'easy' }

/** A server that answers the log, and an overview asked for again, only when it is told to. */
function server() {
  const state = { at: 0, isSlow: false, held: [] as (() => void)[], asked: 0 }
  const overview = () => ({
    targets: [{ key: 'groove-1', name: 'Verse' }],
    plans: [{ target: 'groove-1', name: 'Verse', is_there: true, steps: KEYS, at: state.at }],
    given: [],
    session: [],
    log: [],
  })
  const later = (body: unknown) => new Promise<Response>((settle) => state.held.push(() => settle(answer(body))))
  vi.stubGlobal('fetch', async (request: Request) => {
    const path = new URL(request.url).pathname
    if (path.endsWith('/practice/log')) return later(overview())
    if (request.method === 'PUT') {
      state.at = ((await request.json()) as { at: number }).at
      return answer({})
    }
    if (path.includes('/practice/plans/')) return answer(PLAN)
    state.asked += 1
    return state.isSlow ? later(overview()) : answer(overview())
  })
  return state
}

async function practising() {
  const state = server()
  const part = { score: shallowRef<Score | null>(score([bar(1)])), notice: { value: '' } }
  const practice = used(() => usePractice('song', part, () => true))
  await vi.waitFor(() => expect(practice.steps.value).toHaveLength(KEYS.length))
  return { state, practice }
}

async function answered(state: { held: (() => void)[] }): Promise<void> {
  for (const settle of state.held.splice(0)) settle()
  await flushPromises()
}

describe('a place in a plan', () => {
  it('stays when the log is answered from before the step was taken', async () => {
    const { state, practice } = await practising()
    practice.enter(entry as never)
    await vi.waitFor(() => expect(state.held).toHaveLength(1))
    practice.goTo(2)
    await vi.waitFor(() => expect(state.at).toBe(2))
    await flushPromises()
    await answered(state)
    expect(practice.at.value).toBe(2)
  })

  it('stays when an overview that was asked for before comes after it', async () => {
    const { state, practice } = await practising()
    state.isSlow = true
    void practice.refetch()
    await vi.waitFor(() => expect(state.held).toHaveLength(1))
    state.isSlow = false
    practice.goTo(3)
    await vi.waitFor(() => expect(state.at).toBe(3))
    await flushPromises()
    await answered(state)
    expect(practice.at.value).toBe(3)
    // What it would have told is asked for anew.
    await vi.waitFor(() => expect(state.asked).toBe(3))
  })

  it('is the one of another device where this page has none of its own', async () => {
    const { state, practice } = await practising()
    state.at = 1
    await practice.refetch()
    await flushPromises()
    expect(practice.at.value).toBe(1)
  })
})
