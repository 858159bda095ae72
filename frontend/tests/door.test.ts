/** The door and the shelf: signing in, the list of songs, and what is said when there is none. */
import { flushPromises, mount } from '@vue/test-utils'
import ConfirmDialog from 'primevue/confirmdialog'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent } from 'vue'
import type { ShelfSong } from '@/api/client'
import SignInPage from '@/session/SignInPage.vue'
import ShelfPage from '@/shelf/ShelfPage.vue'
import { answer, withOwnClockAndStore } from './composing'
import { around } from './opening'

const place = vi.hoisted(() => ({ query: {} as Record<string, string>, went: [] as string[] }))
vi.mock('vue-router', () => ({
  useRoute: () => ({ query: place.query }),
  useRouter: () => ({ push: async (path: string) => void place.went.push(path) }),
  RouterLink: { props: ['to'], template: '<a :href="to"><slot /></a>' },
}))
withOwnClockAndStore()
beforeEach(() => Object.assign(place, { query: {}, went: [] }))

type Handler = (request: Request) => Response | Promise<Response>
/** A server by method and address; what was asked of it, and with which body. */
function serving(handlers: Record<string, Handler>) {
  const asked: { what: string; body: unknown }[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const what = `${request.method} ${new URL(request.url).pathname}`
    const body = request.method === 'POST' ? await request.clone().json().catch(() => null) : null
    asked.push({ what, body })
    return handlers[what]?.(request) ?? answer({ code: 'not_found', detail: 'There is no such thing.' }, 404)
  })
  return asked
}
const nobody = { username: null, demo_available: true }
const mina = { ...nobody, username: 'mina' }

async function at(page: typeof SignInPage | typeof ShelfPage) {
  const whole = { components: { ConfirmDialog }, setup: () => ({ page }), template: '<component :is="page" /><ConfirmDialog />' }
  const wrapper = mount(defineComponent(whole), { global: around() })
  await flushPromises()
  return wrapper
}

describe('the door', () => {
  async function filled(name: string, password: string) {
    const wrapper = await at(SignInPage)
    await wrapper.find('[name=username]').setValue(name)
    await wrapper.find('[name=password]').setValue(password)
    return wrapper
  }

  it('asks for both before it lets one try', async () => {
    serving({ 'GET /api/session': () => answer(nobody) })
    const wrapper = await filled('mina', '')
    expect(wrapper.find('[type=submit]').attributes('disabled')).toBeDefined()
    await wrapper.find('[name=password]').setValue('four on the floor')
    expect(wrapper.find('[type=submit]').attributes('disabled')).toBeUndefined()
  })

  it('leads to where one wanted to go, but never out of the house', async () => {
    serving({ 'GET /api/session': () => answer(nobody), 'POST /api/session/sign-in': () => answer(mina) })
    for (const [to, goes] of [
      ['/songs/abc', '/songs/abc'],
      ['//elsewhere.example', '/songs'],
      ['https://elsewhere.example', '/songs'],
    ] as const) {
      place.query = { to }
      await (await filled(' mina ', 'four on the floor')).find('form').trigger('submit')
      await flushPromises()
      expect(place.went.at(-1)).toBe(goes)
    }
  })

  it('says why it stays shut, and takes a new try', async () => {
    let right = false
    const asked = serving({
      'GET /api/session': () => answer(nobody),
      'POST /api/session/sign-in': () =>
        right ? answer(mina) : answer({ code: 'refused', detail: 'Name and password do not fit.' }, 401),
    })
    const wrapper = await filled('mina', 'three on the floor')
    await wrapper.find('form').trigger('submit')
    await flushPromises()
    expect(wrapper.find('[role=alert]').text()).toBe('Name and password do not fit.')
    expect(place.went).toEqual([])
    right = true
    await wrapper.find('form').trigger('submit')
    await flushPromises()
    expect(wrapper.find('[role=alert]').exists()).toBe(false)
    expect(place.went).toEqual(['/songs'])
    expect(asked.at(-1)!.body).toEqual({ username: 'mina', password: 'three on the floor' })
  })

  it('makes an account, and tells the browser that the password is a new one', async () => {
    const asked = serving({ 'GET /api/session': () => answer(nobody), 'POST /api/session/sign-up': () => answer(mina) })
    const wrapper = await filled('mina', 'four on the floor')
    await wrapper.find('.turn').trigger('click')
    expect(wrapper.find('[name=password]').attributes('autocomplete')).toBe('new-password')
    await wrapper.find('form').trigger('submit')
    await flushPromises()
    expect(asked.at(-1)!.what).toBe('POST /api/session/sign-up')
  })

  it('says so when nothing answers', async () => {
    vi.resetModules()
    vi.stubGlobal('fetch', async () => Promise.reject(new TypeError('no connection')))
    const fresh = (await import('@/session/SignInPage.vue')).default
    expect((await at(fresh)).find('[role=alert]').text()).toContain('does not answer')
  })
})

/** A page of the shelf; nothing is given to practise. */
const shelf = (songs: ShelfSong[]) => ({ songs, count: songs.length, page: 1, pages: 1, tags: [] })

describe('the shelf', () => {
  const song = (id: string, change: Partial<ShelfSong> = {}): ShelfSong => ({
    id,
    title: `Song ${id}`,
    file_name: `${id}.wav`,
    duration: 95,
    has_score: true,
    tempo_bpm: 112,
    meter: '4/4',
    feel: 'straight',
    bars: 48,
    doubts: 3,
    run: null,
    role: 'owner',
    owner: 'mina',
    performer: '',
    tags: [],
    ...change,
  }) as ShelfSong

  it('says what to do when it is empty', async () => {
    serving({ 'GET /api/shelf': () => answer(shelf([])) })
    expect((await at(ShelfPage)).find('.empty').text()).toContain('Import a recording')
  })

  it('looks again while something is being listened to, and rests when all is done', async () => {
    let run: unknown = { state: 'running', stage: 'beats', progress: 0.4, message: '', seconds_left: 9 }
    const asked = serving({ 'GET /api/shelf': () => answer(shelf([song('a', { run } as Partial<ShelfSong>)])) })
    const wrapper = await at(ShelfPage)
    expect(wrapper.text()).toContain('Following the beat')
    run = null
    await vi.advanceTimersByTimeAsync(1000)
    await flushPromises()
    expect(wrapper.text()).toContain('3 uncertain notes')
    const before = asked.length
    await vi.advanceTimersByTimeAsync(5000)
    expect(asked).toHaveLength(before)
  })

  it('removes a song only when asked twice', async () => {
    let songs = [song('a'), song('b')]
    const asked = serving({
      'GET /api/shelf': () => answer(shelf(songs)),
      'DELETE /api/songs/a': () => {
        songs = songs.slice(1)
        return new Response(null, { status: 204 })
      },
    })
    const removed = () => asked.filter((one) => one.what.startsWith('DELETE')).length
    const wrapper = await at(ShelfPage)
    await wrapper.find('[aria-label="Remove Song a"]').trigger('click')
    await flushPromises()
    expect(wrapper.text()).toContain('cannot be undone')
    expect(removed()).toBe(0)
    await wrapper.findAll('[role=alertdialog] button').find((button) => button.text() === 'Remove')!.trigger('click')
    await flushPromises()
    expect(removed()).toBe(1)
    expect(wrapper.findAll('[data-song]').map((row) => row.attributes('data-song'))).toEqual(['b'])
  })

  it('says what was refused and leaves the list as it is', async () => {
    serving({
      'GET /api/shelf': () =>
        answer(shelf([song('a', { has_score: false, run: { state: 'failed', message: 'No sound in it.' } } as Partial<ShelfSong>)])),
      'POST /api/songs/a/listening': () => answer({ code: 'busy', detail: 'It is being listened to.' }, 409),
    })
    const wrapper = await at(ShelfPage)
    expect(wrapper.text()).toContain('No sound in it.')
    await wrapper.findAll('button').find((button) => button.text() === 'Try again')!.trigger('click')
    await flushPromises()
    expect(wrapper.find('[role=alert]').text()).toBe('It is being listened to.')
    expect(wrapper.findAll('[data-song]')).toHaveLength(1)
  })

  it('can be fetched again when that failed', async () => {
    let broken = true
    serving({
      'GET /api/shelf': () => (broken ? answer({ code: 'down', detail: 'The store is away.' }, 503) : answer(shelf([song('a')]))),
    })
    const wrapper = await at(ShelfPage)
    expect(wrapper.find('[role=alert]').text()).toContain('The store is away.')
    broken = false
    await wrapper.find('[role=alert] button').trigger('click')
    await flushPromises()
    expect(wrapper.findAll('[data-song]')).toHaveLength(1)
  })

  it('lets one go', async () => {
    const asked = serving({ 'GET /api/shelf': () => answer(shelf([])), 'DELETE /api/session': () => answer(nobody) })
    const wrapper = await at(ShelfPage)
    await wrapper.find('.who button').trigger('click')
    await flushPromises()
    expect(asked.at(-1)!.what).toBe('DELETE /api/session')
    expect(place.went).toEqual(['/sign-in'])
  })
})

describe('the place for recordings', () => {
  it('says at once that a file is too large, before it is sent', async () => {
    const asked = serving({ 'GET /api/session': () => answer(mina), 'GET /api/shelf': () => answer(shelf([])) })
    const wrapper = await at(ShelfPage)
    const field = wrapper.find('[data-test=file]').element as HTMLInputElement
    const large = new File(['x'], 'tape.wav')
    Object.defineProperty(large, 'size', { value: 301 * 1024 ** 2 })
    Object.defineProperty(field, 'files', { value: [large], configurable: true })
    await wrapper.find('[data-test=file]').trigger('change')
    await flushPromises()
    expect(wrapper.text()).toContain('It has 301 MB; at most 300 MB are taken')
    expect(asked.filter(({ what }) => what === 'POST /api/songs')).toHaveLength(0)
  })
})
