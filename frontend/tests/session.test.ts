/** Who is signed in, whatever order the answers come in. */
import { afterEach, expect, it, vi } from 'vitest'
import { loadSession, useSession } from '@/session/useSession'

afterEach(() => vi.unstubAllGlobals())

it('keeps a sign-in that an older, slower answer knows nothing of', async () => {
  let answerSlowly: (response: Response) => void = () => {}
  const json = (body: unknown) =>
    new Response(JSON.stringify(body), { headers: { 'Content-Type': 'application/json' } })
  vi.stubGlobal('fetch', (request: Request) =>
    request.method === 'GET'
      ? new Promise<Response>((done) => (answerSlowly = done))
      : Promise.resolve(json({ username: 'ada', is_demo: false })),
  )
  const { session, signIn } = useSession()
  const loading = loadSession()
  await signIn('ada', 'four-on-the-floor-7')
  answerSlowly(json({ username: null, is_demo: false }))
  expect((await loading)?.username).toBe('ada')
  expect(session.value?.username).toBe('ada')
})
