<script setup lang="ts">
/**
 * The bar stack: all bars on one count ruler, the typical phrase of the section above them. A click
 * on a free place adds a note there, a click on the note at the cursor removes it; dragging selects,
 * or moves what is chosen; keys do more.
 */
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Bar, Limb } from '@/api/client'
import { hitAt } from '@/score/place'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import FactsPanel from './FactsPanel.vue'
import { endOf, foldRows, isFold } from './folding'
import SidePanel from './SidePanel.vue'
import StackHead from './StackHead.vue'
import StackRow from './StackRow.vue'
import { keptSame, lastOf, firstOf, sideBySide, type StackRow as Row, stackRows } from './stackRows'
import type { Cursor } from './useCursor'
import { useDrag } from './useDrag'
import { useInTurn } from './useInTurn'
import { useNear } from './useNear'
import { useReveal } from './useReveal'

const { id, player, stack, notes, found, now, loopBars, showPicture } = useOpenSong()
const score = useOpenScore()
/** The bar that sounds. */
const sounding = computed(() => player.currentBar.value?.number ?? null)
const barLoop = computed(() => player.settings.value.loop)

const NARROW = 560
const column = ref<HTMLElement>()
const { width } = useElementSize(column)
/** Narrower than this sixteenths lie on each other; the smallest phones have it. */
const LEAST = 260
const lanes = computed(() => Math.max(LEAST, Math.floor(width.value) - 1))
const isNarrow = computed(() => lanes.value < NARROW)

const rows = computed<Row[]>((before) =>
  keptSame(
    stackRows(
      score.value,
      found.phrases.value,
      found.grooves.value?.sections ?? [],
      found.settled.value,
      isNarrow.value,
    ),
    before ?? [],
  ),
)
/** Sections that are closed, rests that are open: their first bars. */
const closed = ref<ReadonlySet<number>>(new Set())
const opened = ref<ReadonlySet<number>>(new Set())
const items = computed(() => foldRows(rows.value, closed.value, opened.value))
const without = (set: ReadonlySet<number>, one: number) => new Set([...set].filter((item) => item !== one))

function toggleSection(first: number): void {
  closed.value = closed.value.has(first) ? without(closed.value, first) : new Set([...closed.value, first])
}
function unfold(first: number): void {
  closed.value = without(closed.value, first)
  opened.value = new Set([...opened.value, first])
}
// Wherever the cursor goes there is a bar to see.
watch(
  () => stack.cursor.value.bar,
  (bar) => {
    const fold = items.value.find((item) => isFold(item) && item.first <= bar && bar <= item.last)
    if (fold && isFold(fold)) unfold(fold.first)
  },
  { immediate: true, flush: 'sync' },
)
const rowOf = (number: number | null) => (number === null ? 0 : items.value.findIndex((item) => endOf(item) >= number))
const placed = useInTurn(items, () => Math.max(rowOf(stack.cursor.value.bar), rowOf(sounding.value)))
const barWidth = (side: number) => Math.floor(lanes.value / side)

/** A place, if it lies in this row. */
function inRow(row: Row, place: Cursor | null): Cursor | null {
  return place && place.bar >= firstOf(row) && place.bar <= lastOf(row) ? place : null
}

function soundingIn(row: Row): number | null {
  const bar = sounding.value
  return bar !== null && bar >= firstOf(row) && bar <= lastOf(row) ? bar : null
}

function selectionIn(row: Row) {
  const range = stack.selection.value
  return range && lastOf(row) >= range.from.bar && firstOf(row) <= range.to.bar ? range : null
}

function loopOf(row: Row): 'none' | 'touched' | 'whole' {
  const loop = barLoop.value
  if (!loop || lastOf(row) < loop.first || firstOf(row) > loop.last) return 'none'
  return firstOf(row) >= loop.first && lastOf(row) <= loop.last ? 'whole' : 'touched'
}

/** A click adds where nothing is, chooses what is there, and removes it when it was chosen. */
function pick(bar: Bar, position: string, limb: Limb, extend: boolean): void {
  const { cursor } = stack
  const chosen =
    cursor.value.bar === bar.number && cursor.value.position === position && cursor.value.limb === limb
  stack.place({ bar: bar.number, position, limb }, extend)
  if (!extend && (chosen || !hitAt(bar, limb, position))) notes.toggleNote()
}

function choose(bars: Bar[], extend: boolean): void {
  const [first, last] = [bars[0]!.number, bars.at(-1)!.number]
  const loop = barLoop.value
  if (extend && loop) loopBars(Math.min(loop.first, first), Math.max(loop.last, last))
  else loopBars(first, last)
}

const list = ref<HTMLElement>()
const nearness = useNear(list)
const { target, isDragging } = useDrag(list, () => score.value, stack, notes.move)
useReveal(list, isDragging)
</script>

<template>
  <section
    class="grooves"
    aria-label="Grooves"
    :data-stored="score.revision"
    :data-found="found.grooves.value?.revision"
  >
    <FactsPanel class="side" />
    <div class="stack" tabindex="-1">
      <StackHead :lanes="lanes" :is-narrow="isNarrow">
        <div ref="column" />
      </StackHead>
      <ol ref="list" class="rows">
        <template v-for="row in placed" :key="row.key">
          <li v-if="row.section" class="section">
            <button
              type="button"
              :aria-expanded="!closed.has(isFold(row) ? row.first : firstOf(row))"
              @click="toggleSection(isFold(row) ? row.first : firstOf(row))"
            >
              {{ row.section }}
            </button>
          </li>
          <li v-if="isFold(row)" class="fold">
            <button type="button" @click="unfold(row.first)">
              <strong>{{ row.first === row.last ? row.first : `${row.first}–${row.last}` }}</strong>
              <span class="label">{{ row.words }}</span>
            </button>
          </li>
          <li v-if="!isFold(row) && row.change" class="change">{{ row.change }}</li>
          <StackRow
            v-if="!isFold(row)"
            :row="row"
            :song-id="id"
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
    <SidePanel class="panel" />
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
.stack {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
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
.section button,
.fold button {
  padding: 0 0.4rem;
  border: 0;
  border-radius: 6px;
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
.section button::before {
  content: '▾';
  display: inline-block;
  width: 1.1rem;
  color: var(--ink-soft);
  font-size: 0.8em;
}
.section button[aria-expanded='false']::before {
  content: '▸';
}
.section button:hover,
.fold button:hover {
  background: var(--accent-soft);
}
.fold {
  padding: 0.25rem 0;
  border-bottom: 1px solid var(--line);
}
.fold button {
  display: flex;
  gap: var(--gap-3);
  align-items: baseline;
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
