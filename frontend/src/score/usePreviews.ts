/** How the song would be counted another way: fetched as soon as somebody reaches for it, so that choosing shows at once. */
import { onScopeDispose, type ShallowRef, watch } from 'vue'
import { api, type Score, taken, type Written } from '@/api/client'

const STILLNESS_MS = 800
/** So many other readings are fetched without being reached for, the likeliest first. */
const AHEAD = 2

export function usePreviews(songId: string, score: ShallowRef<Score | null>, isShown: () => boolean) {
  let revision = -1
  let timer: ReturnType<typeof setTimeout> | undefined
  const asked = new Map<string, Promise<void>>()
  const ready = new Map<string, Written>()

  /** Fetch a reading, once for each revision of the song. Where that fails, choosing it simply takes longer. */
  function prepare(key: string): Promise<void> {
    const now = score.value?.revision
    if (now === undefined) return Promise.resolve()
    if (now !== revision) {
      revision = now
      asked.clear()
      ready.clear()
    }
    const known = asked.get(key)
    if (known) return known
    const coming = taken(
      api.GET('/api/songs/{song_id}/reading', { params: { path: { song_id: songId }, query: { key } } }),
    ).then(
      (found) => {
        if (found.revision === score.value?.revision) ready.set(key, found)
      },
      () => void asked.delete(key),
    )
    asked.set(key, coming)
    return coming
  }

  async function prepareLikely(): Promise<void> {
    const others = score.value?.listening.readings.slice(1, 1 + AHEAD) ?? []
    for (const reading of others) if (isShown()) await prepare(reading.key)
  }

  watch(
    [() => score.value?.revision, isShown],
    ([now, shown]) => {
      clearTimeout(timer)
      if (shown && now !== undefined) timer = setTimeout(() => void prepareLikely(), STILLNESS_MS)
    },
    { immediate: true },
  )
  onScopeDispose(() => clearTimeout(timer))

  /** The song in that reading, where it is at hand and nothing has changed since. */
  function preview(key: string): Written | null {
    return score.value?.revision === revision ? (ready.get(key) ?? null) : null
  }

  return { prepare, preview }
}
