import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { askEarly, earlyAnswer } from '@/api/early'
import { answer } from './composing'

const SONG = '0b9ff0a2-6d0b-4b4e-9d5e-2f4a5a3c7d11'
const at = `/api/songs/${SONG}`
const get = (path: string) => new Request(`http://here${path}`)

let asked: string[]
beforeEach(() => {
  sessionStorage.clear()
  asked = []
  vi.stubGlobal('fetch', async (path: string) => {
    asked.push(path)
    return answer({ path })
  })
  // What another test left behind is no longer fresh.
  vi.spyOn(performance, 'now').mockReturnValue(1e6)
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

describe('what is asked for before the application starts', () => {
  it('is what a song page needs, and nothing elsewhere', () => {
    askEarly('/songs')
    askEarly('/sign-in')
    expect(asked).toEqual([])
    askEarly(`/songs/${SONG}`)
    expect(asked.toSorted()).toEqual(['/api/session', at, `${at}/grooves`, `${at}/mine`, `${at}/score`, `${at}/sources`].toSorted())
  })

  it('leaves the grooves out where another stage is open', () => {
    sessionStorage.setItem(`orchesis.stage.${SONG}`, 'listen')
    askEarly(`/songs/${SONG}`)
    expect(asked).not.toContain(`${at}/grooves`)
  })

  it('answers once, and only who asks for just that', async () => {
    askEarly(`/songs/${SONG}`)
    expect(earlyAnswer(new Request(`http://here${at}/score`, { method: 'POST' }))).toBeNull()
    expect(earlyAnswer(get(`${at}/score?key=half`))).toBeNull()
    const first = await earlyAnswer(get(`${at}/score`))
    expect(await first!.json()).toEqual({ path: `${at}/score` })
    expect(earlyAnswer(get(`${at}/score`))).toBeNull()
  })

  it('is asked for again where it failed', async () => {
    let signedIn = false
    vi.stubGlobal('fetch', async () => answer({ signedIn }, signedIn ? 200 : 403))
    askEarly(`/songs/${SONG}`)
    signedIn = true
    const score = await earlyAnswer(get(`${at}/score`))
    expect(await score!.json()).toEqual({ signedIn: true })
  })

  it('is not used when it has grown old', () => {
    askEarly(`/songs/${SONG}`)
    vi.spyOn(performance, 'now').mockReturnValue(1e6 + 60_000)
    expect(earlyAnswer(get(`${at}/score`))).toBeNull()
  })
})
