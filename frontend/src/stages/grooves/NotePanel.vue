<script setup lang="ts">
/** What is at the cursor, what speaks for it, and what can be done with it; every button names its key. */
import { computed, ref, watch } from 'vue'
import { api, type BarEvidence, type HistoryEntry, type Instrument, taken } from '@/api/client'
import { INSTRUMENT_NAMES, LIMB_NAMES, PLAYED_BY } from '@/api/vocabulary'
import { laneOf, placeWords } from '@/score/place'
import type { StackCursor } from './useCursor'
import { REASONS_TO_LEAVE_OUT, type StackNotes } from './useNotes'

const props = defineProps<{ songId: string; stack: StackCursor; notes: StackNotes; revision: number; canSpread: boolean }>()

const STATUS_WORDS = { heard: '', inferred: 'Inferred: ', doubtful: 'Doubtful: ', left_out: 'Left out: ' } as const
const where = computed(() => {
  const bar = props.stack.bar.value
  return bar ? placeWords(bar, props.stack.cursor.value.position) : ''
})
const many = computed(() => props.stack.targets.value.length)
const isSelecting = computed(() => props.stack.selection.value !== null)
const hit = computed(() => props.stack.hit.value ?? props.notes.leftOut.value)
const isThere = computed(() => many.value > 0)
const first = computed(() => props.stack.targets.value[0])
const choices = computed<readonly Instrument[]>(() => PLAYED_BY[props.stack.cursor.value.limb])
const sure = computed(() => Math.round((hit.value?.confidence ?? 0) * 100))

const evidence = ref<BarEvidence | null>(null)
const history = ref<HistoryEntry[]>([])
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  [() => props.stack.cursor.value.bar, () => props.revision],
  ([bar], old) => {
    if (old?.[0] !== bar) evidence.value = null
    clearTimeout(timer)
    timer = setTimeout(() => void look(bar), 350)
  },
  { immediate: true },
)
async function look(bar: number): Promise<void> {
  const of = { params: { path: { song_id: props.songId, bar } } }
  try {
    evidence.value ??= await taken(api.GET('/api/songs/{song_id}/evidence/{bar}', of))
  } catch {
    evidence.value = null
  }
  try {
    history.value = await taken(api.GET('/api/songs/{song_id}/history/{bar}', of))
  } catch {
    history.value = []
  }
}

/** How strongly each recording says that the drum at the cursor sounded; the likeliest where none is written. */
const heard = computed(() => {
  const bar = props.stack.bar.value
  if (!bar || evidence.value?.bar !== bar.number) return []
  const index = bar.cells.findIndex((cell) => cell.position === props.stack.cursor.value.position)
  const { position, limb } = props.stack.cursor.value
  const elsewhere = new Set(
    bar.hits
      .filter((item) => item.position === position && laneOf(item.limb) !== limb)
      .map((item) => item.instrument),
  )
  const strongest = (rows: BarEvidence['rows']) =>
    rows
      // What is written here in another lane speaks for that note.
      .filter((row) => !elsewhere.has(row.instrument))
      .filter((row) => (hit.value ? row.instrument === hit.value.instrument : choices.value.includes(row.instrument)))
      .map((row) => ({ instrument: row.instrument, strength: row.strength[index] ?? 0 }))
      .sort((one, other) => other.strength - one.strength)[0]
  return [{ title: 'The record', rows: evidence.value.rows }, ...evidence.value.sources]
    .map((source) => ({ title: source.title, best: strongest(source.rows) }))
    .filter((source) => source.best || hit.value)
    .map(({ title, best }) => ({
      title,
      strength: best?.strength ?? 0,
      drum: INSTRUMENT_NAMES[best?.instrument ?? hit.value!.instrument],
    }))
})
const when = (at: string) => new Date(at).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'short' })
</script>

<template>
  <aside class="at-cursor" aria-label="The note at the cursor">
    <template v-if="isSelecting">
      <p class="label">Bars {{ stack.bars.value[0] }}–{{ stack.bars.value.at(-1) }}</p>
      <h3>{{ many }} notes selected</h3>
    </template>
    <template v-else>
      <p class="label">Bar {{ stack.cursor.value.bar }}, {{ LIMB_NAMES[stack.cursor.value.limb] }}</p>
      <h3>{{ where }}</h3>
      <template v-if="hit">
        <p class="what">
          {{ INSTRUMENT_NAMES[hit.instrument] }}{{ hit.ghost ? ', ghost' : '' }}{{ hit.accent ? ', accent' : ''
          }}{{ hit.ornament ? `, ${hit.ornament}` : '' }}
        </p>
        <p class="label">
          {{ STATUS_WORDS[hit.status] }}{{ hit.reason }}{{ hit.source ? ` in ${hit.source}` : '' }}{{ hit.confidence < 1 && !hit.settled ? `, ${sure} % sure` : ''
          }}{{ hit.settled ? ' · settled' : '' }}
        </p>
      </template>
      <p v-else class="quiet">No note here</p>
      <dl v-if="heard.length" class="heard">
        <template v-for="source in heard" :key="source.title">
          <dt>{{ source.title }}</dt>
          <dd>
            <meter min="0" max="1" :value="source.strength" :aria-label="`${source.drum} in ${source.title}`" />
            <span>{{ hit ? '' : source.strength > 0.15 ? source.drum : 'nothing' }}</span>
          </dd>
        </template>
      </dl>
    </template>
    <div class="does">
      <template v-if="isThere || notes.leftOut.value">
        <button type="button" :aria-pressed="hit?.status === 'heard' && hit.settled" @click="notes.settle('heard')">
          <span>{{ notes.leftOut.value ? 'Bring it back' : 'It is there' }}</span><kbd>Y</kbd>
        </button>
        <button type="button" :aria-pressed="hit?.status === 'inferred'" @click="notes.settle('inferred')">
          <span>Inferred</span><kbd>I</kbd>
        </button>
      </template>
      <template v-if="isThere">
        <button type="button" :aria-pressed="hit?.status === 'doubtful'" @click="notes.settle('doubtful')">
          <span>Doubtful</span><kbd>P</kbd>
        </button>
        <button type="button" @click="notes.settle('left_out')"><span>Leave it out</span><kbd>N</kbd></button>
      </template>
      <select
        v-else-if="notes.leftOut.value"
        class="wide"
        aria-label="Why it is left out"
        title="N again goes through the reasons"
        :value="notes.leftOut.value.reason"
        @change="notes.settle('left_out', ($event.target as HTMLSelectElement).value)"
      >
        <option v-for="reason in REASONS_TO_LEAVE_OUT" :key="reason">{{ reason }}</option>
      </select>
      <button type="button" data-test="toggle" @click="notes.toggleNote()">
        <span>{{ isThere ? 'Remove' : 'Add' }}</span><kbd>Enter</kbd>
      </button>
      <button type="button" :aria-pressed="first?.ghost ?? false" data-test="ghost" @click="notes.toggleGhost()">
        <span>Ghost</span><kbd>G</kbd>
      </button>
      <button
        type="button"
        :aria-pressed="first?.accent ?? false"
        :disabled="!isThere"
        data-test="accent"
        @click="notes.toggleAccent()"
      >
        <span>Accent</span><kbd>A</kbd>
      </button>
      <button type="button" :aria-pressed="first?.ornament === 'flam'" :disabled="!isThere" @click="notes.toggleOrnament('flam')">
        <span>Flam</span><kbd>J</kbd>
      </button>
      <button type="button" :aria-pressed="first?.ornament === 'drag'" :disabled="!isThere" @click="notes.toggleOrnament('drag')">
        <span>Drag</span><kbd>U</kbd>
      </button>
      <button type="button" :aria-pressed="first?.ornament === 'buzz'" :disabled="!isThere" @click="notes.toggleOrnament('buzz')">
        <span>Buzz</span><kbd>Z</kbd>
      </button>
    </div>
    <p class="label">Played on</p>
    <div class="choices">
      <button
        v-for="(instrument, index) in choices"
        :key="instrument"
        type="button"
        :aria-pressed="first?.instrument === instrument"
        @click="notes.playOn(instrument)"
      >
        {{ INSTRUMENT_NAMES[instrument] }} <span class="key">{{ index + 1 }}</span>
      </button>
    </div>
    <p class="label">{{ stack.bars.value.length > 1 ? `Bars ${stack.bars.value[0]}–${stack.bars.value.at(-1)}` : 'This bar' }}</p>
    <div class="does">
      <button type="button" class="wide" @click="notes.confirmBars(true)"><span>Confirm</span><kbd>⇧ Y</kbd></button>
      <button type="button" class="wide" @click="notes.asPhrase()"><span>Make it as the phrase</span><kbd>⇧ P</kbd></button>
      <button type="button" class="wide" :disabled="!canSpread" @click="notes.toLikeBars()">
        <span>Last change to like bars</span><kbd>⇧ Enter</kbd>
      </button>
    </div>
    <details v-if="history.length" class="history">
      <summary>Decided here: {{ history.length }}</summary>
      <p v-for="entry in history" :key="entry.at" class="label">
        {{ entry.words }}{{ entry.undone ? ' (taken back)' : '' }}<br />{{ entry.author }}, {{ when(entry.at) }}
      </p>
    </details>
  </aside>
</template>

<style scoped>
.at-cursor {
  display: grid;
  align-content: start;
  gap: var(--gap-2);
}
.what::first-letter {
  text-transform: uppercase;
}
.what {
  font-weight: 700;
}
.heard {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0.1rem var(--gap-3);
  align-items: center;
  margin: 0;
  font-size: var(--size-small);
}
.heard dd {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
  margin: 0;
}
meter {
  width: 4rem;
  height: 8px;
  appearance: none;
}
meter::-webkit-meter-bar {
  height: 8px;
  border: 0;
  border-radius: 2px;
  background: var(--paper-sunk);
}
meter::-webkit-meter-optimum-value {
  border-radius: 2px;
  background: var(--ink-soft);
}
.does {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: var(--gap-1);
}
.wide {
  grid-column: 1 / -1;
}
button,
select {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: var(--gap-2);
  padding: 0.25rem 0.6rem;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 0.9375rem;
  text-align: left;
  cursor: pointer;
}
button:hover:not(:disabled) {
  border-color: var(--accent);
}
button[aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
  font-weight: 700;
}
button:disabled {
  color: var(--ink-soft);
  cursor: default;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1);
}
.key {
  color: var(--ink-soft);
}
.history p {
  margin: var(--gap-1) 0;
}
kbd {
  flex: none;
  white-space: nowrap;
}
summary {
  color: var(--ink-soft);
  cursor: pointer;
}
</style>
