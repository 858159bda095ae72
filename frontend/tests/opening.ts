/** A song page without a page: an open song of composed bars, and components that are in it. */
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount, type VueWrapper } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import ConfirmationService from 'primevue/confirmationservice'
import ToastService from 'primevue/toastservice'
import { vi } from 'vitest'
import { type Component, computed, nextTick, ref, shallowRef } from 'vue'
import type { Bar, Chart, PracticeStep, Score, Source } from '@/api/client'
import { OPEN_SONG, type OpenSong } from '@/song/openSong'
import { type ChartChoice, FRESH } from '@/stages/chart/options'
import { useFormCursor } from '@/stages/form/useFormCursor'
import { useCursor } from '@/stages/grooves/useCursor'
import { useNotes } from '@/stages/grooves/useNotes'
import { useTaps } from '@/stages/listen/useTaps'

let opened = 0

/** Recordings beside a song, without a server. */
export function recordings(...sources: Source[]) {
  return {
    sources: computed(() => sources),
    problem: ref(''),
    isSending: ref(false),
    isWaiting: () => false,
    add: vi.fn(),
    follow: vi.fn(),
    again: vi.fn(),
    remove: vi.fn(),
  }
}

/** What can be practised: one step of eight hats, its ladder of three rungs, two windows. */
export function composedPractice(change: Partial<PracticeStep> = {}) {
  const step: PracticeStep = {
    key: 'limb_by_limb-0',
    title: 'The right hand alone',
    with_dynamics: false,
    start: 0,
    end: 2,
    count: '1 & 2 & 3 & 4 &',
    sticking: '',
    trap: '',
    difficulty: 1,
    rungs: [0.5, 0.75, 1].map((share) => ({ share, bpm: 120 * share, is_asked: false })),
    loops: 2,
    ladder_words: '',
    minutes: 1,
    level_db: 90,
    notes: Array.from({ length: 8 }, (_, index) => ({
      time: index / 4,
      late: 0,
      bar: 1,
      position: index ? `${index}/8` : '0',
      instrument: 'hihat_closed' as const,
      limb: 'RH' as const,
      velocity: 90,
      ghost: index === 7,
      accent: false,
      half: false,
    })),
    voice: [{ time: 0, word: '1', sample: 'one' }],
    windows: [
      { start: 1, end: 2, words: 'two beats from beat 3' },
      { start: 0, end: 2, words: 'the bar around it' },
    ],
    ...change,
  }
  const other = { ...step, key: 'limb_by_limb-1', title: 'All of it' }
  const at = ref(0)
  const steps = ref([step, other])
  return {
    overview: ref<{ session: { target: string; step: string; share: number }[] } | null>(null),
    plan: ref({ bars: [{ number: 1, start: 0, end: 2, places: [] }], variation: [] }),
    target: ref('section-1'),
    school: ref('e-and-a'),
    steps,
    step: computed(() => steps.value[at.value] ?? null),
    at,
    isKept: ref(false),
    isOpen: ref(false),
    goTo: vi.fn((index: number) => (at.value = index)),
    enter: vi.fn(),
  }
}

/** All of an open song that the stages ask for; what would ask a server is a stand-in that remembers. */
export function composedSong(held: Score, change: Record<string, unknown> = {}) {
  const id = 'song'
  const part = {
    score: shallowRef<Score | null>(held),
    problem: ref(''),
    notice: ref(''),
    isChanging: ref(false),
    saveState: ref('saved'),
    waiting: ref(0),
    lastEdits: shallowRef([]),
    conflicts: ref<unknown[]>([]),
    make: vi.fn(() => true),
    gesture: vi.fn(async () => true),
    confirm: vi.fn(),
    resolve: vi.fn(),
    changeForm: vi.fn(async () => true),
    layTaps: vi.fn(async () => true),
    layTempo: vi.fn(),
    setCue: vi.fn(async () => true),
    decidePart: vi.fn(async () => true),
    comparePart: vi.fn(async () => null as unknown),
    takeHeard: vi.fn(),
    leaveHeard: vi.fn(),
  }
  const stack = useCursor(`composed-${opened++}`, part.score)
  const player = {
    settings: ref({ hearing: 'record', speed: 100, click: 'off', countIn: false, loop: null, limbs: {}, only: 'snare' }),
    position: ref(0),
    isPlaying: ref(false),
    isLoading: ref(false),
    level: ref(0),
    problem: ref(''),
    currentBar: ref<Bar>(),
    loopTimes: ref(null),
    toggle: vi.fn(),
    seek: vi.fn(),
    setLoop: vi.fn(),
  }
  const found = {
    grooves: shallowRef(null),
    phrases: ref(new Map()),
    review: ref<unknown[]>([]),
    shades: ref(new Map()),
    lit: shallowRef(null),
    unplayable: ref(new Map()),
    unplayableBars: ref<number[]>([]),
    light: vi.fn(),
    layers: ref(new Set<string>()),
    settled: ref(new Set()),
    problem: ref(''),
    shadeSource: ref(0),
    showShadesOf: vi.fn(),
    relisten: shallowRef(null),
    isRelistening: ref(false),
    fetchGrooves: vi.fn(),
  }
  const open = {
    id,
    guest: null,
    mayEdit: ref(true),
    others: ref([]),
    showShare: ref(false),
    showComments: ref(false),
    song: ref(undefined),
    error: ref(null),
    part,
    player,
    stack,
    notes: useNotes(stack, part as never),
    form: useFormCursor(part.score, part.changeForm),
    sources: recordings(),
    taps: useTaps(() => 0, part.layTaps),
    found,
    review: { open: ref<unknown[]>([]) },
    previews: { prepare: vi.fn(), preview: vi.fn() },
    chart: {
      choice: ref<ChartChoice>({ ...FRESH }),
      choose: vi.fn(),
      chart: shallowRef<Chart | null>(null),
      isBig: ref(false),
      isStale: ref(false),
      problem: ref(''),
      fetchChart: vi.fn(),
    },
    practice: composedPractice(),
    stage: ref('grooves'),
    showKeys: ref(false),
    showHeard: ref(false),
    panelTab: ref('note'),
    soundingIndex: ref<number | null>(null),
    bars: computed(() => part.score.value?.bars ?? []),
    hasBars: ref(true),
    sections: computed(() => part.score.value?.sections ?? []),
    doubts: computed(
      () => part.score.value?.bars.flatMap((bar) => bar.hits).filter((hit) => hit.status === 'doubtful').length ?? 0,
    ),
    doubtsOf: ref(null),
    doubtsOneByOne: vi.fn(),
    loopStroke: vi.fn(),
    isAlone: (hit: { status: string }) => hit.status === 'doubtful',
    drums: ref([]),
    isListening: ref(false),
    go: vi.fn(),
    doubt: vi.fn(),
    later: vi.fn(),
    tryAgain: vi.fn(),
    takeReading: vi.fn(),
    relisten: vi.fn(),
    loopBars: vi.fn(),
    ...change,
  }
  return open
}

export type ComposedSong = ReturnType<typeof composedSong>

/** What a page of the application has around a component. */
export function around(open?: ComposedSong) {
  const queryClient = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  return {
    plugins: [PrimeVue, ConfirmationService, ToastService, [VueQueryPlugin, { queryClient }] as never],
    directives: { tooltip: {} },
    // A dialog or a list is drawn where it stands, not at the end of the page.
    stubs: { teleport: true, transition: false },
    provide: open ? { [OPEN_SONG as symbol]: open as unknown as OpenSong } : {},
  }
}

/** Draw a component of a song page. */
export function inSong(component: Component, open: ComposedSong, props: Record<string, unknown> = {}): VueWrapper {
  return mount(component, { props, global: around(open), attachTo: document.body }) as unknown as VueWrapper
}

/** Open the list that is called so, and choose from it by its words. */
export async function choose(wrapper: VueWrapper, label: string, words: string): Promise<void> {
  await wrapper.find(`[role=combobox][aria-label="${label}"]`).trigger('click')
  await nextTick()
  await nextTick()
  const option = wrapper.findAll('[role=option]').find((item) => item.text().startsWith(words))
  if (!option) throw new Error(`${label} has no ${words}: ${wrapper.findAll('[role=option]').map((item) => item.text())}`)
  await option.trigger('mousedown')
  await option.trigger('click')
  await nextTick()
}
