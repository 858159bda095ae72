/**
 * Keeps what practising needs when the connection breaks: the application itself, the kit and the voice,
 * and the songs that were opened in Practice. The network always comes first for what may change; what is
 * kept here answers only where it does not. Signing out forgets all songs.
 */
const FILES = 'orchesis-files-2'
const SONGS = 'orchesis-songs-1'
const SHELL = '/static/index.html'
const MOST_FILES = 400
/** Addresses that are no pages of the application: files that are taken away, and the office. */
const NO_PAGE = /^\/(api|office|static)(\/|$)/
/** Files of a song that are taken away: not kept a second time in the browser. */
const TAKEN_AWAY = /\/(bundle|pages\.zip|files\/[^/]+|practice\/mixes\/[^/]+|practice\/log\.csv)$/
const SONG = /^\/api\/songs\/([0-9a-f-]{36})(\/|$)/
/** Songs whose answers are kept, newest last; told by the pages. */
const kept = []
const MOST_SONGS = 6

self.addEventListener('install', () => self.skipWaiting())
self.addEventListener('activate', (event) => {
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(names.filter((name) => name !== FILES && name !== SONGS).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  )
})

self.addEventListener('message', (event) => {
  const { keep, forget } = event.data ?? {}
  if (forget) event.waitUntil(caches.delete(SONGS))
  if (keep) event.waitUntil(keepSong(keep).then(() => event.ports[0]?.postMessage('kept')))
})

async function keepSong(id) {
  const at = kept.indexOf(id)
  if (at >= 0) kept.splice(at, 1)
  kept.push(id)
  // The page itself, which was opened before there was anybody to keep it.
  const page = await fetch('/').catch(() => null)
  if (page?.status === 200) await (await caches.open(FILES)).put(SHELL, page)
  // Songs that were kept by an earlier life of this worker count too: the oldest go.
  const cache = await caches.open(SONGS)
  const ids = [...new Set((await cache.keys()).map((request) => SONG.exec(new URL(request.url).pathname)?.[1]).filter(Boolean))]
  const old = ids.filter((other) => !kept.includes(other))
  const tooMany = [...old, ...kept].slice(0, -MOST_SONGS)
  for (const request of await cache.keys()) {
    const song = SONG.exec(new URL(request.url).pathname)?.[1]
    if (song && tooMany.includes(song)) await cache.delete(request)
  }
}

/** Where there is no room for a copy, the answer itself is none the worse. */
async function keepCopy(cache, key, answer) {
  await cache.put(key, answer).catch(() => undefined)
}

/** The server is away behind its proxy: what is kept is better than nothing. */
const isAway = (answer) => [502, 503, 504].includes(answer.status)

/** From the network, and a copy kept; from what is kept where the network does not answer. */
async function networkFirst(request, name, key = request) {
  const cache = await caches.open(name)
  return orKept(cache, key, async () => {
    const answer = await fetch(request)
    if (answer.status === 200) await keepCopy(cache, key, answer.clone())
    return answer
  })
}

/** What somebody answers, or else what is kept. */
async function orKept(cache, key, asked) {
  const copy = () => cache.match(key, { ignoreVary: true })
  try {
    const answer = await asked()
    return isAway(answer) ? ((await copy()) ?? answer) : answer
  } catch (failure) {
    const found = await copy()
    if (found) return found
    throw failure
  }
}

/** Names with a hash of their content never change. */
async function cacheFirst(request) {
  const cache = await caches.open(FILES)
  const found = await cache.match(request, { ignoreVary: true })
  if (found) return found
  const answer = await fetch(request)
  if (answer.status === 200) {
    await keepCopy(cache, request, answer.clone())
    const keys = await cache.keys()
    for (const old of keys.slice(0, Math.max(0, keys.length - MOST_FILES))) await cache.delete(old)
  }
  return answer
}

self.addEventListener('fetch', (event) => {
  const { request } = event
  const url = new URL(request.url)
  if (request.method !== 'GET' || url.origin !== self.location.origin || request.headers.has('range')) return
  if (TAKEN_AWAY.test(url.pathname)) return
  if (request.mode === 'navigate') {
    if (NO_PAGE.test(url.pathname)) return
    event.respondWith(networkFirst(request, FILES, SHELL))
    return
  }
  if (url.pathname.startsWith('/static/assets/')) {
    event.respondWith(cacheFirst(request))
    return
  }
  if (url.pathname.startsWith('/static/')) {
    event.respondWith(networkFirst(request, FILES))
    return
  }
  const song = SONG.exec(url.pathname)?.[1]
  if (url.pathname === '/api/session') event.respondWith(networkFirst(request, SONGS))
  else if (song) event.respondWith(kept.includes(song) ? networkFirst(request, SONGS) : fetchOrKept(request))
})

/** Nothing of this song is kept any more, or not yet told: the network, or an older copy. */
async function fetchOrKept(request) {
  return orKept(await caches.open(SONGS), request, () => fetch(request))
}
