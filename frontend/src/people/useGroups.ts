/** Bands and classes: what they are, their people, songs, what is given, what is wished for. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { api, type Give, type GroupKind, importRecording, taken, type Wish, type WishState } from '@/api/client'
import { problemWords } from '@/api/words'

export const GROUPS_KEY = ['groups'] as const
export const KIND_WORDS: Record<GroupKind, string> = { band: 'band', class: 'class' }

/** Asks, says what went wrong, and reads anew what may have changed. */
function useAsking(keys: () => readonly (readonly unknown[])[]) {
  const client = useQueryClient()
  const problem = ref('')
  async function ask<T>(what: () => Promise<T>): Promise<T | null> {
    problem.value = ''
    try {
      return await what()
    } catch (failure) {
      problem.value = problemWords(failure)
      return null
    } finally {
      await Promise.all(keys().map((queryKey) => client.invalidateQueries({ queryKey })))
    }
  }
  return { problem, ask }
}

export function useGroups() {
  const query = useQuery({ queryKey: GROUPS_KEY, queryFn: () => taken(api.GET('/api/groups')) })
  const { problem, ask } = useAsking(() => [GROUPS_KEY])
  return {
    groups: computed(() => query.data.value ?? []),
    isLoading: query.isLoading,
    problem: computed(() => problem.value || problemWords(query.error.value)),
    make: (name: string, kind: GroupKind) => ask(() => taken(api.POST('/api/groups', { body: { name, kind } }))),
  }
}

/** One of them; all that changes it. */
export function useGroup(id: Ref<number>) {
  const { problem, ask } = useAsking(() => [GROUPS_KEY, ['given', id.value], ['wishes', id.value]])
  const at = () => ({ params: { path: { group_id: id.value } } })
  const of = <K extends string, V>(name: K, value: V) => ({ params: { path: { group_id: id.value, [name]: value } as { group_id: number } & Record<K, V> } })
  return {
    problem,
    invite: (seats: number) => ask(() => taken(api.POST('/api/groups/{group_id}/invitations', { ...at(), body: { seats } }))),
    revoke: (one: number) => ask(() => taken(api.DELETE('/api/groups/{group_id}/invitations/{invitation_id}', of('invitation_id', one)))),
    lead: (member: number, leads: boolean) =>
      ask(() => taken(api.PATCH('/api/groups/{group_id}/members/{member_id}', { ...of('member_id', member), body: { leads } }))),
    dismiss: (member: number) => ask(() => taken(api.DELETE('/api/groups/{group_id}/members/{member_id}', of('member_id', member)))),
    remove: () => ask(() => taken(api.DELETE('/api/groups/{group_id}', at()))),
    put: (song: string, role: 'reader' | 'editor') => ask(() => taken(api.POST('/api/groups/{group_id}/songs', { ...at(), body: { song, role } }))),
    order: (songs: string[]) => ask(() => taken(api.PUT('/api/groups/{group_id}/songs', { ...at(), body: { songs } }))),
    takeOff: (song: string) => ask(() => taken(api.DELETE('/api/groups/{group_id}/songs/{song_id}', of('song_id', song)))),
    give: (body: Give) => ask(() => taken(api.POST('/api/groups/{group_id}/given', { ...at(), body }))),
    withdraw: (one: number) => ask(() => taken(api.DELETE('/api/groups/{group_id}/given/{assignment_id}', of('assignment_id', one)))),
    wish: (title: string, performer: string) => ask(() => taken(api.POST('/api/groups/{group_id}/wishes', { ...at(), body: { title, performer } }))),
    vote: (one: number, isFor: boolean) =>
      ask<unknown>(() =>
        isFor
          ? taken(api.PUT('/api/groups/{group_id}/wishes/{wish_id}/vote', of('wish_id', one)))
          : taken(api.DELETE('/api/groups/{group_id}/wishes/{wish_id}/vote', of('wish_id', one))),
      ),
    settle: (one: number, state: WishState, reason = '', song: string | null = null) =>
      ask(() => taken(api.PATCH('/api/groups/{group_id}/wishes/{wish_id}', { ...of('wish_id', one), body: { state, reason, song } }))),
    /** A wish comes true: its recording becomes a song, which everybody in the group sees. */
    begin: (one: Wish, file: File, onProgress: (share: number) => void) =>
      ask(async () => {
        const song = await importRecording(file, onProgress, new AbortController().signal, one.title)
        await taken(api.PATCH('/api/groups/{group_id}/wishes/{wish_id}', { ...of('wish_id', one.id), body: { state: 'begun', reason: '', song: song.id } }))
        return taken(api.POST('/api/groups/{group_id}/songs', { ...at(), body: { song: song.id, role: 'reader' } }))
      }),
  }
}

export type GroupActs = ReturnType<typeof useGroup>

export function useGiven(id: Ref<number>, isOn: () => boolean) {
  const query = useQuery({
    queryKey: ['given', id],
    queryFn: () => taken(api.GET('/api/groups/{group_id}/given', { params: { path: { group_id: id.value } } })),
    enabled: computed(isOn),
  })
  return { given: computed(() => query.data.value ?? []), isLoading: query.isLoading }
}

export type Given = ReturnType<typeof useGiven>['given']['value'][number]
export type Student = Given['students'][number]

/** Who is how far, whoever is stuck first; without what nobody is. */
export function byStanding(given: Given) {
  return (['stuck', 'not begun', 'at it', 'there'] as const)
    .map((standing) => ({ standing, students: given.students.filter((one) => one.standing === standing) }))
    .filter(({ students }) => students.length)
}

export function useWishes(id: Ref<number>) {
  const query = useQuery({
    queryKey: ['wishes', id],
    queryFn: () => taken(api.GET('/api/groups/{group_id}/wishes', { params: { path: { group_id: id.value } } })),
  })
  return computed(() => query.data.value ?? [])
}

/** What one was given oneself. */
export function useToPractise() {
  const query = useQuery({ queryKey: ['to-practise'], queryFn: () => taken(api.GET('/api/to-practise')) })
  return computed(() => query.data.value ?? [])
}
