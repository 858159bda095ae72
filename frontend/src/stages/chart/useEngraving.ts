/** The engraved chart: fetched when the part has been still for a moment, pages as they are printed. */
import { useMediaQuery } from '@vueuse/core'
import { onScopeDispose, ref, type ShallowRef, shallowRef, watch } from 'vue'
import { api, type Score, taken } from '@/api/client'

const STILL_MS = 1200

export function useEngraving(songId: string, score: ShallowRef<Score | null>, isChart: () => boolean) {
  const pages = shallowRef<string[]>([])
  const problem = ref('')
  const isStale = ref(true)
  const narrow = useMediaQuery('(max-width: 700px)')
  let shown = -1
  let timer: ReturnType<typeof setTimeout> | undefined

  async function fetchPages(): Promise<void> {
    try {
      const answer = await taken(
        api.GET('/api/songs/{song_id}/engraving', {
          params: { path: { song_id: songId }, query: { layout: narrow.value ? 'phone' : 'a4' } },
        }),
      )
      pages.value = answer.pages
      shown = answer.revision
      problem.value = ''
      isStale.value = (score.value?.revision ?? shown) !== shown
    } catch (error) {
      problem.value = error instanceof Error ? error.message : String(error)
    }
  }

  watch(
    () => score.value?.revision,
    (revision) => {
      if (revision === undefined || revision === shown) return
      isStale.value = true
      clearTimeout(timer)
      timer = setTimeout(() => void fetchPages(), shown < 0 && isChart() ? 0 : STILL_MS)
    },
    { immediate: true },
  )
  watch(narrow, () => {
    if (shown >= 0) void fetchPages()
  })
  onScopeDispose(() => clearTimeout(timer))
  return { pages, problem, isStale, fetchPages }
}
