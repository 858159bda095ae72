/** What a song's page fetches beside the part: the engraved pages, and further recordings. */
import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import type { Source } from '@/api/client'
import { useSources } from '@/stages/listen/useSources'
import { answer, used, withOwnClockAndStore } from './composing'

withOwnClockAndStore()

describe('further recordings', () => {
  const live: Source = { id: 3, title: 'Live in the yard', state: 'queued', words: '' } as Source

  function recordings(handlers: Record<string, () => Response>, held: () => Source[] = () => []) {
    const asked: string[] = []
    vi.stubGlobal('fetch', async (request: Request | string, init?: RequestInit) => {
      const isRequest = typeof request !== 'string'
      const what = isRequest ? `${request.method} ${new URL(request.url).pathname}` : `${init?.method} ${request}`
      asked.push(what)
      return handlers[what]?.() ?? answer(held())
    })
    return { asked, ...used(() => useSources('song')) }
  }

  it('are looked at again while one is being lined up, and then left alone', async () => {
    let state: Source['state'] = 'running'
    const { sources, asked } = recordings({}, () => [{ ...live, state }])
    await flushPromises()
    expect(sources.value[0]!.state).toBe('running')
    state = 'ready'
    await vi.advanceTimersByTimeAsync(1600)
    await flushPromises()
    expect(sources.value[0]!.state).toBe('ready')
    const before = asked.length
    await vi.advanceTimersByTimeAsync(6000)
    expect(asked).toHaveLength(before)
  })

  it('say why one was not taken, and forget it at the next try', async () => {
    let detail: string | null = 'That is no recording: choose a WAV, FLAC or MP3.'
    const { add, problem, isSending } = recordings({
      'POST /api/songs/song/sources': () => (detail ? answer({ detail }, 422) : answer(live, 201)),
    })
    const file = new File(['words'], 'notes.txt')
    add(file)
    await vi.waitFor(() => expect(isSending.value).toBe(true))
    await vi.waitFor(() => expect(isSending.value).toBe(false))
    expect(problem.value).toBe(detail)
    detail = null
    add(file)
    await vi.waitFor(() => expect(problem.value).toBe(''))
  })

  it('say so when nothing answers', async () => {
    const { add, problem } = recordings({
      'POST /api/songs/song/sources': () => {
        throw new TypeError('no connection')
      },
    })
    add(new File(['a'], 'a.wav'))
    await vi.waitFor(() => expect(problem.value).toContain('does not answer'))
  })

  it('are taken away, or followed as another take, one by one', async () => {
    const { remove, follow, asked, problem } = recordings(
      {
        'DELETE /api/songs/song/sources/3': () => new Response(null, { status: 204 }),
        'POST /api/songs/song/sources/3/follow': () => answer({ code: 'ready', detail: 'It is lined up already.' }, 409),
      },
      () => [live],
    )
    await flushPromises()
    remove(live)
    await vi.waitFor(() => expect(asked).toContain('DELETE /api/songs/song/sources/3'))
    expect(problem.value).toBe('')
    follow(live)
    await vi.waitFor(() => expect(problem.value).toBe('It is lined up already.'))
  })
})
