/** What is measured of how the song is played. */
import { useQuery } from '@tanstack/vue-query'
import { computed, type ShallowRef } from 'vue'
import { api, type MeasuredFeel, type Score, taken } from '@/api/client'
import { problemWords } from '@/api/words'

export function useFeel(songId: string, score: ShallowRef<Score | null>, isShown: () => boolean) {
  const revision = computed(() => score.value?.revision ?? 0)
  const query = useQuery({
    queryKey: ['feel', songId, revision],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/feel', { params: { path: { song_id: songId } } })),
    enabled: computed(() => isShown() && revision.value > 0),
    placeholderData: (before) => before,
  })
  return {
    measured: computed<MeasuredFeel | null>(() => query.data.value ?? null),
    problem: computed(() => problemWords(query.error.value)),
    fetch: () => query.refetch(),
  }
}
