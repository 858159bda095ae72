/** The shelf of songs: what is on it, kept fresh while something is being listened to. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, type Run, type Song, taken } from '@/api/client'
import { problemWords } from '@/api/words'

const SHELF_KEY = ['songs'] as const
const REFRESH_MS = 800

export function isWorking(run: Run | null): boolean {
  return run?.state === 'queued' || run?.state === 'running'
}

export function useShelf() {
  const client = useQueryClient()
  const query = useQuery({
    queryKey: SHELF_KEY,
    queryFn: () => taken(api.GET('/api/songs')),
    refetchInterval: (state) =>
      state.state.data?.some((song: Song) => isWorking(song.run)) ? REFRESH_MS : false,
  })
  const refresh = () => client.invalidateQueries({ queryKey: SHELF_KEY })
  const of = (id: string) => ({ params: { path: { song_id: id } } })
  const problem = ref('')

  function asking(ask: (id: string) => Promise<unknown>) {
    const { mutate } = useMutation({
      mutationFn: ask,
      onMutate: () => void (problem.value = ''),
      onError: (error) => void (problem.value = problemWords(error)),
      onSettled: refresh,
    })
    return (id: string) => mutate(id)
  }

  return {
    songs: computed<Song[]>(() => query.data.value ?? []),
    isLoading: query.isLoading,
    error: query.error,
    problem,
    refresh,
    cancel: asking((id) => taken(api.DELETE('/api/songs/{song_id}/listening', of(id)))),
    tryAgain: asking((id) => taken(api.POST('/api/songs/{song_id}/listening', of(id)))),
    remove: asking((id) => taken(api.DELETE('/api/songs/{song_id}', of(id)))),
  }
}
