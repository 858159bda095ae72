<script setup lang="ts">
/**
 * The bar stack: all bars on one count ruler, the typical bar above them. A click on a free place
 * adds a note there, a click on the note at the cursor removes it; keys do the same and more.
 */
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import type { Bar, Limb, Score } from '@/api/client'
import { hitAt, throughBar } from '@/score/place'
import BarRow from './BarRow.vue'
import CountRuler from './CountRuler.vue'
import NotePanel from './NotePanel.vue'
import TypicalBar from './TypicalBar.vue'
import { placeX } from './rowLayout'
import type { StackCursor } from './useCursor'
import type { BarLoop } from '@/transport/usePlayer'

const props = defineProps<{
  score: Score
  stack: StackCursor
  position: number
  sounding: number | null
  isPlaying: boolean
  loop: BarLoop | null
}>()
const emit = defineEmits<{ loop: [first: number, last: number]; doubt: [step: -1 | 1] }>()

const column = ref<HTMLElement>()
const { width } = useElementSize(column)
const lanes = computed(() => Math.max(420, Math.floor(width.value) - 1))

const playedBars = computed(() => props.score.bars.filter((bar) => bar.hits.length > 0))
/** The bar whose counts head the stack: the finest, so that every word has its place. */
const ruler = computed(() =>
  playedBars.value.reduce<Bar | undefined>(
    (best, bar) => (!best || isCommoner(bar, best) ? bar : best),
    props.score.bars[0],
  ),
)
const shapes = computed(() => {
  const counts = new Map<string, number>()
  for (const bar of playedBars.value) counts.set(shape(bar), (counts.get(shape(bar)) ?? 0) + 1)
  return counts
})

function shape(bar: Bar): string {
  return bar.cells.map((cell) => cell.position).join(' ')
}

function isCommoner(bar: Bar, than: Bar): boolean {
  return (shapes.value.get(shape(bar)) ?? 0) > (shapes.value.get(shape(than)) ?? 0)
}

const standing = (kind: string) => props.score.typical.filter((note) => note.standing === kind).length
const doubts = computed(() =>
  props.score.bars.reduce((sum, bar) => sum + bar.hits.filter((hit) => hit.status === 'doubtful').length, 0),
)

function sectionOf(bar: Bar): string | undefined {
  return props.score.sections.find((section) => section.first_bar === bar.number)?.label
}

function inLoop(bar: Bar): boolean {
  return props.loop !== null && bar.number >= props.loop.first && bar.number <= props.loop.last
}

/** A click adds where nothing is, chooses what is there, and removes it when it was chosen. */
function pick(bar: Bar, position: string, limb: Limb): void {
  const { cursor } = props.stack
  const chosen =
    cursor.value.bar === bar.number && cursor.value.position === position && cursor.value.limb === limb
  props.stack.place({ bar: bar.number, position, limb })
  if (chosen || !hitAt(bar, limb, position)) props.stack.toggleNote()
}

function choose(bar: Bar, event: MouseEvent): void {
  if (event.shiftKey && props.loop) {
    emit('loop', Math.min(props.loop.first, bar.number), Math.max(props.loop.last, bar.number))
  } else emit('loop', bar.number, bar.number)
}

const REVEAL_MARGIN = 16
const rows = ref<HTMLElement>()

/** Scrolls the rows only: whoever reads the chart below must not be taken away from it. */
function reveal(number: number): void {
  const list = rows.value
  const row = list?.querySelector(`[data-bar="${number}"]`)
  if (!list || !row) return
  const [frame, box] = [list.getBoundingClientRect(), row.getBoundingClientRect()]
  if (box.top < frame.top) list.scrollTop += box.top - frame.top - REVEAL_MARGIN
  else if (box.bottom > frame.bottom) list.scrollTop += box.bottom - frame.bottom + REVEAL_MARGIN
}

watch(
  () => props.stack.cursor.value.bar,
  (number) => void nextTick(() => reveal(number)),
)
watch(
  () => props.sounding,
  (number) => {
    if (props.isPlaying && number !== null) reveal(number)
  },
)
onMounted(() => reveal(props.stack.cursor.value.bar))
</script>

<template>
  <section class="grooves" aria-label="Grooves">
    <aside class="facts">
      <h2>Groove</h2>
      <p class="label">{{ playedBars.length }} bars with drums</p>
      <dl>
        <dt>Core notes</dt>
        <dd>{{ standing('core') }}</dd>
        <dt>Usual notes</dt>
        <dd>{{ standing('usual') }}</dd>
        <dt>Occasional notes</dt>
        <dd>{{ standing('occasional') }}</dd>
        <dt>Feel</dt>
        <dd>{{ score.feel }}</dd>
      </dl>
      <button v-if="doubts" type="button" class="doubts" @click="emit('doubt', 1)">
        Next doubt <kbd>D</kbd>
      </button>
      <p v-if="doubts" class="label">{{ doubts === 1 ? '1 doubtful note' : `${doubts} doubtful notes` }}</p>
      <details>
        <summary>How it was found</summary>
        <p v-for="finding in score.findings" :key="finding" class="label">{{ finding }}</p>
      </details>
    </aside>
    <div class="stack" tabindex="-1">
      <div class="head">
        <span />
        <div ref="column">
          <CountRuler v-if="ruler" :bar="ruler" :width="lanes" :cursor="stack.cursor.value.position" />
        </div>
        <div class="name phrase">
          <strong>Typical</strong>
          <span class="limbs" aria-hidden="true"><i>R</i><i>L</i><i class="foot">R</i><i>L</i></span>
        </div>
        <TypicalBar v-if="ruler" class="sheet" :bar="ruler" :typical="score.typical" :width="lanes" />
      </div>
      <ol ref="rows" class="rows">
        <template v-for="bar in score.bars" :key="bar.number">
          <li v-if="sectionOf(bar)" class="section">{{ sectionOf(bar) }}</li>
          <li
            class="row"
            :class="{ now: sounding === bar.number, looped: inLoop(bar) }"
            :data-bar="bar.number"
          >
            <div class="name">
              <button
                type="button"
                class="number"
                :aria-label="`Loop bar ${bar.number}`"
                :aria-pressed="inLoop(bar)"
                title="Loop this bar; with Shift, extend the loop to here"
                @click="choose(bar, $event)"
              >
                {{ bar.number }}
              </button>
              <span class="limbs" aria-hidden="true"><i>R</i><i>L</i><i class="foot">R</i><i>L</i></span>
            </div>
            <div class="lanes">
              <BarRow
                :bar="bar"
                :typical="score.typical"
                :width="lanes"
                :cursor="stack.cursor.value.bar === bar.number ? stack.cursor.value : null"
                @pick="(place, limb) => pick(bar, place, limb)"
              />
              <span
                v-if="sounding === bar.number"
                class="playhead"
                :style="{ transform: `translateX(${placeX(throughBar(bar, position), lanes)}px)` }"
              />
            </div>
          </li>
        </template>
      </ol>
    </div>
    <NotePanel :stack="stack" class="note" />
  </section>
</template>

<style scoped>
.grooves {
  display: grid;
  grid-template-columns: 11rem minmax(0, 1fr) 15rem;
  gap: var(--gap-6);
  min-height: 0;
  padding: var(--gap-4) var(--frame-edge) 0;
}
.facts {
  display: grid;
  align-content: start;
  gap: var(--gap-2);
}
dl {
  display: grid;
  gap: 0 0;
  margin: var(--gap-2) 0;
}
dt {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
dd {
  margin: 0 0 var(--gap-2);
}
.doubts {
  justify-self: start;
  padding: 0.35rem 0.9rem;
  border: 1.5px solid var(--accent);
  border-radius: var(--round-full);
  background: none;
  color: var(--accent);
  font-weight: 700;
  cursor: pointer;
}
summary {
  color: var(--ink-soft);
  cursor: pointer;
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
  grid-template-columns: 5.25rem minmax(0, 1fr);
}
.head {
  overflow-y: scroll;
  scrollbar-color: transparent transparent;
  flex: none;
}
.sheet,
.phrase {
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  background: var(--paper-raised);
}
.rows {
  flex: 1;
  min-height: 0;
  margin: 0;
  padding: 0 0 2rem;
  overflow-y: scroll;
  list-style: none;
}
.section {
  padding: var(--gap-3) 0 var(--gap-1);
  font: 500 1.125rem var(--serif);
}
.row {
  border-bottom: 1px solid var(--line);
  content-visibility: auto;
  contain-intrinsic-size: auto 94px;
  scroll-margin: 1rem 0;
}
.row.looped .name {
  box-shadow: inset 4px 0 0 var(--accent);
}
.row.now {
  background: var(--paper-raised);
}
.lanes {
  position: relative;
}
.name {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  padding: 0 var(--gap-2) 0 var(--gap-2);
}
.number {
  justify-self: start;
  min-width: 2.5rem;
  padding: 0.2rem 0.4rem;
  border: 0;
  border-radius: 6px;
  background: none;
  font-weight: 700;
  font-size: 1.125rem;
  text-align: left;
  cursor: pointer;
}
.number:hover {
  background: var(--accent-soft);
}
.now .number {
  color: var(--accent);
}
.limbs {
  display: grid;
  /* As in rowLayout.ts: four lanes, a gap between hands and feet. */
  grid-template-rows: 18px 18px 23px 18px;
  color: var(--ink-soft);
  font-size: 0.8rem;
  line-height: 18px;
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
.note {
  align-self: start;
}
@media (max-width: 1000px) {
  .grooves {
    grid-template-columns: minmax(0, 1fr) 13rem;
  }
  .facts {
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
  .note {
    display: none;
  }
}
</style>
