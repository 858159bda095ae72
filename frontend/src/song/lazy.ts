/**
 * Parts of a song's page that are not there when it opens: loaded when they are gone to, or once the page
 * has been still for a while, whichever comes first. A song opens with its bar stack and nothing else.
 */
import { type AsyncComponentLoader, type Component, defineAsyncComponent } from 'vue'

const loaders: AsyncComponentLoader[] = []

/** A component in a file of its own. */
export function lazy(load: AsyncComponentLoader): Component {
  loaders.push(load)
  return defineAsyncComponent(load)
}

/** Load what was left out, one after the other, so that going there needs no network. */
export async function loadTheRest(): Promise<void> {
  for (const load of loaders) {
    // Without a connection it is asked for again when it is gone to.
    await load().catch(() => {})
  }
}
