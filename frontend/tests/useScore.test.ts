import { describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { useScore } from '@/score/useScore'
import { answer, bar, hit, MINE, score, withOwnClockAndStore } from './composing'

const snare = { ...hit('1/4', 'snare'), bar: 1 }

const edited = {
  words: 'Bar 1: snare on beat 2 removed',
  revision: 2,
  bars: [{ number: 1, revision: 1, hits: [] }],
  can_undo: true,
  can_redo: false,
}

/** A server that can be away; it counts what reaches it. */
function server() {
  const state = { away: false, conflict: false, edits: [] as unknown[] }
  vi.stubGlobal('fetch', async (request: Request) => {
    if (state.away) throw new TypeError('Failed to fetch')
    if (request.url.endsWith('/mine')) return answer(MINE)
    if (request.url.endsWith('/score')) return answer(score([bar(1, state.edits.length ? [] : [snare])]))
    if (state.conflict) return answer({ code: 'conflict', detail: 'Bar 1 has changed meanwhile.', bars: [1] }, 409)
    state.edits.push(await request.json())
    return answer(edited)
  })
  return state
}

withOwnClockAndStore()

describe('the written part', () => {
  it('shows an edit at once and says when it is saved', async () => {
    const state = server()
    const part = effectScope().run(() => useScore('one'))!
    await part.fetchScore()
    part.make([{ before: snare, after: null }])
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
    part.make([{ before: snare, after: null }])
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
    before.make([{ before: snare, after: null }])
    await vi.waitFor(() => expect(localStorage.getItem('orchesis.waiting.three')).toContain('snare'))
    state.away = false
    const after = effectScope().run(() => useScore('three'))!
    await after.fetchScore()
    await vi.waitFor(() => expect(state.edits).toHaveLength(1))
  })

  it('sends what an earlier version has kept', async () => {
    const state = server()
    localStorage.setItem('orchesis.waiting.old', JSON.stringify([{ client_id: 'a', before: snare, after: null }]))
    const part = effectScope().run(() => useScore('old'))!
    await part.fetchScore()
    await vi.waitFor(() => expect(state.edits).toHaveLength(1))
    expect(state.edits[0]).toMatchObject({ client_id: 'a', edits: [{ after: null }] })
  })

  async function inConflict(id: string) {
    const state = server()
    const part = effectScope().run(() => useScore(id))!
    await part.fetchScore()
    state.conflict = true
    part.make([{ before: snare, after: null }])
    await vi.waitFor(() => expect(part.notice.value).toContain('changed meanwhile'))
    state.conflict = false
    return { state, part }
  }

  it('shows the bar as it is when somebody else has changed it, and keeps both versions', async () => {
    const { part } = await inConflict('four')
    expect(part.score.value?.bars[0]?.hits).toHaveLength(1)
    expect(part.saveState.value).toBe('saved')
    expect(part.conflicts.value).toEqual([{ bar: 1, mine: [], theirs: [snare] }])
  })

  it('leaves the bar alone when theirs is chosen', async () => {
    const { state, part } = await inConflict('five')
    part.resolve(1, 'theirs')
    expect(part.conflicts.value).toEqual([])
    expect(part.score.value?.bars[0]?.hits).toHaveLength(1)
    expect(state.edits).toHaveLength(0)
  })

  it('edits what is there now when mine is chosen', async () => {
    const { state, part } = await inConflict('six')
    part.resolve(1, 'mine')
    expect(part.score.value?.bars[0]?.hits).toEqual([])
    await vi.waitFor(() => expect(state.edits).toHaveLength(1))
  })

  it('makes many edits as one, or none where one does not fit', async () => {
    const state = server()
    const part = effectScope().run(() => useScore('seven'))!
    await part.fetchScore()
    const kick = hit('0', 'kick')
    expect(part.make([{ before: null, after: kick }, { before: kick, after: null }, { before: kick, after: null }])).toBe(false)
    expect(part.score.value?.bars[0]?.hits).toHaveLength(1)
    expect(part.make([{ before: null, after: kick }, { before: snare, after: null }], 'Two notes')).toBe(true)
    await vi.waitFor(() => expect(state.edits).toHaveLength(1))
    expect(state.edits[0]).toMatchObject({ words: 'Two notes', edits: [{}, {}] })
  })
})

/** A server that answers when it is told to, and notes what it was asked in which order. */
function slowServer() {
  const asked: string[] = []
  const answers: (() => void)[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const what = request.url.split('/').at(-1)!
    if (what === 'mine') return answer(MINE)
    if (what === 'score') return answer(score([bar(1, [snare])]))
    asked.push(what)
    await new Promise<void>((done) => answers.push(done))
    return answer(what === 'reading' ? { ...edited, bars: [], score: score([bar(1, [snare])]) } : edited)
  })
  const answerNext = async () => {
    await vi.waitFor(() => expect(answers).not.toHaveLength(0))
    answers.shift()!()
  }
  return { asked, answerNext }
}

describe('one thing after the other', () => {
  async function open(id: string) {
    const state = slowServer()
    const part = effectScope().run(() => useScore(id))!
    await part.fetchScore()
    return { ...state, part }
  }

  it('undoes the edit that is still on its way', async () => {
    const { part, asked, answerNext } = await open('seven')
    part.make([{ before: snare, after: null }])
    const undone = part.undo()
    await vi.waitFor(() => expect(asked).toEqual(['edits']))
    await answerNext()
    await answerNext()
    expect(await undone).not.toBeNull()
    expect(asked).toEqual(['edits', 'undo'])
  })

  it('undoes the reading that is shown before it is stored', async () => {
    const { part, asked, answerNext } = await open('eight')
    void part.takeReading('double/4-4/0', () => ({ ...score([bar(1, [])]), tempo_bpm: 60 }))
    await vi.waitFor(() => expect(part.score.value?.tempo_bpm).toBe(60))
    const undone = part.undo()
    await vi.advanceTimersByTimeAsync(50)
    expect(asked).toEqual(['reading'])
    await answerNext()
    await answerNext()
    expect(await undone).not.toBeNull()
    expect(asked).toEqual(['reading', 'undo'])
  })

  it('stores an edit made during a change after it, and shows it all the while', async () => {
    const { part, asked, answerNext } = await open('nine')
    const changing = part.takeReading('double/4-4/0')
    await vi.waitFor(() => expect(asked).toEqual(['reading']))
    part.make([{ before: snare, after: null }])
    await vi.advanceTimersByTimeAsync(50)
    expect(asked).toEqual(['reading'])
    await answerNext()
    await changing
    expect(part.score.value?.bars[0]?.hits).toEqual([])
    await answerNext()
    await vi.waitFor(() => expect(part.saveState.value).toBe('saved'))
    expect(asked).toEqual(['reading', 'edits'])
  })
})
