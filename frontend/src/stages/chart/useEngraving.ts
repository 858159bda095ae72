/** The engraved chart: fetched when the part has been still for a moment, pages as they are printed. */
import { useQuery } from '@tanstack/vue-query'
import { useMediaQuery } from '@vueuse/core'
import { computed, type ShallowRef, shallowRef, watch } from 'vue'
import { api, type Score, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import { useStill } from '@/base/useStill'

const STILL_MS = 1200
/** Where the chart is not looked at it waits for the hand to rest: engraving a long song takes a core for seconds. */
const STILL_ELSEWHERE_MS = 4000

export function useEngraving(songId: string, score: ShallowRef<Score | null>, isChart: () => boolean) {
  const narrow = useMediaQuery('(max-width: 700px)')
  const layout = computed(() => (narrow.value ? 'phone' : 'a4'))
  const still = useStill(
    () => score.value?.revision,
    () => (isChart() ? STILL_MS : STILL_ELSEWHERE_MS),
  )
  // Whoever opens the song to read its chart does not wait for it to be still.
  const first = computed<number | undefined>((before) => before ?? (isChart() ? score.value?.revision : undefined))
  const revision = computed(() => still.value ?? first.value)
  const query = useQuery({
    queryKey: ['engraving', songId, layout, revision],
    queryFn: () =>
      taken(
        api.GET('/api/songs/{song_id}/engraving', {
          params: { path: { song_id: songId }, query: { layout: layout.value } },
        }),
      ),
    enabled: computed(() => revision.value !== undefined),
    // Pages are of one revision: that they are the same is told by it, not by comparing megabytes.
    structuralSharing: false,
    staleTime: Infinity,
    gcTime: 60_000,
  })
  // The pages that were there stay until others are, also when those cannot be had.
  const last = shallowRef<{ pages: string[]; revision: number } | null>(null)
  watch(query.data, (found) => found && (last.value = found), { immediate: true })
  return {
    pages: computed<string[]>(() => last.value?.pages ?? NONE),
    isStale: computed(() => last.value?.revision !== score.value?.revision),
    problem: computed(() => problemWords(query.error.value)),
    fetchPages: () => query.refetch(),
  }
}

const NONE: string[] = []
