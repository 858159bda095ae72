/** Answers that take a while: a page that a worker makes, and a request that came too soon. */
import { afterEach, describe, expect, it, vi } from 'vitest'
import { api, taken } from '@/api/client'

afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

function answers(...given: [number, unknown, string?][]) {
  const sent: { method: string; body: string }[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    sent.push({ method: request.method, body: await request.text() })
    const [status, body, after] = given[Math.min(sent.length, given.length) - 1]!
    const headers = { 'Content-Type': 'application/json', ...(after ? { 'Retry-After': after } : {}) }
    return new Response(JSON.stringify(body), { status, headers })
  })
  return sent
}

async function waiting<T>(call: Promise<T>): Promise<T> {
  const answered = call.then((value) => ({ value }), (error: unknown) => ({ error }))
  for (let second = 0; second < 100; second++) await vi.advanceTimersByTimeAsync(1000)
  const done = await answered
  if ('error' in done) throw done.error
  return done.value
}

describe('a page that a worker makes', () => {
  it('is asked for again until it is there', async () => {
    vi.useFakeTimers()
    const sent = answers([202, { state: 'making' }, '1'], [202, { state: 'making' }, '1'], [200, { username: 'ada' }])
    const session = await waiting(taken(api.GET('/api/session')))
    expect(session.username).toBe('ada')
    expect(sent).toHaveLength(3)
  })

  it('is not asked for again where the answer says nothing of it', async () => {
    vi.useFakeTimers()
    const sent = answers([202, { username: 'ada' }])
    await waiting(taken(api.GET('/api/session')))
    expect(sent).toHaveLength(1)
  })
})

describe('a request that came too soon', () => {
  it('is sent again with what it held', async () => {
    vi.useFakeTimers()
    const sent = answers([429, { code: 'throttled', detail: 'Wait.' }, '1'], [200, { latency_ms: 12 }])
    const found = await waiting(taken(api.POST('/api/latency', { body: { clicks: [1], claps: [2] } })))
    expect(found.latency_ms).toBe(12)
    expect(sent.map((one) => JSON.parse(one.body))).toEqual([{ clicks: [1], claps: [2] }, { clicks: [1], claps: [2] }])
  })

  it('is given up after a few tries, and at once where one has to wait for minutes', async () => {
    vi.useFakeTimers()
    const often = answers([429, { code: 'throttled', detail: 'Wait.' }, '1'])
    await expect(waiting(taken(api.POST('/api/latency', { body: { clicks: [], claps: [] } })))).rejects.toThrow('Wait.')
    expect(often).toHaveLength(4)
    const long = answers([429, { code: 'throttled', detail: 'Too many tries.' }, '300'])
    await expect(waiting(taken(api.GET('/api/session')))).rejects.toThrow('Too many tries.')
    expect(long).toHaveLength(1)
  })
})
