/** What answers without a connection, and what must never be kept as if it were the page. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { runInNewContext } from 'node:vm'
import { beforeEach, describe, expect, it, vi } from 'vitest'

const CODE = readFileSync(join(__dirname, '../public/sw.js'), 'utf-8')
const HOME = 'https://orchesis.test'
const SONG = '/api/songs/0b6c1f5e-1111-4222-8333-444455556666'

type Asked = { url: string; method: string; mode: string; headers: Headers }

/** A browser's store, by name and by path. */
class Store {
  kept = new Map<string, Response>()
  isFull = false
  pathOf = (key: string | Asked) => (typeof key === 'string' ? key : new URL(key.url).pathname)
  async put(key: string | Asked, answer: Response): Promise<void> {
    if (this.isFull) throw new DOMException('full', 'QuotaExceededError')
    this.kept.set(this.pathOf(key), new Response(await answer.text(), answer))
  }
  async match(key: string | Asked): Promise<Response | undefined> {
    return this.kept.get(this.pathOf(key))?.clone()
  }
  async keys(): Promise<Asked[]> {
    return [...this.kept.keys()].map((path) => ({ url: HOME + path }) as Asked)
  }
  async delete(key: string | Asked): Promise<boolean> {
    return this.kept.delete(this.pathOf(key))
  }
}

let stores: Map<string, Store>
let listeners: Record<string, (event: unknown) => void>
let server: (path: string) => Response | Promise<Response>

/** The worker begins; what is kept outlives it. */
function start(): void {
  listeners = {}
  const open = async (name: string) => stores.get(name) ?? stores.set(name, new Store()).get(name)!
  runInNewContext(CODE, {
    self: {
      location: new URL(HOME),
      addEventListener: (name: string, heard: (event: unknown) => void) => (listeners[name] = heard),
      clients: { claim: vi.fn() },
      skipWaiting: vi.fn(),
    },
    caches: { open, keys: async () => [...stores.keys()], delete: async (name: string) => stores.delete(name) },
    fetch: async (asked: string | Asked) => server(typeof asked === 'string' ? asked : new URL(asked.url).pathname),
    URL,
  })
}

beforeEach(() => {
  stores = new Map()
  start()
})

/** The worker's answer; undefined where it leaves the request to the browser. */
async function ask(path: string, mode = 'cors'): Promise<Response | undefined> {
  let answer: Promise<Response> | undefined
  const request: Asked = { url: HOME + path, method: 'GET', mode, headers: new Headers() }
  listeners.fetch!({ request, respondWith: (made: Promise<Response>) => (answer = made) })
  return answer
}
const keptPaths = () => [...stores.values()].flatMap((store) => [...store.kept.keys()])

describe('the page', () => {
  it('comes from the network, and where there is none from what was kept', async () => {
    server = () => new Response('<app>')
    await ask('/songs', 'navigate')
    server = () => Promise.reject(new TypeError('no connection'))
    expect(await (await ask('/songs/other', 'navigate'))!.text()).toBe('<app>')
  })

  it('is kept in place of an error of the proxy', async () => {
    server = () => new Response('<app>')
    await ask('/songs', 'navigate')
    server = () => new Response('away', { status: 503 })
    expect(await (await ask('/songs', 'navigate'))!.text()).toBe('<app>')
  })

  it.each([`${SONG}/practice/mixes/ab12`, `${SONG}/files/drums.mid`, '/api/account/export', '/office/', '/office/studio/song/'])(
    'is not what is at %s',
    async (path) => {
      server = () => new Response('<app>')
      await ask('/songs', 'navigate')
      server = () => new Response('something else')
      expect(await ask(path, 'navigate')).toBeUndefined()
      server = () => Promise.reject(new TypeError('no connection'))
      expect(await (await ask('/', 'navigate'))!.text()).toBe('<app>')
    },
  )
})

describe('a song that is practised', () => {
  beforeEach(async () => {
    server = () => new Response('<app>')
    const done = new Promise((told) => listeners.message!({ data: { keep: SONG.split('/').at(-1) }, ports: [{ postMessage: told }], waitUntil: () => undefined }))
    await done
  })

  it('is kept with its recording', async () => {
    server = (path) => new Response(path)
    await ask(`${SONG}/audio`)
    server = () => Promise.reject(new TypeError('no connection'))
    expect(await (await ask(`${SONG}/audio`))!.text()).toBe(`${SONG}/audio`)
  })

  it.each(['bundle', 'pages.zip', 'files/chart.pdf', 'practice/mixes/ab12', 'practice/log.csv'])('is not kept a second time as %s', async (file) => {
    server = (path) => new Response(path)
    expect(await ask(`${SONG}/${file}`)).toBeUndefined()
    expect(keptPaths()).not.toContain(`${SONG}/${file}`)
  })

  it.each(['another life of the worker', 'the same'])('answers by what is kept where the server is away, in %s', async (life) => {
    server = (path) => new Response(path)
    await ask(`${SONG}/score`)
    if (life !== 'the same') start()
    server = () => new Response('away', { status: 502 })
    expect(await (await ask(`${SONG}/score`))!.text()).toBe(`${SONG}/score`)
    expect((await ask(`${SONG}/never-asked`))!.status).toBe(502)
  })

  it('answers where the browser has no room for a copy', async () => {
    for (const store of stores.values()) store.isFull = true
    server = () => new Response('a score')
    expect(await (await ask(`${SONG}/score`))!.text()).toBe('a score')
  })
})
