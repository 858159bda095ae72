import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { useScore } from '@/score/useScore'
import { bar, hit, score } from './composing'

const snare = { ...hit('1/4', 'snare'), bar: 1 }

function answer(body: unknown, status = 200): Response {
  return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
}

const edited = {
  words: 'Bar 1: snare on beat 2 removed',
  revision: 2,
  bar: 1,
  bar_revision: 1,
  hits: [],
  can_undo: true,
  can_redo: false,
}

/** A server that can be away; it counts what reaches it. */
function server() {
  const state = { away: false, conflict: false, edits: [] as unknown[] }
  vi.stubGlobal('fetch', async (request: Request) => {
    if (state.away) throw new TypeError('Failed to fetch')
    if (request.url.endsWith('/score')) return answer(score([bar(1, state.edits.length ? [] : [snare])]))
    if (state.conflict) return answer({ code: 'conflict', detail: 'Bar 1 has changed meanwhile.' }, 409)
    state.edits.push(await request.json())
    return answer(edited)
  })
  return state
}

beforeEach(() => {
  localStorage.clear()
  vi.useFakeTimers({ shouldAdvanceTime: true })
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

describe('the written part', () => {
  it('shows an edit at once and says when it is saved', async () => {
    const state = server()
    const part = effectScope().run(() => useScore('one'))!
    await part.fetchScore()
    part.edit(snare, null)
    expect(part.score.value?.bars[0]?.hits).toEqual([])
    expect(part.saveState.value).toBe('saving')
    await vi.waitFor(() => expect(part.saveState.value).toBe('saved'))
    expect(state.edits).toHaveLength(1)
    expect(part.notice.value).toContain('removed')
  })

  it('keeps edits while the server is away and sends them when it is back', async () => {
    const state = server()
    const part = effectScope().run(() => useScore('two'))!
    await part.fetchScore()
    state.away = true
    part.edit(snare, null)
    await vi.waitFor(() => expect(part.saveState.value).toBe('kept'))
    expect(part.score.value?.bars[0]?.hits).toEqual([])
    state.away = false
    await vi.advanceTimersByTimeAsync(3000)
    await vi.waitFor(() => expect(part.saveState.value).toBe('saved'))
    expect(state.edits).toHaveLength(1)
  })

  it('keeps them through a reload', async () => {
    const state = server()
    const before = effectScope().run(() => useScore('three'))!
    await before.fetchScore()
    state.away = true
    before.edit(snare, null)
    await vi.waitFor(() => expect(localStorage.getItem('orchesis.waiting.three')).toContain('snare'))
    state.away = false
    const after = effectScope().run(() => useScore('three'))!
    await after.fetchScore()
    await vi.waitFor(() => expect(state.edits).toHaveLength(1))
  })

  it('shows the bar as it is when somebody else has changed it', async () => {
    const state = server()
    const part = effectScope().run(() => useScore('four'))!
    await part.fetchScore()
    state.conflict = true
    part.edit(snare, null)
    await vi.waitFor(() => expect(part.notice.value).toContain('changed meanwhile'))
    expect(part.score.value?.bars[0]?.hits).toHaveLength(1)
    expect(part.saveState.value).toBe('saved')
  })
})
