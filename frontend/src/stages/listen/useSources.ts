/** The recordings beside the song's own: added, followed while they are lined up, taken away. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, csrfToken, type Source, taken } from '@/api/client'

const LOOK_MS = 1500

export function useSources(songId: string) {
  const of = { params: { path: { song_id: songId } } }
  const problem = ref('')
  const isSending = ref(false)
  const isWaiting = (source: Source) => source.state === 'queued' || source.state === 'running'
  const { data, refetch } = useQuery({
    queryKey: ['sources', songId],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/sources', of)),
    refetchInterval: (query) => (query.state.data?.some(isWaiting) ? LOOK_MS : false),
  })

  async function add(file: File): Promise<void> {
    problem.value = ''
    isSending.value = true
    const body = new FormData()
    body.append('file', file)
    try {
      const answer = await fetch(`/api/songs/${songId}/sources`, {
        method: 'POST',
        body,
        headers: { 'X-CSRFToken': csrfToken() },
      })
      if (!answer.ok) {
        const said = (await answer.json().catch(() => null)) as { detail?: string } | null
        problem.value = said?.detail ?? 'The recording was not taken.'
      }
    } catch {
      problem.value = 'Orchesis does not answer. Is it still running?'
    } finally {
      isSending.value = false
    }
    await refetch()
  }

  /** It was refused, but somebody knows that it is the same song, played another time. */
  async function follow(source: Source): Promise<void> {
    problem.value = ''
    try {
      await taken(
        api.POST('/api/songs/{song_id}/sources/{source_id}/follow', {
          params: { path: { song_id: songId, source_id: source.id } },
        }),
      )
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error)
    }
    await refetch()
  }

  async function remove(source: Source): Promise<void> {
    try {
      await taken(
        api.DELETE('/api/songs/{song_id}/sources/{source_id}', {
          params: { path: { song_id: songId, source_id: source.id } },
        }),
      )
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error)
    }
    await refetch()
  }

  return { sources: computed(() => data.value ?? []), problem, isSending, isWaiting, add, follow, remove }
}

export type Sources = ReturnType<typeof useSources>
