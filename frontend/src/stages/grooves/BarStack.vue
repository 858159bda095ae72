<script setup lang="ts">
/**
 * The bar stack: all bars on one count ruler, the typical phrase of the section above them. A click
 * on a free place adds a note there, a click on the note at the cursor removes it; dragging selects,
 * or moves what is chosen; keys do more.
 */
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import type { Bar, Limb, Score, Source } from '@/api/client'
import type { EditValue } from '@/score/edits'
import { hitAt } from '@/score/place'
import type { BarLoop } from '@/transport/usePlayer'
import CountRuler from './CountRuler.vue'
import FactsPanel from './FactsPanel.vue'
import KinPanel from './KinPanel.vue'
import NotePanel from './NotePanel.vue'
import PhraseBar from './PhraseBar.vue'
import RowName from './RowName.vue'
import SayPanel from './SayPanel.vue'
import StackRow from './StackRow.vue'
import { inferring, type Offer, withoutEcho } from './offers'
import { keptSame, sideBySide, type StackRow as Row, stackRows } from './stackRows'
import type { Cursor, StackCursor } from './useCursor'
import { useDrag } from './useDrag'
import { notesByStep, OWN_RECORDING, type GrooveFindings } from './useGrooves'
import { useInTurn } from './useInTurn'
import { useNear } from './useNear'
import type { StackNotes } from './useNotes'

const props = defineProps<{
  songId: string
  score: Score
  stack: StackCursor
  notes: StackNotes
  found: GrooveFindings
  /** Seconds of the song, now; a function, so that only what shows the time is redrawn with it. */
  now: () => number
  sounding: number | null
  isPlaying: boolean
  loop: BarLoop | null
  canSpread: boolean
  showPicture: boolean
  sources: readonly Source[]
}>()
const emit = defineEmits<{
  loop: [first: number, last: number]
  doubt: [step: -1 | 1]
  make: [edits: EditValue[], words: string]
  relisten: []
}>()
const tab = defineModel<'note' | 'count' | 'kin'>('tab', { required: true })

const NARROW = 560
const TABS = { note: 'Note', count: 'Count', kin: 'Kin' } as const

const column = ref<HTMLElement>()
const { width } = useElementSize(column)
/** Narrower than this sixteenths lie on each other; the smallest phones have it. */
const LEAST = 260
const lanes = computed(() => Math.max(LEAST, Math.floor(width.value) - 1))
const isNarrow = computed(() => lanes.value < NARROW)

const rows = computed<Row[]>((before) =>
  keptSame(
    stackRows(
      props.score,
      props.found.phrases.value,
      props.found.grooves.value?.sections ?? [],
      props.found.settled.value,
      isNarrow.value,
    ),
    before ?? [],
  ),
)
const here = computed(() => props.found.phrases.value.get(props.stack.cursor.value.bar))
const perRow = computed(() => sideBySide(here.value, isNarrow.value))
/** The bars of the phrase at the cursor, in rows as wide as the stack's. */
const phraseRows = computed(() => {
  const phrase = here.value?.phrase
  if (!phrase) return []
  const steps = notesByStep(phrase)
  return Array.from({ length: Math.ceil(steps.length / perRow.value) }, (_, row) =>
    steps.slice(row * perRow.value, (row + 1) * perRow.value).map((notes, index) => ({
      notes,
      step: row * perRow.value + index,
      bar: props.score.bars.find((bar) => bar.number === phrase.first_bar + row * perRow.value + index),
    })),
  )
})
/** The bar whose counts head the stack: of the commonest division, so that most notes have their word. */
const ruler = computed(() => {
  const counts = new Map<string, { bar: Bar; count: number }>()
  for (const bar of props.score.bars) {
    if (bar.hits.length === 0) continue
    const shape = bar.cells.map((cell) => cell.position).join(' ')
    const known = counts.get(shape)
    if (known) known.count += 1
    else counts.set(shape, { bar, count: 1 })
  }
  return [...counts.values()].sort((one, other) => other.count - one.count)[0]?.bar ?? props.score.bars[0]
})
const rowOf = (number: number | null) => (number === null ? 0 : rows.value.findIndex((row) => lastOf(row) >= number))
const placed = useInTurn(rows, () => Math.max(rowOf(props.stack.cursor.value.bar), rowOf(props.sounding)))
const barWidth = (side: number) => Math.floor(lanes.value / side)
const firstOf = (row: Row) => row.bars[0]!.number
const lastOf = (row: Row) => row.bars.at(-1)!.number

/** A place, if it lies in this row. */
function inRow(row: Row, place: Cursor | null): Cursor | null {
  return place && place.bar >= firstOf(row) && place.bar <= lastOf(row) ? place : null
}

function soundingIn(row: Row): number | null {
  const bar = props.sounding
  return bar !== null && bar >= firstOf(row) && bar <= lastOf(row) ? bar : null
}

function selectionIn(row: Row) {
  const range = props.stack.selection.value
  return range && lastOf(row) >= range.from.bar && firstOf(row) <= range.to.bar ? range : null
}

function loopOf(row: Row): 'none' | 'touched' | 'whole' {
  if (!props.loop || lastOf(row) < props.loop.first || firstOf(row) > props.loop.last) return 'none'
  return firstOf(row) >= props.loop.first && lastOf(row) <= props.loop.last ? 'whole' : 'touched'
}

/** A click adds where nothing is, chooses what is there, and removes it when it was chosen. */
function pick(bar: Bar, position: string, limb: Limb, extend: boolean): void {
  const { cursor } = props.stack
  const chosen =
    cursor.value.bar === bar.number && cursor.value.position === position && cursor.value.limb === limb
  props.stack.place({ bar: bar.number, position, limb }, extend)
  if (!extend && (chosen || !hitAt(bar, limb, position))) props.notes.toggleNote()
}

function choose(bars: Bar[], extend: boolean): void {
  const [first, last] = [bars[0]!.number, bars.at(-1)!.number]
  if (extend && props.loop) emit('loop', Math.min(props.loop.first, first), Math.max(props.loop.last, last))
  else emit('loop', first, last)
}

const lined = computed(() => props.sources.filter((source) => source.state === 'ready'))
const shadeBy = (source: number) => props.found.showShadesOf(source)
const offer = ({ edits, words }: Offer) => emit('make', edits, words)

function confirmBars(bars: number[]): void {
  props.stack.place({ bar: bars[0]!, position: '0' })
  props.stack.anchor.value = { bar: bars.at(-1)!, position: '0', limb: props.stack.cursor.value.limb }
  void props.notes.confirmBars(true).then(() => (props.stack.anchor.value = null))
}

const REVEAL_MARGIN = 16
const list = ref<HTMLElement>()
const nearness = useNear(list)
const { target, isDragging } = useDrag(list, () => props.score, props.stack, props.notes.move)

/** Scrolls the rows only: whoever reads the chart below must not be taken away from it. */
function reveal(number: number): void {
  const row = list.value?.querySelector(`[data-bar="${number}"]`)
  if (!list.value || !row) return
  const [frame, box] = [list.value.getBoundingClientRect(), row.getBoundingClientRect()]
  const heading = 34
  const above = box.top - frame.top - heading
  const below = box.bottom - frame.bottom
  // A step scrolls a little; a jump puts the bar a third of the way down, with what leads to it above.
  if (above < -box.height || below > box.height) list.value.scrollTop += above - frame.height / 3
  else if (above < 0) list.value.scrollTop += above - REVEAL_MARGIN
  else if (below > 0) list.value.scrollTop += below + REVEAL_MARGIN
}

watch(
  () => props.stack.cursor.value.bar,
  // Under a hand that drags nothing may move away.
  (number) => void nextTick(() => isDragging() || reveal(number)),
)
watch(
  () => props.sounding,
  (number) => {
    if (props.isPlaying && number !== null) reveal(number)
  },
)
// Once phrases are known rows are laid out anew.
watch(
  () => props.found.grooves.value === null,
  () => void nextTick(() => reveal(props.stack.cursor.value.bar)),
)
// The picture makes its bar's row taller.
watch(
  () => props.showPicture,
  (isShown) => isShown && void nextTick(() => reveal(props.stack.cursor.value.bar)),
)
onMounted(() => reveal(props.stack.cursor.value.bar))
</script>

<template>
  <section class="grooves" aria-label="Grooves">
    <FactsPanel
      class="side"
      :score="score"
      :found="found"
      :bar="stack.cursor.value.bar"
      @doubt="emit('doubt', $event)"
      @section="stack.place({ bar: $event, position: '0' })"
      @take="offer(inferring($event))"
      @echo="offer(withoutEcho(score.bars, $event))"
      @relisten="emit('relisten')"
      @confirm="confirmBars"
    />
    <div class="stack" tabindex="-1">
      <div class="head">
        <select
          v-if="lined.length"
          class="shade"
          aria-label="Whose evidence is shaded"
          title="Whose evidence is shaded under the cells"
          :value="found.shadeSource.value"
          @change="shadeBy(Number(($event.target as HTMLSelectElement).value))"
        >
          <option :value="OWN_RECORDING">record</option>
          <option v-for="source in lined" :key="source.id" :value="source.id">{{ source.title }}</option>
        </select>
        <span v-else />
        <div ref="column" class="side-by-side">
          <template v-if="ruler">
            <CountRuler
              v-for="side in perRow"
              :key="side"
              :bar="ruler"
              :width="barWidth(perRow)"
              :cursor="(here?.step ?? 0) % perRow === side - 1 ? stack.cursor.value.position : null"
            />
          </template>
        </div>
        <template v-for="(row, index) in phraseRows" :key="index">
          <RowName class="phrase">
            <strong>{{ index === 0 ? 'Phrase' : '' }}</strong>
            <span v-if="index === 0" class="label">typical</span>
          </RowName>
          <div class="sheet side-by-side">
            <PhraseBar
              v-for="item in row"
              :key="item.step"
              :bar="item.bar ?? ruler!"
              :notes="item.notes"
              :width="barWidth(perRow)"
            />
          </div>
        </template>
      </div>
      <ol ref="list" class="rows">
        <template v-for="row in placed" :key="row.key">
          <li v-if="row.section" class="section">{{ row.section }}</li>
          <li v-if="row.change" class="change">{{ row.change }}</li>
          <StackRow
            :row="row"
            :song-id="songId"
            :width="barWidth(sideBySide(found.phrases.value.get(row.bars[0]!.number), isNarrow))"
            :phrases="found.phrases.value"
            :shades="found.shades.value"
            :cursor="inRow(row, stack.cursor.value)"
            :target="inRow(row, target)"
            :selection="selectionIn(row)"
            :sounding="soundingIn(row)"
            :now="now"
            :loop="loopOf(row)"
            :show-picture="showPicture"
            :nearness="nearness"
            @pick="pick"
            @loop="choose"
          />
        </template>
      </ol>
    </div>
    <div class="panel">
      <div class="tabs" role="tablist" aria-label="Beside the stack">
        <button
          v-for="(label, name) in TABS"
          :key="name"
          type="button"
          role="tab"
          :aria-selected="tab === name"
          @click="tab = name"
        >
          {{ label }}
        </button>
      </div>
      <NotePanel
        v-if="tab === 'note'"
        :song-id="songId"
        :stack="stack"
        :notes="notes"
        :revision="score.revision"
        :can-spread="canSpread"
      />
      <SayPanel v-else-if="tab === 'count'" :song-id="songId" :bars="stack.bars.value" :revision="score.revision" />
      <KinPanel
        v-else
        :song-id="songId"
        :bar="stack.cursor.value.bar"
        :revision="score.revision"
        @go="stack.place({ bar: $event, position: '0' })"
      />
    </div>
  </section>
</template>

<style scoped>
.grooves {
  --names: 6.1rem;
  display: grid;
  grid-template-columns: 12.5rem minmax(0, 1fr) 16.5rem;
  gap: var(--gap-4);
  min-height: 0;
  padding: 0 var(--frame-edge);
}
.side,
.panel {
  min-height: 0;
}
.panel {
  contain: content;
  align-self: start;
  max-height: 100%;
  padding: 0.75rem 1rem 1rem;
  border: 1px solid var(--line);
  border-radius: 12px;
  background: var(--paper-raised);
  overflow-y: auto;
}
.tabs {
  display: flex;
  gap: var(--gap-3);
  margin-bottom: var(--gap-2);
  border-bottom: 1px solid var(--line);
}
.tabs button {
  padding: 0.1rem 0 0.3rem;
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  color: var(--ink-soft);
  font: inherit;
  cursor: pointer;
}
.tabs button[aria-selected='true'] {
  border-color: var(--accent);
  color: var(--ink);
  font-weight: 700;
}
.shade {
  min-width: 0;
  margin: 0.15rem var(--gap-2) 0.15rem 0;
  border: 1px solid var(--line-strong);
  border-radius: 6px;
  background: var(--paper-raised);
  color: var(--ink);
  font: inherit;
  font-size: var(--size-small);
}
.stack {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
}
.head {
  display: grid;
  grid-template-columns: var(--names) minmax(0, 1fr);
  overflow-y: scroll;
  scrollbar-color: transparent transparent;
  flex: none;
}
.side-by-side {
  display: flex;
}
.sheet,
.phrase {
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  background: var(--paper-raised);
}
.rows {
  /* A drag selects notes, not words. */
  user-select: none;
  position: relative;
  flex: 1;
  min-height: 0;
  margin: 0;
  padding: 0 0 2rem;
  overflow-y: scroll;
  list-style: none;
}
.section {
  position: sticky;
  z-index: 1;
  top: 0;
  padding: 0.15rem 0;
  background: var(--paper);
  font: 500 1.0625rem var(--serif);
}
.change {
  padding: var(--gap-1) 0 var(--gap-1) var(--names);
  border-top: 2px solid var(--line-strong);
  color: var(--accent);
  font-size: 0.9375rem;
}
@media (max-width: 1000px) {
  .grooves {
    grid-template-columns: minmax(0, 1fr) 14rem;
  }
  .side {
    display: none;
  }
}
@media (max-width: 700px) {
  .grooves {
    --names: 3.25rem;
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: minmax(0, 1fr) auto;
    gap: var(--gap-2);
    padding: var(--gap-2);
  }
  /* On a phone one reads and plays; corrections are made at a table. */
  .panel {
    display: none;
  }
}
</style>
