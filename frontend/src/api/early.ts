/**
 * What a song's page will ask for, asked for before the application has started: the two are then
 * waited for together. Each answer is used once, by whoever asks for the same address.
 */
const FRESH_MS = 4000
/** Stages that show what is found about the grooves. */
const WITH_GROOVES: readonly string[] = ['"grooves"', 'grooves']

const coming = new Map<string, { answer: Promise<Response>; since: number }>()

function ask(path: string): void {
  const answer = fetch(path, { headers: { Accept: 'application/json' } })
  // It is asked for again by whoever wants it; one that nobody wants is nobody's failure.
  answer.catch(() => {})
  coming.set(path, { answer, since: performance.now() })
}

/** Ask for all that the page at this address needs. */
export function askEarly(path: string): void {
  const song = /^\/songs\/([0-9a-f-]{36})\/?$/.exec(path)?.[1]
  if (!song) return
  const at = `/api/songs/${song}`
  for (const part of ['/api/session', `${at}/score`, `${at}/mine`, at, `${at}/sources`]) ask(part)
  const stage = sessionStorage.getItem(`orchesis.stage.${song}`)
  if (stage === null || WITH_GROOVES.includes(stage)) ask(`${at}/grooves`)
}

/** The answer that is on its way already, if there is one and it was asked for just now. */
export function earlyAnswer(request: Request): Promise<Response> | null {
  const { pathname, search } = new URL(request.url)
  if (request.method !== 'GET' || search) return null
  const found = coming.get(pathname)
  coming.delete(pathname)
  if (!found || performance.now() - found.since >= FRESH_MS) return null
  // One that failed says how things were: meanwhile somebody may have signed in.
  const again = () => globalThis.fetch(request)
  return found.answer.then((answer) => (answer.ok ? answer : again()), again)
}
