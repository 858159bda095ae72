/** One song of the shelf, asked for again and again while it is being listened to. */
import { useQuery } from '@tanstack/vue-query'
import { api, taken } from '@/api/client'
import { isWorking } from '@/shelf/useShelf'

const REFRESH_MS = 800

export function useSong(songId: string) {
  return useQuery({
    queryKey: ['song', songId],
    queryFn: () => taken(api.GET('/api/songs/{song_id}', { params: { path: { song_id: songId } } })),
    refetchInterval: (state) => (isWorking(state.state.data?.run ?? null) ? REFRESH_MS : false),
  })
}
