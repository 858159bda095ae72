/** The service worker: what was opened to practise goes on without a connection. */
const WORKER = `${import.meta.env.BASE_URL}sw.js`

async function worker(): Promise<ServiceWorker | null> {
  // Only pages that are served securely, or from this machine, may have one.
  if (!('serviceWorker' in navigator)) return null
  try {
    await navigator.serviceWorker.register(WORKER, { scope: '/' })
    return (await navigator.serviceWorker.ready).active
  } catch {
    return null
  }
}

/** Whether the browser keeps songs here at all. */
export const canKeep = 'serviceWorker' in navigator

const SOUNDS = import.meta.env.BASE_URL

/** Every sound of the kit and of the voice. */
export async function soundAddresses(): Promise<string[]> {
  try {
    const kit = (await (await fetch(`${SOUNDS}kit/kit.json`)).json()) as {
      velocities: Record<string, number>
      variants: Record<string, number>
    }
    const voice = (await (await fetch(`${SOUNDS}voice/voice.json`)).json()) as Record<string, number>
    const strokes = Object.entries(kit.variants).flatMap(([drum, count]) =>
      Object.keys(kit.velocities).flatMap((layer) =>
        Array.from({ length: count }, (_, index) => `${SOUNDS}kit/${drum}-${layer}-${index + 1}.ogg`),
      ),
    )
    const words = Object.keys(voice).map((word) => `${SOUNDS}voice/${word}.ogg`)
    return [`${SOUNDS}kit/kit.json`, `${SOUNDS}voice/voice.json`, ...strokes, ...words]
  } catch {
    return []
  }
}

/** Keep a song: the worker is told of it, then each address is asked for through it. */
export async function keepSong(id: string, addresses: readonly string[]): Promise<boolean> {
  const active = await worker()
  if (!active) return false
  const channel = new MessageChannel()
  const told = new Promise((done) => (channel.port1.onmessage = done))
  active.postMessage({ keep: id }, [channel.port2])
  await told
  if (!navigator.serviceWorker.controller) {
    await new Promise((done) => navigator.serviceWorker.addEventListener('controllerchange', done, { once: true }))
  }
  // What this page consists of was loaded before there was anybody to keep it.
  const loaded = performance
    .getEntriesByType('resource')
    .map((entry) => new URL(entry.name))
    .filter((url) => url.origin === location.origin && url.pathname.startsWith(`${SOUNDS}assets/`))
    .map((url) => url.pathname)
  for (const address of new Set([...loaded, ...addresses])) {
    const answer = await fetch(address).catch(() => null)
    await answer?.arrayBuffer()
  }
  return true
}

/** Forget every song that is kept in this browser: somebody signed out, or in. */
export async function forgetSongs(): Promise<void> {
  if (!canKeep) return
  const found = await navigator.serviceWorker.getRegistration().catch(() => undefined)
  found?.active?.postMessage({ forget: true })
}
