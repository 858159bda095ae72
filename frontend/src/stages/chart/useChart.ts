/** The chart in the chosen reading: fetched when it is looked at, and of a changed song only the changed lines. */
import { useQuery } from '@tanstack/vue-query'
import { useLocalStorage, useMediaQuery } from '@vueuse/core'
import { computed, ref, type ShallowRef, shallowRef, watch } from 'vue'
import { api, type Chart, Problem, type Score, type Shared, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import { type ChartChoice, FRESH } from './options'

/** Lines kept by name: an undo, or another reading and back, fetches none of them again. */
const LINES_KEPT = 600
/** As many names as an address holds. */
const NAMES_SENT = 400
const DRAWN_AGAIN = 4
const DRAWN_AGAIN_MS = 2000

export function useChart(songId: string, score: ShallowRef<Score | null>, isShown: () => boolean, guest: Shared | null = null) {
  const of = { params: { path: { song_id: songId } } }
  // A guest begins with what the one who sent the link chose, and goes on from there.
  const sent = guest ? { reading: guest.reading as ChartChoice['reading'], level: guest.level as ChartChoice['level'] } : {}
  const stored = useLocalStorage<Partial<ChartChoice>>(guest ? `orchesis.chart.${songId}` : 'orchesis.chart', sent)
  const choice = computed<ChartChoice>(() => ({ ...FRESH, ...stored.value }))
  function choose(change: Partial<ChartChoice>): void {
    stored.value = { ...choice.value, ...change }
  }
  const narrow = useMediaQuery('(max-width: 700px)')
  const size = computed(() => (narrow.value ? ('phone' as const) : choice.value.size))
  const isBig = ref(false)
  const revision = computed(() => score.value?.revision ?? 0)
  /** The drawings of lines, by name. */
  const lines = new Map<string, string>()

  async function fetched(): Promise<Chart> {
    const have = [...lines.keys()].slice(-NAMES_SENT).join(',')
    const chart = await taken(
      api.GET('/api/songs/{song_id}/chart', {
        params: { ...of.params, query: { ...choice.value, size: size.value, have } },
      }),
    )
    for (const page of chart.pages)
      for (const system of page.systems) {
        const svg = system.svg ?? lines.get(system.name)!
        lines.delete(system.name)
        lines.set(system.name, svg)
        system.svg = svg
      }
    for (const name of [...lines.keys()].slice(0, -LINES_KEPT)) lines.delete(name)
    return chart
  }

  const query = useQuery({
    queryKey: ['chart', songId, choice, size, revision],
    queryFn: fetched,
    enabled: computed(() => isShown() && revision.value > 0),
    // Told apart by their names, not by comparing megabytes.
    structuralSharing: false,
    // Who draws may be away for a moment.
    retry: (failures, error) => failures < DRAWN_AGAIN && error instanceof Problem && error.mayPass,
    retryDelay: DRAWN_AGAIN_MS,
    staleTime: Infinity,
    gcTime: 60_000,
  })
  // The pages that were there stay until others are, also when those cannot be had.
  const chart = shallowRef<Chart | null>(null)
  watch(query.data, (found) => found && (chart.value = found), { immediate: true })

  return {
    choice,
    choose,
    chart,
    isBig,
    isStale: computed(() => chart.value?.revision !== revision.value || query.isFetching.value),
    problem: computed(() => problemWords(query.error.value)),
    fetchChart: () => query.refetch(),
  }
}
