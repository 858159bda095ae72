/** What speaks for the notes of one bar, and what was decided there: fetched when the cursor rests. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, taken } from '@/api/client'
import { useStill } from '@/base/useStill'

const STILL_MS = 350

export function useBarEvidence(songId: string, at: () => number, revision: () => number) {
  const bar = useStill(at, STILL_MS)
  const of = () => ({ params: { path: { song_id: songId, bar: bar.value } } })
  const evidence = useQuery({
    queryKey: ['evidence', songId, bar],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/evidence/{bar}', of())),
    retry: false,
    staleTime: 60_000,
  })
  const history = useQuery({
    queryKey: ['history', songId, bar, computed(revision)],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/history/{bar}', of())),
    retry: false,
    staleTime: Infinity,
  })
  return {
    /** Of the bar at the cursor, or null until it is there. */
    evidence: computed(() => (evidence.data.value?.bar === at() ? evidence.data.value : null)),
    history: computed(() => history.data.value ?? []),
  }
}
