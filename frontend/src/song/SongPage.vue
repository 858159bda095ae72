<script setup lang="ts">
/** A song: header with stages, ribbon, bar stack and chart, transport. */
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { until, useSessionStorage } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, type Instrument, taken } from '@/api/client'
import SongRibbon from '@/ribbon/SongRibbon.vue'
import WaveStrip from '@/ribbon/WaveStrip.vue'
import type { EditValue } from '@/score/edits'
import { usePreviews } from '@/score/usePreviews'
import { useScore } from '@/score/useScore'
import { isWorking } from '@/shelf/useShelf'
import { endWords, leftWords, runWords } from '@/shelf/words'
import ChartPages from '@/stages/chart/ChartPages.vue'
import { useEngraving } from '@/stages/chart/useEngraving'
import FormStage from '@/stages/form/FormStage.vue'
import { useFormCursor } from '@/stages/form/useFormCursor'
import BarStack from '@/stages/grooves/BarStack.vue'
import ConflictDialog from '@/stages/grooves/ConflictDialog.vue'
import RelistenDialog from '@/stages/grooves/RelistenDialog.vue'
import { useCursor } from '@/stages/grooves/useCursor'
import { useGrooves } from '@/stages/grooves/useGrooves'
import { useNotes } from '@/stages/grooves/useNotes'
import ListenStage from '@/stages/listen/ListenStage.vue'
import TapPanel from '@/stages/listen/TapPanel.vue'
import { isDense } from '@/stages/grooves/rowLayout'
import { useSources } from '@/stages/listen/useSources'
import { useTaps } from '@/stages/listen/useTaps'
import KeysDialog from '@/transport/KeysDialog.vue'
import TransportBar from '@/transport/TransportBar.vue'
import { usePlayer } from '@/transport/usePlayer'
import SongHeader from './SongHeader.vue'
import { songKeys } from './songKeys'
import type { Stage } from './stages'
import { keyGroups, useKeys } from './useKeys'
import { useLoops } from './useLoops'
import { useSong } from './useSong'

const props = defineProps<{ id: string }>()

const { data: song, error, refetch } = useSong(props.id)
const part = useScore(props.id)
const player = usePlayer(props.id, part.score)
const now = () => player.position.value
const stack = useCursor(props.id, part.score)
const noteActs = useNotes(stack, part, heardIn)
const { loopBars, extendLoop, loopHere, loopDoubt, faster, compare } = useLoops(player, stack)
const form = useFormCursor(part.score, part.changeForm)
const sources = useSources(props.id)
const taps = useTaps(() => player.now(), part.layTaps)
const showKeys = ref(false)
const showWave = useSessionStorage('orchesis.waveform', false)
const stage = useSessionStorage<Stage['id']>(`orchesis.stage.${props.id}`, 'grooves')
const body = ref<HTMLElement>()
const engraving = useEngraving(props.id, part.score, () => stage.value === 'chart')
const found = useGrooves(props.id, part.score, () => stage.value === 'grooves' || stage.value === 'chart')
const previews = usePreviews(props.id, part.score, () => stage.value === 'listen')
const panelTab = useSessionStorage<'note' | 'count' | 'kin'>('orchesis.panel', 'note')
const showPicture = useSessionStorage('orchesis.picture', false)

// The score is asked for together with the song, not after it; a song that has none yet says so.
void part.fetchScore()
watch(
  () => song.value?.has_score && !isWorking(song.value.run),
  async (ready, before) => {
    if (!ready) return
    await until(part.isFetching).toBe(false)
    // A run that ended while the page was open has merged what it heard into the song.
    if (part.score.value && before !== false) return
    await part.fetchScore()
    if (before === false && song.value?.run) part.notice.value = endWords(song.value.run)
  },
  { immediate: true },
)
watch(song, (value) => {
  if (value) document.title = `${value.title} · Orchesis`
})

// Another grid has another tempo in the header.
watch(
  () => part.score.value && `${part.score.value.tempo_bpm} ${part.score.value.meter.join('/')}`,
  (_, before) => {
    if (before) void refetch()
  },
)

const soundingIndex = computed(() => {
  const bar = player.currentBar.value
  return bar && part.score.value ? part.score.value.bars.indexOf(bar) : null
})
const hasBars = computed(() => (part.score.value?.bars.length ?? 0) > 0)
// Without bars there is one thing to do, which is done in Listen: its keys hold.
watch(
  () => part.score.value !== null && !hasBars.value,
  (isBeatless) => {
    if (!isBeatless) return
    stage.value = 'listen'
    taps.isOpen.value = true
  },
  { immediate: true },
)
const doubts = computed(() =>
  (part.score.value?.bars ?? []).reduce(
    (sum, bar) => sum + bar.hits.filter((hit) => hit.status === 'doubtful').length,
    0,
  ),
)
const toConfirm = computed(() => 4 - (part.score.value?.listening.confirmed.length ?? 0))
const sections = computed(() => part.score.value?.sections ?? [])
/** What is odd and not yet confirmed to be so. */
const oddSections = computed(
  () => sections.value.filter((item) => !item.confirmed && item.notes.some((note) => note.kind.startsWith('odd'))).length,
)
const formNote = computed(() => {
  if (oddSections.value) return `${oddSections.value} odd to check`
  return sections.value.every((item) => item.confirmed) ? 'confirmed' : `${sections.value.length} sections`
})
const notes = computed(() => (hasBars.value || !part.score.value ? stageNotes.value : { listen: 'no beat yet' }))
const stageNotes = computed(() => ({
  listen: toConfirm.value ? `${toConfirm.value} to confirm` : 'confirmed',
  form: formNote.value,
  grooves: doubts.value ? `${doubts.value} to check` : 'nothing in doubt',
  chart: engraving.isStale.value ? '' : engraving.pages.value.length === 1 ? '1 page' : `${engraving.pages.value.length} pages`,
}))

function go(to: Stage['id']): void {
  const before = stage.value
  stage.value = to
  if (to !== 'grooves' && to !== 'chart') return
  void nextTick(() => {
    const behavior = before === 'grooves' || before === 'chart' ? 'smooth' : 'instant'
    if (to === 'chart') document.getElementById('chart')?.scrollIntoView({ behavior, block: 'start' })
    else body.value?.scrollTo({ top: 0, behavior })
  })
}

/** Which of the two is in sight says which stage one is in. */
function scrolled(): void {
  const chart = document.getElementById('chart')
  if (!chart || !body.value || body.value.clientHeight === 0) return
  stage.value = chart.offsetTop - body.value.scrollTop < body.value.clientHeight / 2 ? 'chart' : 'grooves'
}

/** The recording that judges a note now, where it is another one: what is heard, or else what is shaded. */
function heardIn(): string {
  const { hearing } = player.settings.value
  const other = sources.sources.value.find((item) => `source:${item.id}` === hearing)
  const shaded = sources.sources.value.find((item) => item.id === found.shadeSource.value)
  return (other ?? shaded)?.title ?? ''
}

function takeReading(key: string): void {
  void part.takeReading(key, () => previews.preview(key))
}

/** Count every bar from a beat later: one of the song's own readings. */
function later(): void {
  const readings = part.score.value?.listening.readings ?? []
  const [level, metre, phase] = (readings[0]?.key ?? '').split('/')
  const beats = Number(metre?.split('-')[0]) / (metre?.endsWith('-8') ? 3 : 1)
  const next = (Number(phase) + 1) % beats
  const found = readings.find((item) => item.key === `${level}/${metre}/${next}`)
  if (found) void takeReading(found.key)
  else part.notice.value = 'Lay the grid by tapping to move the one.'
}

function doubt(step: -1 | 1): void {
  const next = stack.nextDoubt(step)
  if (next) loopDoubt(next.bar)
}

async function travel(how: () => Promise<{ bars: { number: number }[] } | null>): Promise<void> {
  const answer = await how()
  const first = answer?.bars[0]
  if (first && !answer.bars.some((bar) => bar.number === stack.cursor.value.bar)) stack.place({ bar: first.number })
}

const TABS = ['note', 'count', 'kin'] as const

async function listenAgain(): Promise<void> {
  await found.listenAgain()
  if (found.problem.value) part.notice.value = found.problem.value
}

function takeRelistened(edits: EditValue[], words: string): void {
  found.relisten.value = null
  part.make(edits, words)
}

const drums = computed(() => {
  const counts = new Map<Instrument, number>()
  for (const bar of part.score.value?.bars ?? [])
    for (const hit of bar.hits) counts.set(hit.instrument, (counts.get(hit.instrument) ?? 0) + 1)
  return [...counts].sort((one, other) => other[1] - one[1]).map(([instrument]) => instrument)
})

const isListening = computed(() => !!song.value?.run && isWorking(song.value.run))
async function tryAgain(): Promise<void> {
  try {
    await taken(api.POST('/api/songs/{song_id}/listening', { params: { path: { song_id: props.id } } }))
  } catch (failure) {
    part.notice.value = failure instanceof Error ? failure.message : String(failure)
  }
  await refetch()
}

const keys = computed(() => songKeys({
  stage: hasBars.value ? stage.value : 'listen',
  stack,
  form,
  taps,
  player,
  loop: () => {
    const section = form.section.value
    if (stage.value === 'form' && section) loopBars(section.first_bar, section.first_bar + section.bars - 1)
    else loopBars(stack.cursor.value.bar, stack.cursor.value.bar)
  },
  extendLoop,
  notes: noteActs,
  relisten: () => void listenAgain(),
  nextTab: () => (panelTab.value = TABS[(TABS.indexOf(panelTab.value) + 1) % TABS.length]!),
  loopHere,
  compare,
  onlyThis: () => {
    const instrument = stack.hit.value?.instrument
    if (instrument) player.hearOnly(instrument)
    else part.notice.value = 'Go to a note: then its drum is heard alone.'
  },
  without: () => {
    const hit = stack.hit.value
    part.notice.value = hit ? player.hearWithout(hit) : 'Go to a note: then the kit plays with and without it.'
  },
  picture: () => (showPicture.value = !showPicture.value),
  faster,
  doubt,
  undo: () => void travel(part.undo),
  redo: () => void travel(part.redo),
  go,
  help: () => (showKeys.value = true),
  wave: () => (showWave.value = !showWave.value),
  goHere: () => {
    const number = form.cell.value?.number
    const bar = stage.value === 'form' ? part.score.value?.bars.find((item) => item.number === number) : stack.bar.value
    player.seek(Math.max(0, bar?.start ?? 0))
  },
}))
useKeys(() => keys.value)

onMounted(async () => {
  await nextTick()
  watch(
    () => engraving.pages.value.length > 0,
    (ready) => {
      if (ready && stage.value === 'chart') void nextTick(() => go('chart'))
    },
    { immediate: true },
  )
})
</script>

<template>
  <div class="page">
    <SongHeader :song="song" :stage="stage" :notes="notes" @go="go" />
    <main v-if="error && !part.score.value" class="alone">
      <h1>This song cannot be shown</h1>
      <p>{{ error.message }}</p>
      <p><RouterLink to="/songs">To the shelf of songs</RouterLink></p>
    </main>
    <main v-else-if="song?.run && isWorking(song.run) && !song.has_score" class="alone" role="status">
      <h1>Listening to {{ song.title }}</h1>
      <p>{{ runWords(song.run) }} <span class="quiet">{{ leftWords(song.run) }}</span></p>
      <ProgressBar :value="Math.round(song.run.progress * 100)" :show-value="false" />
    </main>
    <main v-else-if="song && !song.has_score" class="alone">
      <h1>{{ song.title }} has no chart yet</h1>
      <p class="trouble">{{ song.run ? runWords(song.run) : '' }}</p>
      <Button label="Try again" @click="tryAgain" />
    </main>
    <main v-else-if="part.problem.value && !part.score.value" class="alone">
      <h1>The chart could not be fetched</h1>
      <p class="trouble">{{ part.problem.value }}</p>
      <Button label="Try again" @click="part.fetchScore()" />
    </main>
    <main v-else-if="!part.score.value" class="alone">
      <p class="quiet">Opening the song …</p>
    </main>
    <template v-else>
      <main v-if="!hasBars" class="alone beatless" data-test="beatless">
        <h1>No steady beat was found</h1>
        <p>
          Orchesis lays no bars over a recording in which it hears no pulse: speech, rubato, silence
          or noise. If you feel one, tap it: what was heard is then written on your beats.
        </p>
        <p v-if="part.notice.value" class="trouble" role="status">{{ part.notice.value }}</p>
        <TapPanel :taps="taps" :busy="part.isChanging.value" :tempo="0" />
        <p class="quiet">
          Or try a recording in which the drums are louder:
          <RouterLink to="/songs">to the shelf of songs</RouterLink>
        </p>
      </main>
      <template v-else>
        <p v-if="song?.run && isWorking(song.run)" class="again" role="status">
          Listening again: {{ runWords(song.run).toLowerCase() }} …
          <span class="quiet">{{ leftWords(song.run) }} What you decided stays.</span>
        </p>
        <div class="strip">
          <SongRibbon
            :score="part.score.value"
            :position="player.position.value"
            :loop="player.loopTimes.value"
            @seek="player.seek"
            @loop="player.setLoop"
          />
          <WaveStrip
            v-if="showWave"
            :song-id="id"
            :score="part.score.value"
            :position="player.position.value"
            :is-playing="player.isPlaying.value"
            :loop="player.loopTimes.value"
            :can-draw="stage === 'listen' && !part.isChanging.value"
            @seek="player.seek"
            @loop="player.setLoop"
            @draw="part.moveBarLine"
          />
        </div>
        <p class="notice" role="status" data-test="notice">
          <span>{{ part.notice.value }}</span>
          <span class="travel">
            <button
              v-if="stage === 'grooves'"
              type="button"
              class="density"
              :aria-pressed="isDense"
              title="Low rows: nine bars and more in sight"
              data-test="dense"
              @click="isDense = !isDense"
            >
              Dense rows
            </button>
            <button type="button" :aria-pressed="showWave" data-test="show-wave" @click="showWave = !showWave">
              Waveform <kbd>W</kbd>
            </button>
            <button type="button" :disabled="!part.score.value.can_undo" data-test="undo" @click="travel(part.undo)">
              Undo <kbd>Ctrl Z</kbd>
            </button>
            <button type="button" :disabled="!part.score.value.can_redo" @click="travel(part.redo)">Redo</button>
          </span>
        </p>
        <main v-if="stage === 'listen'" class="body">
          <ListenStage
            :score="part.score.value"
            :position="player.position.value"
            :taps="taps"
            :sources="sources"
            :hearing="player.settings.value.hearing"
            @hear="player.settings.value.hearing = $event"
            :is-playing="player.isPlaying.value"
            :busy="part.isChanging.value"
            :is-listening="isListening"
            @again="tryAgain"
            @seek="player.seek"
            @reading="takeReading"
            @near="previews.prepare"
            @tempo="part.layTempo"
            @confirm="part.confirm"
            @later="later"
          />
        </main>
        <main v-else-if="stage === 'form'" class="body">
          <FormStage
            :score="part.score.value"
            :cursor="form"
            :sounding="player.isPlaying.value ? (player.currentBar.value?.number ?? null) : null"
            :busy="part.isChanging.value"
            @seek="player.seek"
            @loop="loopBars"
          />
        </main>
        <main v-else ref="body" class="body" @scroll.passive="scrolled">
          <BarStack
            v-model:tab="panelTab"
            class="bars"
            :song-id="id"
            :score="part.score.value"
            :stack="stack"
            :notes="noteActs"
            :found="found"
            :can-spread="part.lastEdit.value !== null"
            :show-picture="showPicture"
            :sources="sources.sources.value"
            :now="now"
            :sounding="player.currentBar.value?.number ?? null"
            :is-playing="player.isPlaying.value"
            :loop="player.settings.value.loop"
            @loop="loopBars"
            @doubt="doubt"
            @make="part.make"
            @relisten="listenAgain"
          />
          <ChartPages
            :song-id="id"
            :pages="engraving.pages.value"
            :is-stale="engraving.isStale.value"
            :problem="engraving.problem.value"
            :sounding-index="soundingIndex"
            :follow="player.isPlaying.value && stage === 'chart'"
            @retry="engraving.fetchPages()"
          />
        </main>
      </template>
      <TransportBar
        :player="player"
        :parts="part.score.value.parts"
        :sources="sources.sources.value"
        :drums="drums"
        :save-state="part.saveState.value"
        :waiting="part.waiting.value"
        @keys="showKeys = true"
      />
      <RelistenDialog
        :found="found.relisten.value"
        :score="part.score.value"
        @close="found.relisten.value = null"
        @take="takeRelistened"
      />
      <ConflictDialog
        :conflicts="part.conflicts.value"
        :score="part.score.value"
        @resolve="part.resolve"
      />
      <KeysDialog :visible="showKeys" :groups="keyGroups(keys)" @close="showKeys = false" />
    </template>
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100dvh;
}
.strip {
  flex: none;
  padding: 0.5rem var(--frame-edge) 0.25rem;
  border-bottom: 1px solid var(--line);
}
.again {
  flex: none;
  margin: 0;
  padding: 0.35rem var(--frame-edge);
  border-bottom: 1px solid var(--line);
  background: var(--paper-raised);
}
.notice {
  display: flex;
  justify-content: space-between;
  align-items: center;
  flex: none;
  min-height: 2rem;
  padding: 0 var(--frame-edge);
  color: var(--ink-soft);
  font-size: var(--size-small);
}
/* What the core says begins small: elsewhere it stands after a colon. */
.notice > span::first-letter {
  text-transform: uppercase;
}
.travel {
  display: flex;
  gap: var(--gap-2);
}
.travel button {
  border: 0;
  background: none;
  cursor: pointer;
}
.travel button[aria-pressed='true'] {
  color: var(--accent);
  font-weight: 700;
}
.travel button:disabled {
  color: var(--ink-faint);
  cursor: default;
}
.body {
  /* What is placed absolutely scrolls along, and does not make the page longer. */
  position: relative;
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.bars {
  height: 100%;
}
@media (max-width: 700px) {
  /* Low rows are for a pointer: a finger needs the high ones. */
  .travel .density,
  .travel kbd {
    display: none;
  }
  .bars {
    height: 72%;
  }
  .strip,
  .again,
  .notice {
    padding-inline: 0.75rem;
  }
}
.alone {
  display: grid;
  gap: var(--gap-4);
  justify-items: start;
  width: min(36rem, 92vw);
  margin: 16vh auto;
}
.beatless {
  flex: 1;
  align-content: start;
  margin: 8vh auto 0;
}
.alone :deep(.p-progressbar) {
  width: 100%;
  height: 8px;
}
.trouble {
  color: var(--accent);
}
.trouble::first-letter {
  text-transform: uppercase;
}
</style>
