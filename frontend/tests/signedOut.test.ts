/** Signed out under an open page: edits are kept, it is said, and they are stored after signing in again. */
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { useScore } from '@/score/useScore'
import SignInAgain from '@/session/SignInAgain.vue'
import { useSession } from '@/session/useSession'
import { answer, bar, hit, MINE, score, withOwnClockAndStore } from './composing'

const place = vi.hoisted(() => ({ meta: {} as { open?: boolean }, went: [] as string[] }))
vi.mock('vue-router', () => ({
  useRoute: () => place,
  useRouter: () => ({ push: async (path: string) => void place.went.push(path) }),
}))
withOwnClockAndStore()
beforeEach(() => Object.assign(place, { meta: {}, went: [] }))

const snare = { ...hit('1/4', 'snare'), bar: 1 }
const edited = { words: 'removed', revision: 2, bars: [], can_undo: true, can_redo: false, score: null }

/** A server that knows who is signed in; only `mina` has the song. */
function server() {
  const state = { who: 'mina' as string | null, edits: [] as unknown[], tried: [] as unknown[] }
  const session = () => ({ username: state.who, is_demo: state.who === 'demo', demo_available: true })
  vi.stubGlobal('fetch', async (request: Request) => {
    const path = new URL(request.url).pathname
    if (path === '/api/session') return answer(session())
    if (path === '/api/session/sign-in') {
      const body = (await request.json()) as { username: string; password: string }
      state.tried.push(body)
      if (body.password !== 'right') {
        return answer({ code: 'authentication_failed', detail: 'Name or password is not right.' }, 403)
      }
      state.who = body.username
      return answer(session())
    }
    if (path === '/api/session/demo') {
      state.who = 'mina'
      return answer(session())
    }
    if (state.who === null) return answer({ code: 'not_authenticated', detail: 'Sign in first.' }, 403)
    if (state.who !== 'mina') return answer({ code: 'not_found', detail: 'There is no such song.' }, 404)
    if (path.endsWith('/mine')) return answer(MINE)
    if (path.endsWith('/score')) return answer(score([bar(1, [snare])]))
    state.edits.push(await request.json())
    return answer(edited)
  })
  return state
}

async function opened(id: string) {
  const state = server()
  const { session, load } = useSession()
  session.value = null
  await load()
  const part = effectScope().run(() => useScore(id))!
  await part.fetchScore()
  const queryClient = new QueryClient()
  const dialog = mount(SignInAgain, {
    global: { plugins: [PrimeVue, [VueQueryPlugin, { queryClient }]], stubs: { teleport: true, transition: false } },
  })
  return { state, part, dialog }
}

async function signIn(dialog: Awaited<ReturnType<typeof opened>>['dialog'], password: string) {
  await dialog.find('[data-test=password-again]').setValue(password)
  await dialog.find('form').trigger('submit')
  await flushPromises()
}

describe('signed out in another tab', () => {
  it('keeps the edit on the page, says so, and stores it after signing in again', async () => {
    const { state, part, dialog } = await opened('one')
    expect(dialog.find('form').exists()).toBe(false)
    state.who = null
    part.make([{ before: snare, after: null }])
    await vi.waitFor(() => expect(part.saveState.value).toBe('signed-out'))
    expect(part.score.value?.bars[0]?.hits).toEqual([])
    expect(part.waiting.value).toBe(1)
    await flushPromises()
    expect(dialog.text()).toContain('Password of mina')
    await signIn(dialog, 'wrong')
    expect(dialog.find('[role=alert]').text()).toContain('not right')
    expect(part.waiting.value).toBe(1)
    await signIn(dialog, 'right')
    await vi.waitFor(() => expect(part.saveState.value).toBe('saved'))
    expect(state.edits).toHaveLength(1)
    expect(state.tried.at(-1)).toEqual({ username: 'mina', password: 'right' })
    expect(dialog.find('form').exists()).toBe(false)
  })

  it('keeps it too when somebody else signed in there, and does not give it to them', async () => {
    const { state, part, dialog } = await opened('two')
    state.who = 'otto'
    part.make([{ before: snare, after: null }])
    await vi.waitFor(() => expect(part.saveState.value).toBe('signed-out'))
    expect(localStorage.getItem('orchesis.waiting.two')).toContain('snare')
    expect(state.edits).toHaveLength(0)
    await flushPromises()
    await signIn(dialog, 'right')
    await vi.waitFor(() => expect(state.edits).toHaveLength(1))
  })

  it('lets the demo in without a password, which it has not', async () => {
    const { state, part, dialog } = await opened('four')
    useSession().session.value = { username: 'demo', is_demo: true, demo_available: true, registration: 'open' }
    state.who = null
    part.make([{ before: snare, after: null }])
    await vi.waitFor(() => expect(part.saveState.value).toBe('signed-out'))
    await flushPromises()
    expect(dialog.find('[data-test=password-again]').exists()).toBe(false)
    await dialog.find('[data-test=demo-again]').trigger('click')
    await flushPromises()
    await vi.waitFor(() => expect(part.saveState.value).toBe('saved'))
  })

  it('is not in the way on the sign-in page', async () => {
    const { state, part, dialog } = await opened('three')
    place.meta = { open: true }
    state.who = null
    part.make([{ before: snare, after: null }])
    await vi.waitFor(() => expect(part.saveState.value).toBe('signed-out'))
    const again = mount(SignInAgain, {
      global: { plugins: [PrimeVue, [VueQueryPlugin, { queryClient: new QueryClient() }]], stubs: { teleport: true } },
    })
    expect(again.find('form').exists()).toBe(false)
    dialog.unmount()
    await signInQuietly()
  })
})

async function signInQuietly(): Promise<void> {
  await useSession().signIn('mina', 'right')
}
