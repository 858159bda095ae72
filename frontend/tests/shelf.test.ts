/** The shelf: what is looked for, when it is asked for again, and what is said when something failed. */
import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { isWorking, LEFTS, SORTS, useShelf } from '@/shelf/useShelf'
import { answer, used, withOwnClockAndStore } from './composing'

withOwnClockAndStore()
beforeEach(() => sessionStorage.clear())

/** A shelf of one song, which is being listened to as long as `state.run` says so. */
function server() {
  const state = { run: null as { state: string } | null, wishes: [] as Record<string, string>[], refuses: '', sent: [] as string[] }
  vi.stubGlobal('fetch', async (request: Request) => {
    const { pathname, searchParams } = new URL(request.url)
    if (request.method !== 'GET') {
      state.sent.push(`${request.method} ${pathname}`)
      return state.refuses ? answer({ detail: state.refuses }, 400) : answer({})
    }
    state.wishes.push(Object.fromEntries(searchParams))
    return answer({ songs: [{ id: 'song', title: 'Slow Ferry', run: state.run }], count: 1, page: 1, pages: 1, tags: [] })
  })
  return state
}

async function looking() {
  const state = server()
  const shelf = used(useShelf)
  await vi.waitFor(() => expect(shelf.songs.value).toHaveLength(1))
  return { shelf, state }
}

describe('what is looked for', () => {
  it('is everything, newest first, to begin with', async () => {
    const { shelf, state } = await looking()
    expect(state.wishes).toEqual([{ search: '', sort: 'newest', left: '', tag: '', page: '1' }])
    expect(shelf.isWhole.value).toBe(true)
  })

  it('is asked for once the last letter is typed, and not letter by letter', async () => {
    const { shelf, state } = await looking()
    for (const typed of ['f', 'fe', 'fer', 'ferry']) {
      shelf.search.value = typed
      await vi.advanceTimersByTimeAsync(40)
    }
    await vi.waitFor(() => expect(state.wishes).toHaveLength(2))
    expect(state.wishes[1]).toMatchObject({ search: 'ferry' })
    expect(shelf.isWhole.value).toBe(false)
  })

  it('begins on the first page again when anything else is wished for', async () => {
    const { shelf, state } = await looking()
    shelf.page.value = 3
    await vi.waitFor(() => expect(state.wishes.at(-1)).toMatchObject({ page: '3' }))
    shelf.left.value = 'doubts'
    await vi.waitFor(() => expect(state.wishes.at(-1)).toMatchObject({ page: '1', left: 'doubts' }))
    shelf.tag.value = 'lesson'
    await vi.waitFor(() => expect(state.wishes.at(-1)).toMatchObject({ tag: 'lesson' }))
  })

  it('keeps its order for as long as the browser is open', async () => {
    const { shelf } = await looking()
    shelf.sort.value = 'tempo'
    await flushPromises()
    expect(sessionStorage.getItem('orchesis.shelf.sort')).toBe('tempo')
  })

  it('has a name for each order and each filter', () => {
    for (const choices of [SORTS, LEFTS]) {
      expect(new Set(choices.map((one) => one.value)).size).toBe(choices.length)
      expect(choices.every((one) => one.label.length > 3)).toBe(true)
    }
  })
})

describe('a song that is being listened to', () => {
  it('is one whose run waits or goes', () => {
    const states = ['queued', 'running', 'done', 'failed', 'cancelled']
    expect(states.filter((state) => isWorking({ state } as never))).toEqual(['queued', 'running'])
    expect(isWorking(null)).toBe(false)
  })

  it('is asked after until it is done', async () => {
    const { shelf, state } = await looking()
    await vi.advanceTimersByTimeAsync(3000)
    expect(state.wishes).toHaveLength(1)
    state.run = { state: 'running' }
    await shelf.refresh()
    await vi.advanceTimersByTimeAsync(2500)
    expect(state.wishes.length).toBeGreaterThan(3)
    state.run = { state: 'done' }
    await vi.advanceTimersByTimeAsync(1000)
    const asked = state.wishes.length
    await vi.advanceTimersByTimeAsync(4000)
    expect(state.wishes).toHaveLength(asked)
  })
})

describe('what is done to a song', () => {
  it.each([
    ['cancel', 'song', 'DELETE /api/songs/song/listening'],
    ['tryAgain', 'song', 'POST /api/songs/song/listening'],
    ['remove', 'song', 'DELETE /api/songs/song'],
    ['setTags', { id: 'song', tags: ['lesson'] }, 'PUT /api/songs/song/tags'],
    ['setPerformer', { id: 'song', performer: 'The Pier' }, 'PATCH /api/songs/song'],
  ] as const)('%s asks for it and looks again', async (name, of, what) => {
    const { shelf, state } = await looking()
    ;(shelf[name] as (of: unknown) => void)(of)
    await vi.waitFor(() => expect(state.wishes).toHaveLength(2))
    expect(state.sent).toEqual([what])
    expect(shelf.problem.value).toBe('')
  })

  it('says what went wrong until the next thing is done', async () => {
    const { shelf, state } = await looking()
    state.refuses = 'It is practised from by others.'
    shelf.remove('song')
    await vi.waitFor(() => expect(shelf.problem.value).toContain('It is practised from by others.'))
    state.refuses = ''
    shelf.cancel('song')
    await vi.waitFor(() => expect(shelf.problem.value).toBe(''))
  })
})
