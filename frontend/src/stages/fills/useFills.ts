/** The fills of a song as they are told, the chosen one, its exercises, the kit that they are played on. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useLocalStorage, useSessionStorage } from '@vueuse/core'
import { computed, ref, type ShallowRef, watch } from 'vue'
import { api, type Exercise, type FillAsked, type GestureWish, type Kit, type KitWish, type School, type Score, taken, type ToldFill } from '@/api/client'
import { DEFAULT_SCHOOL } from '@/api/vocabulary'
import { problemWords } from '@/api/words'
import { fraction } from '@/score/place'

/** What a sticking is called that the score has and no way is. */
const AS_WRITTEN = 'as it is written'

export type FillOrder = 'song' | 'family'

/** Steps by which the ends of a fill are moved: a quarter of a beat. */
const STEPS_A_BEAT = 4

interface Part {
  score: ShallowRef<Score | null>
  notice: { value: string }
  decideFill: (asked: FillAsked) => Promise<unknown>
  gesture: (wish: GestureWish) => Promise<boolean>
}

export function useFills(songId: string, part: Part, isShown: () => boolean) {
  const of = { params: { path: { song_id: songId } } }
  const client = useQueryClient()
  const school = useLocalStorage<School>('orchesis.school', DEFAULT_SCHOOL as School)
  const order = useLocalStorage<FillOrder>('orchesis.fill-order', 'song')
  const revision = computed(() => part.score.value?.revision ?? 0)
  const isEnabled = computed(() => isShown() && revision.value > 0)

  const kitOf = useQuery({
    queryKey: ['song-kit', songId],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/kit', of)),
    enabled: isEnabled,
  })
  const kits = useQuery({
    queryKey: ['kits'],
    queryFn: () => taken(api.GET('/api/kits', {})),
    enabled: isEnabled,
  })
  const kit = computed(() => kitOf.data.value?.kit ?? null)
  /** What the answer rests on besides the song: the values of the kit. */
  const kitStamp = computed(() => JSON.stringify(kits.data.value?.find((item) => item.id === kit.value) ?? null))

  const query = useQuery({
    queryKey: ['fills', songId, revision, school, kitStamp],
    queryFn: () =>
      taken(
        api.GET('/api/songs/{song_id}/fills', {
          params: { ...of.params, query: { school: school.value } },
        }),
      ),
    enabled: isEnabled,
    placeholderData: (before) => before,
  })
  const inSong = computed<readonly ToldFill[]>(() => query.data.value?.fills ?? [])
  const families = computed(() => query.data.value?.families ?? [])
  /** As they are listed: in the order of the song, or family by family. */
  const fills = computed(() =>
    order.value === 'song'
      ? inSong.value
      : families.value.flatMap((family) => inSong.value.filter((fill) => fill.family === family.name)),
  )

  /** The bar in which the chosen fill ends: it stays chosen while others come and go. */
  const chosenBar = useSessionStorage<number | null>(`orchesis.fill.${songId}`, null)
  const fill = computed(() => fills.value.find((item) => item.bar === chosenBar.value) ?? fills.value[0] ?? null)
  function step(by: number): void {
    const index = fills.value.indexOf(fill.value!)
    const next = fills.value[Math.min(fills.value.length - 1, Math.max(0, index + by))]
    if (next) chosenBar.value = next.bar
  }

  const wayIndex = ref(0)
  /** The way that the score has; the first where it has none of them. */
  const currentWay = computed(() => Math.max(0, fill.value?.ways.findIndex((item) => item.is_current) ?? 0))
  watch([() => fill.value?.bar, currentWay, revision], () => (wayIndex.value = currentWay.value), { immediate: true })
  const way = computed(() => fill.value?.ways[Math.min(wayIndex.value, fill.value.ways.length - 1)] ?? null)

  const exercisesQuery = useQuery({
    queryKey: ['exercises', songId, revision, computed(() => fill.value?.bar), kitStamp],
    queryFn: () =>
      taken(
        api.GET('/api/songs/{song_id}/fills/{bar}/exercises', {
          params: { path: { song_id: songId, bar: fill.value!.bar } },
        }),
      ),
    enabled: computed(() => isEnabled.value && fill.value !== null),
  })
  const exercises = computed<readonly Exercise[]>(() => exercisesQuery.data.value ?? [])

  /** Fills of other songs that are kin to the chosen one. */
  const elsewhere = useQuery({
    queryKey: ['fill-elsewhere', songId, revision, computed(() => fill.value?.bar)],
    queryFn: () =>
      taken(
        api.GET('/api/songs/{song_id}/fills/{bar}/elsewhere', {
          params: { path: { song_id: songId, bar: fill.value!.bar } },
        }),
      ),
    enabled: computed(() => isEnabled.value && fill.value !== null),
  })
  /** The chosen fill on the staff, with the hands of the chosen way: an address. */
  const staff = computed(() =>
    fill.value
      ? `/api/songs/${songId}/fills/${fill.value.bar}/staff?way=${wayIndex.value}&of=${revision.value}-${kit.value ?? 0}`
      : '',
  )

  const listQuery = useQuery({
    queryKey: ['practice-list', songId],
    queryFn: () => taken(api.GET('/api/songs/{song_id}/practice-list', of)),
    enabled: isEnabled,
  })
  const onList = computed(() => new Map((listQuery.data.value ?? []).map((item) => [`${item.bar} ${item.key}`, item])))

  async function tried(work: () => Promise<unknown>): Promise<void> {
    try {
      await work()
    } catch (failure) {
      part.notice.value = problemWords(failure)
    }
  }

  /** Put an exercise on the practice list, or take it off. */
  const toList = (exercise: Exercise) =>
    tried(async () => {
      const bar = fill.value!.bar
      const there = onList.value.get(`${bar} ${exercise.key}`)
      if (there)
        await taken(
          api.DELETE('/api/songs/{song_id}/practice-list/{item_id}', {
            params: { path: { song_id: songId, item_id: there.id } },
          }),
        )
      else {
        const title = `${exercise.name}, fill in bar ${bar}`
        await taken(
          api.POST('/api/songs/{song_id}/practice-list', { ...of, body: { bar, key: exercise.key, title } }),
        )
      }
      await listQuery.refetch()
    })

  const chooseKit = (wanted: number | null) =>
    tried(async () => {
      await taken(api.PUT('/api/songs/{song_id}/kit', { ...of, body: { kit: wanted } }))
      await kitOf.refetch()
    })

  /** Make a kit, or change one, and play this song on it. Resolves to what is wrong with it, or nothing. */
  async function saveKit(values: KitWish, known: number | null): Promise<string> {
    try {
      const saved = known
        ? await taken(api.PUT('/api/kits/{kit_id}', { params: { path: { kit_id: known } }, body: values }))
        : await taken(api.POST('/api/kits', { body: values }))
      await client.invalidateQueries({ queryKey: ['kits'] })
      await chooseKit(saved.id)
      return ''
    } catch (failure) {
      return problemWords(failure)
    }
  }

  const removeKit = (known: number) =>
    tried(async () => {
      await taken(api.DELETE('/api/kits/{kit_id}', { params: { path: { kit_id: known } } }))
      await Promise.all([kitOf.refetch(), client.invalidateQueries({ queryKey: ['kits'] })])
    })

  /** Where the chosen fill would begin or end after a step of a quarter of a beat; null at the end of the song. */
  function moved(side: 'at' | 'until', by: -1 | 1): FillAsked | null {
    const now = fill.value
    const bars = part.score.value?.bars ?? []
    if (!now) return null
    const asked = { first_bar: now.first_bar, at: now.at, last_bar: now.bar, until: now.until, is_fill: true }
    const number = side === 'at' ? now.first_bar : now.bar
    const parts = STEPS_A_BEAT * (bars.find((bar) => bar.number === number)?.beats.length ?? 4)
    const place = Math.round(fraction(side === 'at' ? now.at : now.until) * parts) + by
    const otherBar = bars.find((bar) => bar.number === number + by)
    const otherParts = STEPS_A_BEAT * (otherBar?.beats.length ?? 4)
    if (side === 'at') {
      if (place >= 0 && place < parts) return { ...asked, at: `${place}/${parts}` }
      if (!otherBar) return null
      return { ...asked, first_bar: number + by, at: by < 0 ? `${otherParts - 1}/${otherParts}` : '0' }
    }
    if (place > 0 && place <= parts) return { ...asked, until: `${place}/${parts}` }
    if (!otherBar) return null
    return { ...asked, last_bar: number + by, until: by < 0 ? '1' : `1/${otherParts}` }
  }

  async function move(side: 'at' | 'until', by: -1 | 1): Promise<void> {
    const asked = moved(side, by)
    if (!asked) return
    await part.decideFill(asked)
    chosenBar.value = asked.last_bar
  }

  /** Write the way that is looked at into the score; `alsoKin`: into the same fill elsewhere too. */
  async function useWay(alsoKin = false): Promise<void> {
    if (!fill.value || !way.value) return
    const letters = way.value.hands.map((item) => item.letter).join('')
    await part.gesture({ kind: 'stick', bars: [fill.value.bar], letters, also_kin: alsoKin })
  }

  /** What is chosen is no fill. */
  async function none(): Promise<void> {
    const now = fill.value
    if (!now) return
    const index = fills.value.indexOf(now)
    const next = fills.value[index + 1] ?? fills.value[index - 1]
    await part.decideFill({ first_bar: now.first_bar, at: now.at, last_bar: now.bar, until: now.until, is_fill: false })
    chosenBar.value = next?.bar ?? null
  }

  /** The last two beats of a bar are a fill: from there its ends can be moved. */
  async function add(number: number): Promise<void> {
    const beats = part.score.value?.bars.find((bar) => bar.number === number)?.beats.length ?? 4
    const at = beats > 2 ? `${beats - 2}/${beats}` : '0'
    await part.decideFill({ first_bar: number, at, last_bar: number, until: '1', is_fill: true })
    chosenBar.value = number
  }

  return {
    fills,
    families,
    onThisKit: computed(() => query.data.value?.on_this_kit ?? { words: [], problems: [] }),
    isLoading: computed(() => query.isPending.value && isEnabled.value),
    problem: computed(() => problemWords(query.error.value)),
    fetchFills: () => query.refetch(),
    fill,
    choose: (bar: number) => (chosenBar.value = bar),
    step,
    order,
    school,
    way,
    wayIndex,
    currentWay,
    /** The first of the ways that are offered, where the score has another. */
    recommended: (told: ToldFill) => (told.ways[0]?.name === AS_WRITTEN ? 1 : 0),
    useWay,
    exercises,
    staff,
    elsewhere: computed(() => elsewhere.data.value ?? []),
    onList,
    toList,
    move,
    none,
    add,
    kits: computed<readonly Kit[]>(() => kits.data.value ?? []),
    kit,
    chooseKit,
    saveKit,
    removeKit,
  }
}

export type Fills = ReturnType<typeof useFills>
