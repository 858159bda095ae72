/** What can wait: a piece of it each time the browser has nothing else to do. */
import { onScopeDispose } from 'vue'

const WAIT_AT_MOST_MS = 200

/** `work` does one piece and says whether there is more; what is given back asks for it to begin. */
export function useIdle(work: () => boolean): () => void {
  const ask = globalThis.requestIdleCallback ?? ((run: () => void) => setTimeout(run, WAIT_AT_MOST_MS / 4))
  let isAsked = false
  let isOver = false
  function again(): void {
    if (isAsked || isOver) return
    isAsked = true
    ask(
      () => {
        isAsked = false
        if (!isOver && work()) again()
      },
      { timeout: WAIT_AT_MOST_MS },
    )
  }
  onScopeDispose(() => (isOver = true))
  return again
}
