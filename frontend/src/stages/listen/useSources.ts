/** The recordings beside the song's own: added, followed while they are lined up, taken away. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, csrfToken, problemOf, type Source, taken } from '@/api/client'

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
        const body = (await answer.json().catch(() => null)) as { code?: string; detail?: string } | null
        problem.value = problemOf(answer.status, body, 'The recording was not taken.').message
      }
    } catch {
      problem.value = 'Orchesis does not answer. Is it still running?'
    } finally {
      isSending.value = false
    }
    await refetch()
  }

  /** Ask for something about one recording, say what went wrong, and look at them all again. */
  async function ask(what: () => Promise<unknown>): Promise<void> {
    problem.value = ''
    try {
      await what()
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error)
    }
    await refetch()
  }

  const one = (source: Source) => ({ params: { path: { song_id: songId, source_id: source.id } } })
  const remove = (source: Source) =>
    ask(() => taken(api.DELETE('/api/songs/{song_id}/sources/{source_id}', one(source))))
  /** It was refused, but somebody knows that it is the same song, played another time. */
  const follow = (source: Source) =>
    ask(() => taken(api.POST('/api/songs/{song_id}/sources/{source_id}/follow', one(source))))
  /** It was interrupted, or something broke: once more. */
  const again = (source: Source) =>
    ask(() => taken(api.POST('/api/songs/{song_id}/sources/{source_id}/line-up', one(source))))

  return { sources: computed(() => data.value ?? []), problem, isSending, isWaiting, add, follow, again, remove }
}

export type Sources = ReturnType<typeof useSources>
