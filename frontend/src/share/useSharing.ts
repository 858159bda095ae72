/** Seats at a song and links to it: fetched when the dialog is open, shown as the server has them. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, type GiveSeat, type MakeLink, taken } from '@/api/client'
import { problemWords } from '@/api/words'

export function useLinks(songId: string) {
  const of = { params: { path: { song_id: songId } } }
  const key = ['links', songId]
  const client = useQueryClient()
  const query = useQuery({ queryKey: key, queryFn: () => taken(api.GET('/api/songs/{song_id}/links', of)) })
  const refresh = () => client.invalidateQueries({ queryKey: key })
  const make = useMutation({
    mutationFn: (body: MakeLink) => taken(api.POST('/api/songs/{song_id}/links', { ...of, body })),
    onSettled: refresh,
  })
  const revoke = useMutation({
    mutationFn: (link_id: string) =>
      taken(api.DELETE('/api/songs/{song_id}/links/{link_id}', { params: { path: { song_id: songId, link_id } } })),
    onSettled: refresh,
  })
  return {
    links: computed(() => query.data.value ?? []),
    isLoading: query.isLoading,
    problem: computed(() => problemWords(make.error.value ?? revoke.error.value ?? query.error.value)),
    make: make.mutateAsync,
    isMaking: make.isPending,
    revoke: revoke.mutate,
  }
}

export function usePeople(songId: string) {
  const of = { params: { path: { song_id: songId } } }
  const key = ['people', songId]
  const client = useQueryClient()
  const query = useQuery({ queryKey: key, queryFn: () => taken(api.GET('/api/songs/{song_id}/people', of)) })
  const problem = ref('')

  async function change(ask: () => Promise<unknown>): Promise<boolean> {
    problem.value = ''
    try {
      await ask()
      return true
    } catch (failure) {
      problem.value = problemWords(failure)
      return false
    } finally {
      await client.invalidateQueries({ queryKey: key })
    }
  }

  return {
    people: computed(() => query.data.value ?? null),
    problem: computed(() => problem.value || problemWords(query.error.value)),
    give: (body: GiveSeat) => change(() => taken(api.POST('/api/songs/{song_id}/people', { ...of, body }))),
    take: (seat_id: number) =>
      change(() => taken(api.DELETE('/api/songs/{song_id}/people/{seat_id}', { params: { path: { song_id: songId, seat_id } } }))),
  }
}
