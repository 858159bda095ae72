/** How the song would be counted another way: fetched as soon as somebody reaches for it, so that choosing shows at once. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, type ShallowRef, watch } from 'vue'
import { api, type Score, taken, type Written } from '@/api/client'
import { useStill } from '@/base/useStill'

const STILLNESS_MS = 800
/** So many other readings are fetched without being reached for, the likeliest first. */
const AHEAD = 2

export function usePreviews(songId: string, score: ShallowRef<Score | null>, isShown: () => boolean) {
  const client = useQueryClient()
  const keyOf = (key: string) => ['reading', songId, score.value?.revision, key]

  /** Fetch a reading, once for each revision of the song. Where that fails, choosing it simply takes longer. */
  async function prepare(key: string): Promise<void> {
    if (score.value === null) return
    await client.prefetchQuery({
      queryKey: keyOf(key),
      queryFn: () =>
        taken(api.GET('/api/songs/{song_id}/reading', { params: { path: { song_id: songId }, query: { key } } })),
      staleTime: Infinity,
      gcTime: 60_000,
      retry: false,
    })
  }

  const still = useStill(() => score.value?.revision, STILLNESS_MS)
  const shown = computed(isShown)
  watch(
    [still, shown],
    async ([revision]) => {
      if (revision === undefined) return
      const others = score.value?.listening.readings.slice(1, 1 + AHEAD) ?? []
      for (const reading of others) if (shown.value) await prepare(reading.key)
    },
    { immediate: true },
  )

  /** The song in that reading, where it is at hand and nothing has changed since. */
  function preview(key: string): Written | null {
    const found = client.getQueryData<Written>(keyOf(key))
    return found && found.revision === score.value?.revision ? found : null
  }

  return { prepare, preview }
}
