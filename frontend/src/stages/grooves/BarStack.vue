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
import { hitAt, throughBar } from '@/score/place'
import type { BarLoop } from '@/transport/usePlayer'
import BarRow from './BarRow.vue'
import CountRuler from './CountRuler.vue'
import FactsPanel from './FactsPanel.vue'
import KinPanel from './KinPanel.vue'
import NotePanel from './NotePanel.vue'
import PhraseBar from './PhraseBar.vue'
import SayPanel from './SayPanel.vue'
import SoundPicture from './SoundPicture.vue'
import { inferring, type Offer, withoutEcho } from './offers'
import { placeX, ROW_HEIGHT } from './rowLayout'
import { sideBySide, stackRows } from './stackRows'
import type { StackCursor } from './useCursor'
import { useDrag } from './useDrag'
import { notesByStep, OWN_RECORDING, type GrooveFindings } from './useGrooves'
import { useNear } from './useNear'
import type { StackNotes } from './useNotes'

const props = defineProps<{
  songId: string
  score: Score
  stack: StackCursor
  notes: StackNotes
  found: GrooveFindings
  position: number
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
const lanes = computed(() => Math.max(330, Math.floor(width.value) - 1))
const isNarrow = computed(() => lanes.value < NARROW)

const rows = computed(() =>
  stackRows(
    props.score,
    props.found.phrases.value,
    props.found.grooves.value?.sections ?? [],
    props.found.settled.value,
    isNarrow.value,
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
const barWidth = (side: number) => Math.floor(lanes.value / side)
const typicalOf = (bar: Bar) => props.found.phrases.value.get(bar.number)?.notes ?? []
const cursorIn = (bar: Bar) => (props.stack.cursor.value.bar === bar.number ? props.stack.cursor.value : null)

function selectionIn(bar: Bar) {
  const range = props.stack.selection.value
  return range && bar.number >= range.from.bar && bar.number <= range.to.bar ? range : null
}

function inLoop(bar: Bar): boolean {
  return props.loop !== null && bar.number >= props.loop.first && bar.number <= props.loop.last
}

/** A click adds where nothing is, chooses what is there, and removes it when it was chosen. */
function pick(bar: Bar, position: string, limb: Limb, extend: boolean): void {
  const { cursor } = props.stack
  const chosen =
    cursor.value.bar === bar.number && cursor.value.position === position && cursor.value.limb === limb
  props.stack.place({ bar: bar.number, position, limb }, extend)
  if (!extend && (chosen || !hitAt(bar, limb, position))) props.notes.toggleNote()
}

function choose(bars: Bar[], event: MouseEvent): void {
  const [first, last] = [bars[0]!.number, bars.at(-1)!.number]
  if (event.shiftKey && props.loop) emit('loop', Math.min(props.loop.first, first), Math.max(props.loop.last, last))
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
const { near, vNear } = useNear(list)
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
          <div class="name phrase">
            <div>
              <strong>{{ index === 0 ? 'Phrase' : '' }}</strong>
              <span v-if="index === 0" class="label">typical</span>
            </div>
            <span class="limbs" aria-hidden="true"><i>R</i><i>L</i><i class="foot">R</i><i>L</i></span>
          </div>
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
        <template v-for="row in rows" :key="row.key">
          <li v-if="row.section" class="section">{{ row.section }}</li>
          <li v-if="row.change" class="change">{{ row.change }}</li>
          <li v-near="row.key" class="row" :class="{ looped: row.bars.some(inLoop) }">
            <div class="name">
              <div>
                <button
                  type="button"
                  class="number"
                  :aria-label="row.bars.length > 1 ? `Loop bars ${row.bars[0]!.number} to ${row.bars.at(-1)!.number}` : `Loop bar ${row.bars[0]!.number}`"
                  :aria-pressed="row.bars.every(inLoop)"
                  title="Loop; with Shift, extend the loop to here"
                  @click="choose(row.bars, $event)"
                >
                  {{ row.bars.map((bar) => bar.number).join('–') }}
                </button>
                <span class="label words">{{ row.words }}</span>
                <span v-if="row.isSettled" class="label words settled">✓ confirmed</span>
              </div>
              <span class="limbs" aria-hidden="true"><i>R</i><i>L</i><i class="foot">R</i><i>L</i></span>
            </div>
            <div class="side-by-side">
              <div
                v-for="bar in row.bars"
                :key="bar.number"
                class="bar"
                :class="{ now: sounding === bar.number }"
                :data-bar="bar.number"
                :style="{ minHeight: `${ROW_HEIGHT}px` }"
              >
                <BarRow
                  v-if="near.has(row.key)"
                  :bar="bar"
                  :typical="typicalOf(bar)"
                  :width="barWidth(sideBySide(found.phrases.value.get(bar.number), isNarrow))"
                  :shade="found.shades.value.get(bar.number)"
                  :cursor="cursorIn(bar)"
                  :target="target?.bar === bar.number ? target : null"
                  :selection="selectionIn(bar)"
                  @pick="(place, limb, extend) => pick(bar, place, limb, extend)"
                />
                <SoundPicture
                  v-if="showPicture && cursorIn(bar)"
                  :song-id="songId"
                  :bar="bar.number"
                  :width="barWidth(sideBySide(found.phrases.value.get(bar.number), isNarrow))"
                />
                <span
                  v-if="sounding === bar.number"
                  class="playhead"
                  :style="{
                    transform: `translateX(${placeX(throughBar(bar, position), barWidth(sideBySide(found.phrases.value.get(bar.number), isNarrow)))}px)`,
                  }"
                />
              </div>
            </div>
          </li>
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
.head,
.row {
  display: grid;
  grid-template-columns: 5.75rem minmax(0, 1fr);
}
.head {
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
  padding: var(--gap-1) 0 var(--gap-1) 5.75rem;
  border-top: 2px solid var(--line-strong);
  color: var(--accent);
  font-size: 0.9375rem;
}
.row {
  border-bottom: 1px solid var(--line);
  content-visibility: auto;
  contain-intrinsic-size: auto 82px;
}
.row.looped .name {
  box-shadow: inset 4px 0 0 var(--accent);
}
.bar {
  position: relative;
}
.bar.now {
  background: var(--paper-raised);
}
.name {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  padding: 0 var(--gap-2) 0 var(--gap-2);
}
.name > div {
  display: grid;
}
.number {
  justify-self: start;
  min-width: 2.5rem;
  padding: 0.1rem 0.3rem;
  border: 0;
  border-radius: 6px;
  background: none;
  font-weight: 700;
  font-size: 1.0625rem;
  text-align: left;
  cursor: pointer;
}
.number:hover {
  background: var(--accent-soft);
}
.words {
  padding-left: 0.3rem;
  font-size: 0.8125rem;
  line-height: 1.2;
}
.limbs {
  display: grid;
  /* As in rowLayout.ts: four lanes, a gap between hands and feet. */
  grid-template-rows: 16px 16px 21px 16px;
  align-self: start;
  padding-top: 6px;
  color: var(--ink-soft);
  font-size: 0.8rem;
  line-height: 16px;
}
.limbs i {
  font-style: normal;
}
.limbs .foot {
  align-self: end;
}
.playhead {
  position: absolute;
  inset: 0 auto 0 -1px;
  width: 2px;
  background: var(--accent);
  pointer-events: none;
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
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: minmax(0, 1fr) auto;
    gap: var(--gap-2);
    padding: var(--gap-2);
  }
  .stack {
    overflow-x: auto;
  }
  /* On a phone one reads and plays; corrections are made at a table. */
  .panel {
    display: none;
  }
}
</style>
