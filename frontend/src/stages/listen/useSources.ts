/** The recordings beside the song's own: added, followed while they are lined up, taken away. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { addRecording, api, type Source, taken } from '@/api/client'
import { problemWords } from '@/api/words'

const LOOK_MS = 1500

export function useSources(songId: string, isOpen = true) {
  const of = { params: { path: { song_id: songId } } }
  const client = useQueryClient()
  const queryKey = ['sources', songId]
  const isWaiting = (source: Source) => source.state === 'queued' || source.state === 'running'
  const { data } = useQuery({
    queryKey,
    queryFn: () => taken(api.GET('/api/songs/{song_id}/sources', of)),
    enabled: isOpen,
    refetchInterval: (query) => (query.state.data?.some(isWaiting) ? LOOK_MS : false),
  })
  const problem = ref('')

  /** Something is asked for: what went wrong is said, and all recordings are looked at again. */
  function asking<T>(ask: (what: T) => Promise<unknown>) {
    return useMutation({
      mutationFn: ask,
      onMutate: () => void (problem.value = ''),
      onError: (error) => void (problem.value = problemWords(error)),
      onSettled: () => client.invalidateQueries({ queryKey }),
    })
  }

  const one = (source: Source) => ({ params: { path: { song_id: songId, source_id: source.id } } })
  const adding = asking((file: File) => addRecording(songId, file))
  const removing = asking((source: Source) => taken(api.DELETE('/api/songs/{song_id}/sources/{source_id}', one(source))))
  // It was refused, but somebody knows that it is the same song, played another time.
  const following = asking((source: Source) =>
    taken(api.POST('/api/songs/{song_id}/sources/{source_id}/follow', one(source))),
  )
  // It was interrupted, or something broke: once more.
  const repeating = asking((source: Source) =>
    taken(api.POST('/api/songs/{song_id}/sources/{source_id}/line-up', one(source))),
  )

  return {
    sources: computed(() => data.value ?? []),
    problem,
    isSending: adding.isPending,
    isWaiting,
    add: (file: File) => adding.mutate(file),
    remove: (source: Source) => removing.mutate(source),
    follow: (source: Source) => following.mutate(source),
    again: (source: Source) => repeating.mutate(source),
  }
}

export type Sources = ReturnType<typeof useSources>
