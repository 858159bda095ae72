/** The shelf of songs: a page of what is looked for, kept fresh while something is being listened to. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced, useSessionStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, type Run, taken } from '@/api/client'
import { problemWords } from '@/api/words'

const SHELF_KEY = ['shelf'] as const
const REFRESH_MS = 800
/** So long after the last letter it is looked for. */
const TYPED_MS = 200

export function isWorking(run: Run | null): boolean {
  return run?.state === 'queued' || run?.state === 'running'
}

export type Sort = 'newest' | 'title' | 'tempo' | 'doubts' | 'difficulty' | 'practised'
export const SORTS: { value: Sort; label: string }[] = [
  { value: 'newest', label: 'newest first' },
  { value: 'practised', label: 'practised last' },
  { value: 'title', label: 'by title' },
  { value: 'tempo', label: 'slow to fast' },
  { value: 'difficulty', label: 'easy to hard' },
  { value: 'doubts', label: 'most to check' },
]
export type Left = 'all' | 'doubts' | 'nothing'
export const LEFTS: { value: Left; label: string }[] = [
  { value: 'all', label: 'all songs' },
  { value: 'doubts', label: 'with something to check' },
  { value: 'nothing', label: 'with nothing left to check' },
]

export function useShelf() {
  const client = useQueryClient()
  const search = ref('')
  const typed = refDebounced(search, TYPED_MS)
  const sort = useSessionStorage<Sort>('orchesis.shelf.sort', 'newest')
  const left = ref<Left>('all')
  const tag = ref('')
  const page = ref(1)
  watch([typed, sort, left, tag], () => (page.value = 1))
  const query = useQuery({
    queryKey: [...SHELF_KEY, typed, sort, left, tag, page],
    queryFn: () =>
      taken(
        api.GET('/api/shelf', {
          params: { query: { search: typed.value, sort: sort.value, left: left.value === 'all' ? '' : left.value, tag: tag.value, page: page.value } },
        }),
      ),
    placeholderData: keepPreviousData,
    refetchInterval: (state) => (state.state.data?.songs.some((song) => isWorking(song.run)) ? REFRESH_MS : false),
  })
  const refresh = () => client.invalidateQueries({ queryKey: SHELF_KEY })
  const of = (id: string) => ({ params: { path: { song_id: id } } })
  const problem = ref('')

  function asking<T>(ask: (what: T) => Promise<unknown>) {
    const { mutate } = useMutation({
      mutationFn: ask,
      onMutate: () => void (problem.value = ''),
      onError: (error) => void (problem.value = problemWords(error)),
      onSettled: refresh,
    })
    return (what: T) => mutate(what)
  }

  return {
    shelf: computed(() => query.data.value ?? null),
    songs: computed(() => query.data.value?.songs ?? []),
    /** Nothing is looked for: an empty shelf is one without songs. */
    isWhole: computed(() => !typed.value && left.value === 'all' && !tag.value),
    search,
    sort,
    left,
    tag,
    page,
    isLoading: query.isLoading,
    error: query.error,
    problem,
    refresh,
    cancel: asking((id: string) => taken(api.DELETE('/api/songs/{song_id}/listening', of(id)))),
    tryAgain: asking((id: string) => taken(api.POST('/api/songs/{song_id}/listening', of(id)))),
    remove: asking((id: string) => taken(api.DELETE('/api/songs/{song_id}', of(id)))),
    setTags: asking(({ id, tags }: { id: string; tags: string[] }) => taken(api.PUT('/api/songs/{song_id}/tags', { ...of(id), body: { tags } }))),
    setPerformer: asking(({ id, performer }: { id: string; performer: string }) =>
      taken(api.PATCH('/api/songs/{song_id}', { ...of(id), body: { performer } })),
    ),
  }
}
