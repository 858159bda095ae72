/** What can be practised of a song, the plan that is chosen, the log: kept here until Orchesis has it. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { until, useEventListener, useIntervalFn, useLocalStorage, useSessionStorage } from '@vueuse/core'
import { computed, ref, type ShallowRef, watch } from 'vue'
import { api, type Practice, type PracticeEntry, type PracticeStep, Problem, type School, type Score, taken } from '@/api/client'
import { DEFAULT_SCHOOL } from '@/api/vocabulary'
import { problemWords } from '@/api/words'

const TRY_AGAIN_MS = 10_000

interface Unsent {
  steps: string[]
  at: number
}

interface Part {
  score: ShallowRef<Score | null>
  notice: { value: string }
}

/** The notes of a groove that are practised. */
export type PracticeLevel = Practice['given'][number]['level']

/** A groove or a fill at a level, as Orchesis names it. Exercises have one level only. */
export function targetAt(target: string, level: PracticeLevel): string {
  return level === 'all' || target.startsWith('exercise') ? target : `${target}--${level}`
}

/** The groove or fill of which this is a level. */
export function wholeOf(target: string): string {
  return target.split('--')[0]!
}

/** `sentLevel`: of a guest, what the sender of his link chose. */
export function usePractice(songId: string, part: Part, isShown: () => boolean, isGuest = false, sentLevel: PracticeLevel = 'all') {
  const of = { params: { path: { song_id: songId } } }
  const client = useQueryClient()
  const school = useLocalStorage<School>('orchesis.school', DEFAULT_SCHOOL as School)
  const revision = computed(() => part.score.value?.revision ?? 0)
  const isEnabled = computed(() => isShown() && revision.value > 0)
  const overviewKey = computed(() => ['practice', songId, revision.value])

  const overview = useQuery({
    queryKey: overviewKey,
    queryFn: () => taken(api.GET('/api/songs/{song_id}/practice', of)),
    enabled: isEnabled,
    staleTime: 30_000,
    placeholderData: (before) => before,
  })
  const targets = computed(() => overview.data.value?.targets ?? [])
  const chosen = useSessionStorage(`orchesis.practice.${songId}`, '')
  const whole = computed(() =>
    targets.value.some((item) => item.key === chosen.value) ? chosen.value : (targets.value[0]?.key ?? ''),
  )
  const level = useSessionStorage<PracticeLevel>(`orchesis.practice-level.${songId}`, sentLevel)
  const target = computed(() => (whole.value ? targetAt(whole.value, level.value) : ''))
  /** What a teacher asks for, of this song. */
  const given = computed(() => overview.data.value?.given ?? [])
  /** What of it is shown now. */
  const asked = computed(() => given.value.filter((one) => targetAt(one.target, one.level) === target.value))
  const askedTempi = computed(() => asked.value.map((one) => one.bpm).join())
  const planQuery = useQuery({
    queryKey: ['practice-plan', songId, revision, target, school, askedTempi],
    queryFn: () =>
      taken(
        api.GET('/api/songs/{song_id}/practice/plans/{target}', {
          params: { path: { song_id: songId, target: target.value }, query: { school: school.value } },
        }),
      ),
    enabled: computed(() => isEnabled.value && target.value !== ''),
    retry: false,
    staleTime: Infinity,
  })
  const plan = computed(() => (planQuery.data.value?.target === target.value ? planQuery.data.value : null))
  /** Plans that Orchesis does not have yet. */
  const unsent = useLocalStorage<Record<string, Unsent>>(`orchesis.plans.${songId}`, {}, { shallow: true })
  const kept = computed<Unsent | null>(
    () => unsent.value[target.value] ?? overview.data.value?.plans.find((item) => item.target === target.value) ?? null,
  )
  const byKey = computed(() => new Map((plan.value?.steps ?? []).map((step) => [step.key, step])))
  /** The chosen steps; where none were chosen yet, those of the first method. */
  const keys = computed(() => kept.value?.steps.filter((key) => byKey.value.has(key)) ?? plan.value?.methods[0]?.steps ?? [])
  const steps = computed<PracticeStep[]>(() => keys.value.map((key) => byKey.value.get(key)!).filter(Boolean))
  const at = ref(0)
  watch([target, kept], () => (at.value = Math.min(kept.value?.at ?? 0, Math.max(0, steps.value.length - 1))), { immediate: true })
  const step = computed(() => steps.value[Math.min(at.value, steps.value.length - 1)] ?? null)

  /** Show a change of the kept plan at once, and send it. */
  function keep(next: readonly string[], place = at.value): void {
    const bounded = Math.max(0, Math.min(place, next.length - 1))
    at.value = bounded
    unsent.value = { ...unsent.value, [target.value]: { steps: [...next], at: bounded } }
    void sendPlans()
  }

  let isSendingPlans = false
  /** Send the plans that wait, one after the other: the last one said is the one that stays. */
  async function sendPlans(): Promise<void> {
    // What a guest chooses and practises stays in his browser.
    if (isSendingPlans || isGuest) return
    isSendingPlans = true
    try {
      for (let [first] = Object.entries(unsent.value); first; [first] = Object.entries(unsent.value)) {
        const [of, mine] = first
        const told = await putPlan(of, mine)
        if (told === 'later') break
        if (told !== 'kept') part.notice.value = told
        if (unsent.value[of] === mine) {
          if (told === 'kept') await showKept(of, mine)
          if (unsent.value[of] !== mine) continue
          unsent.value = Object.fromEntries(Object.entries(unsent.value).filter(([name]) => name !== of))
        }
      }
    } finally {
      isSendingPlans = false
    }
  }

  /** 'kept'; 'later' where Orchesis does not answer; or why it is refused. */
  async function putPlan(of: string, mine: Unsent): Promise<string> {
    try {
      await taken(
        api.PUT('/api/songs/{song_id}/practice/plans/{target}', {
          params: { path: { song_id: songId, target: of } },
          body: { ...mine, school: school.value },
        }),
      )
      return 'kept'
    } catch (failure) {
      return failure instanceof Problem && failure.code === 'offline' ? 'later' : problemWords(failure)
    }
  }

  async function showKept(of: string, mine: Unsent): Promise<void> {
    const name = plan.value?.name ?? ''
    // An answer that is still on its way may be from before this plan was kept: it is asked for anew.
    const isAsking = client.isFetching({ queryKey: overviewKey.value }) > 0
    if (isAsking) await client.cancelQueries({ queryKey: overviewKey.value })
    client.setQueryData<Practice>(overviewKey.value, (old) =>
      old && { ...old, plans: [...old.plans.filter((item) => item.target !== of), { target: of, name, is_there: true, ...mine }] },
    )
    if (isAsking) void client.invalidateQueries({ queryKey: overviewKey.value })
  }

  /** Go to a step of the plan; where one is stays kept. */
  function goTo(index: number): void {
    if (index < 0 || index >= steps.value.length) return
    at.value = index
    keep(keys.value, index)
  }

  const waiting = useLocalStorage<PracticeEntry[]>(`orchesis.practised.${songId}`, [])
  let isSending = false

  /** Send what waits; what could not be sent waits on. */
  async function send(): Promise<void> {
    void sendPlans()
    if (isSending || isGuest || waiting.value.length === 0) return
    isSending = true
    const sent = waiting.value.slice(0, 500)
    try {
      const fresh = await taken(api.POST('/api/songs/{song_id}/practice/log', { ...of, body: { entries: sent } }))
      const ids = new Set(sent.map((item) => item.client_id))
      waiting.value = waiting.value.filter((item) => !ids.has(item.client_id))
      // Entering what was practised changes no plan: of those this page may know a later place than the answer does.
      client.setQueryData<Practice>(overviewKey.value, (old) => (old ? { ...fresh, plans: old.plans } : fresh))
    } catch {
      // Kept here: it is sent when Orchesis answers again.
    } finally {
      isSending = false
    }
  }

  function enter(entry: Omit<PracticeEntry, 'client_id' | 'played_at'>): void {
    waiting.value = [...waiting.value, { ...entry, client_id: crypto.randomUUID(), played_at: new Date().toISOString() }]
    void send()
  }

  async function clearLog(): Promise<void> {
    if (!isGuest) await taken(api.DELETE('/api/songs/{song_id}/practice/log', of))
    waiting.value = []
    await overview.refetch()
  }

  useEventListener(window, 'online', () => void send())
  useIntervalFn(() => void send(), TRY_AGAIN_MS)
  watch(isEnabled, (shown) => shown && void send(), { immediate: true })

  return {
    school,
    overview: computed(() => overview.data.value ?? null),
    problem: computed(() => problemWords(overview.error.value ?? planQuery.error.value)),
    /** The overview has come, or cannot be had now. */
    ready: () => until(() => overview.isFetched.value && !overview.isFetching.value).toBe(true),
    hasDrumsDown: () => part.score.value?.parts.includes('drums-down' as never) ?? false,
    refetch: () => Promise.all([overview.refetch(), planQuery.refetch()]),
    targets,
    target,
    whole,
    level,
    given,
    asked,
    choose: (key: string) => (chosen.value = key),
    /** What was given, at the level that was asked for. */
    take(one: Practice['given'][number]) {
      chosen.value = one.target
      level.value = one.level
    },
    plan,
    isKept: computed(() => kept.value !== null),
    keys,
    steps,
    step,
    at,
    goTo,
    keep,
    waiting: computed(() => (isGuest ? 0 : waiting.value.length)),
    isGuest,
    log: computed(() => [...(overview.data.value?.log ?? []), ...(isGuest ? waiting.value : [])]),
    enter,
    send,
    clearLog,
    /** The big player is open. */
    isOpen: ref(false),
  }
}

export type SongPractice = ReturnType<typeof usePractice>
