/** Files that take a moment to make: asked for again until they are there, then handed over. */
import { onScopeDispose, ref } from 'vue'
import { Problem, problemOf } from './client'

const ASK_AGAIN_MS = 700
const GIVE_UP_MS = 90_000

/** The file at an address; waits while the server answers that it is being made (202). */
export async function fileAt(url: string, signal?: AbortSignal): Promise<Blob> {
  const until = performance.now() + GIVE_UP_MS
  for (;;) {
    let answer: Response
    try {
      answer = await fetch(url, { signal })
    } catch (error) {
      if (signal?.aborted) throw error
      throw new Problem('offline', 'Orchesis does not answer. Is it still running?')
    }
    if (answer.ok && answer.status !== 202) return await answer.blob()
    if (!answer.ok) throw problemOf(answer.status, await answer.json().catch(() => null))
    if (performance.now() > until) throw new Problem('failed', 'It takes very long. Try again later.')
    await new Promise((done) => setTimeout(done, ASK_AGAIN_MS))
  }
}

/** Hand a file to the browser under a name, as a link to it would. */
export function handOver(file: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}

/** One download at a time, with which one it is and what went wrong. */
export function useDownload() {
  const making = ref('')
  const problem = ref('')
  const stop = new AbortController()

  async function download(url: string, name: string): Promise<void> {
    if (making.value) return
    making.value = name
    problem.value = ''
    try {
      handOver(await fileAt(url, stop.signal), name)
    } catch (error) {
      if (!stop.signal.aborted) problem.value = error instanceof Error ? error.message : String(error)
    } finally {
      making.value = ''
    }
  }

  onScopeDispose(() => stop.abort())
  return { making, problem, download }
}
