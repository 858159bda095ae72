/** Seats at a song and links to it: fetched when the dialog is open, shown as the server has them. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, type GiveSeat, type MakeLink, taken } from '@/api/client'
import { problemWords } from '@/api/words'

/** To what the links lead: a song, or the set list of a band. */
export type LinksOf = { song: string } | { group: number }

function asks(of: LinksOf) {
  if ('song' in of) {
    const path = { song_id: of.song }
    return {
      key: ['links', of.song],
      all: () => taken(api.GET('/api/songs/{song_id}/links', { params: { path } })),
      make: (body: MakeLink) => taken(api.POST('/api/songs/{song_id}/links', { params: { path }, body })),
      revoke: (link_id: string) => taken(api.DELETE('/api/songs/{song_id}/links/{link_id}', { params: { path: { ...path, link_id } } })),
    }
  }
  const path = { group_id: of.group }
  return {
    key: ['group-links', of.group],
    all: () => taken(api.GET('/api/groups/{group_id}/links', { params: { path } })),
    make: (body: MakeLink) => taken(api.POST('/api/groups/{group_id}/links', { params: { path }, body })),
    revoke: (link_id: string) => taken(api.DELETE('/api/groups/{group_id}/links/{link_id}', { params: { path: { ...path, link_id } } })),
  }
}

export function useLinks(of: LinksOf) {
  const ask = asks(of)
  const client = useQueryClient()
  const query = useQuery({ queryKey: ask.key, queryFn: ask.all })
  const refresh = () => client.invalidateQueries({ queryKey: ask.key })
  const make = useMutation({ mutationFn: ask.make, onSettled: refresh })
  const revoke = useMutation({ mutationFn: ask.revoke, onSettled: refresh })
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
    takeOff: (group_id: number) =>
      change(() => taken(api.DELETE('/api/groups/{group_id}/songs/{song_id}', { params: { path: { group_id, song_id: songId } } }))),
  }
}
