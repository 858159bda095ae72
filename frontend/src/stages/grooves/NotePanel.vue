<script setup lang="ts">
/** What is at the cursor, what speaks for it, and what can be done with it; every button names its key. */
import { isHalfOpen } from '@/score/opening'
import MeterGroup from 'primevue/metergroup'
import { computed } from 'vue'
import type { BarEvidence, Instrument } from '@/api/client'
import { INSTRUMENT_NAMES, LIMB_NAMES, PLAYED_BY } from '@/api/vocabulary'
import ChoiceField from '@/base/ChoiceField.vue'
import FoldedPart from '@/base/FoldedPart.vue'
import { barsWords, laneOf, placeWords } from '@/score/place'
import { useOpenSong } from '@/song/openSong'
import { asPhrase } from './offers'
import { useBarEvidence } from './useBarEvidence'
import DivideBeat from './DivideBeat.vue'
import { REASONS_TO_LEAVE_OUT } from './useNotes'
import VoiceChange from './VoiceChange.vue'

const { id, stack, notes, part, found } = useOpenSong()

const STATUS_WORDS = { heard: '', inferred: 'inferred', doubtful: 'doubtful', left_out: 'left out' } as const
const where = computed(() => {
  const bar = stack.bar.value
  return bar ? placeWords(bar, stack.cursor.value.position) : ''
})
const many = computed(() => stack.targets.value.length)
const isSelecting = computed(() => stack.selection.value !== null)
const hit = computed(() => stack.hit.value ?? notes.leftOut.value)
const isThere = computed(() => many.value > 0)
const first = computed(() => stack.targets.value[0])
const choices = computed<readonly Instrument[]>(() => PLAYED_BY[stack.cursor.value.limb])
/** Whether it is sure, by what, and how sure. */
const standing = computed(() => {
  const at = hit.value
  if (!at) return ''
  const why = [at.reason, at.source && `in ${at.source}`].filter(Boolean).join(' ')
  const sure = at.confidence < 1 && !at.settled ? `${Math.round(at.confidence * 100)} % sure` : ''
  const words = [[STATUS_WORDS[at.status], why].filter(Boolean).join(': '), sure].filter(Boolean).join(', ')
  return words + (at.settled ? ' · settled' : '')
})

const { evidence, history } = useBarEvidence(
  id,
  () => stack.cursor.value.bar,
  () => part.score.value?.revision ?? 0,
)
const reasons = REASONS_TO_LEAVE_OUT.map((reason) => ({ value: reason as string, label: reason as string }))

/** How strongly each recording says that the drum at the cursor sounded; the likeliest where none is written. */
const heard = computed(() => {
  const bar = stack.bar.value
  if (!bar || !evidence.value) return []
  const index = bar.cells.findIndex((cell) => cell.position === stack.cursor.value.position)
  const { position, limb } = stack.cursor.value
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

/** Which way "As phrase" goes, said before it goes. */
const toPhrase = computed(() => {
  const bars = (part.score.value?.bars ?? []).filter((bar) => stack.bars.value.includes(bar.number))
  const each = bars.map((bar) => asPhrase(bar, found.phrases.value.get(bar.number)?.notes ?? []))
  return { added: each.reduce((sum, one) => sum + one.added, 0), gone: each.flatMap((one) => one.gone) }
})
const phraseWords = computed(() => {
  const { added, gone } = toPhrase.value
  if (!added && !gone.length) return 'The bar is as the phrase already'
  return `As phrase: ${[added && `adds ${added}`, gone.length && `leaves out ${gone.length}`].filter(Boolean).join(', ')}`
})
/** The notes that would go, lit in the stack while the button is pointed at. */
function showPhrase(isShown: boolean): void {
  const places = new Set(toPhrase.value.gone.map((hit) => `${hit.bar} ${hit.position} ${hit.instrument}`))
  found.lit.value = isShown && places.size ? { words: phraseWords.value, places } : null
}
const when = (at: string) => new Date(at).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'short' })
</script>

<template>
  <aside class="at-cursor" aria-label="The note at the cursor">
    <template v-if="isSelecting">
      <div class="place">
        <h3>{{ many }} notes selected</h3>
        <span class="label">{{ barsWords(stack.bars.value[0]!, stack.bars.value.at(-1)!) }}</span>
      </div>
    </template>
    <template v-else>
      <div class="place">
        <h3>{{ where }}</h3>
        <span class="label">bar {{ stack.cursor.value.bar }}, {{ LIMB_NAMES[stack.cursor.value.limb] }}</span>
      </div>
      <template v-if="hit">
        <p class="what">
          {{ INSTRUMENT_NAMES[hit.instrument] }}{{ hit.ghost ? ', ghost' : '' }}{{ hit.accent ? ', accent' : ''
          }}{{ hit.ornament ? `, ${hit.ornament}` : '' }}{{ isHalfOpen(hit) ? ', half open' : '' }}
        </p>
        <p class="label standing">
          {{ standing }}
        </p>
      </template>
      <p v-else class="quiet">No note here</p>
      <dl v-if="heard.length" class="heard">
        <template v-for="source in heard" :key="source.title">
          <dt>{{ source.title }}</dt>
          <dd>
            <MeterGroup
              :value="[{ label: '', value: Math.round(100 * source.strength), color: 'var(--ink-soft)' }]"
              :aria-label="`${source.drum} in ${source.title}: ${Math.round(100 * source.strength)} of 100`"
            >
              <template #label><span /></template>
            </MeterGroup>
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
      <ChoiceField
        v-else-if="notes.leftOut.value"
        class="wide"
        label="Why it is left out"
        :options="reasons"
        :model-value="notes.leftOut.value.reason"
        @update:model-value="notes.settle('left_out', $event)"
      />
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
      <button
        type="button"
        :aria-pressed="first ? isHalfOpen(first) : false"
        :disabled="!isThere || !first?.instrument.startsWith('hihat') || first.instrument === 'hihat_foot'"
        @click="notes.toggleHalfOpen()"
      >
        <span>Half open</span><kbd>⇧ H</kbd>
      </button>
    </div>
    <div class="choices" role="group" aria-label="Played on">
      <span class="label">Played on</span>
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
    <FoldedPart v-if="first && !isSelecting" heading="Change this drum everywhere">
      <VoiceChange :instrument="first.instrument" :bar="stack.cursor.value.bar" />
    </FoldedPart>
    <DivideBeat />
    <p class="label">{{ stack.bars.value.length > 1 ? `Bars ${stack.bars.value[0]}–${stack.bars.value.at(-1)}` : 'This bar' }}</p>
    <div class="does bars">
      <button type="button" @click="notes.confirmBars(true)"><span>Confirm</span><kbd>⇧ Y</kbd></button>
      <button
        v-tooltip.left="phraseWords"
        type="button"
        :disabled="!toPhrase.added && !toPhrase.gone.length"
        @pointerenter="showPhrase(true)"
        @pointerleave="showPhrase(false)"
        @focus="showPhrase(true)"
        @blur="showPhrase(false)"
        @click="notes.asPhrase()"
      >
        <span>As phrase</span><kbd>⇧ P</kbd>
      </button>
      <button type="button" class="wide" :disabled="part.lastEdits.value.length === 0" @click="notes.toLikeBars()">
        <span>Last change: like bars</span><kbd>⇧ Enter</kbd>
      </button>
    </div>
    <p class="label" data-test="phrase-words">{{ phraseWords }}</p>
    <FoldedPart v-if="history.length" :heading="`Decided here: ${history.length}`">
      <p v-for="entry in history" :key="entry.at" class="label">
        {{ entry.words }}{{ entry.undone ? ' (taken back)' : '' }}<br />{{ entry.author }}, {{ when(entry.at) }}
      </p>
    </FoldedPart>
  </aside>
</template>

<style scoped>
.at-cursor {
  display: grid;
  align-content: start;
  gap: 0.3rem;
}
.place {
  display: flex;
  flex-wrap: wrap;
  gap: 0 var(--gap-2);
  align-items: baseline;
}
.standing::first-letter,
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
.heard :deep(.p-metergroup) {
  flex: none;
  width: 4rem;
}
.does {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: var(--gap-1);
}
.wide {
  grid-column: 1 / -1;
}
.does button,
.choices button {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: var(--gap-2);
  padding: 0.1rem 0.5rem;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 0.9375rem;
  text-align: left;
  cursor: pointer;
}
.does button:hover:not(:disabled),
.choices button:hover {
  border-color: var(--accent);
}
.does button[aria-pressed='true'],
.choices button[aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
  font-weight: 700;
}
.does button:disabled {
  color: var(--ink-soft);
  cursor: default;
}
.bars button {
  gap: var(--gap-1);
  padding-inline: 0.4rem;
  font-size: var(--size-small);
  white-space: nowrap;
}
.choices {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: var(--gap-1);
}
.choices button {
  gap: var(--gap-1);
  padding: 0.05rem 0.4rem;
  font-size: var(--size-small);
}
.key {
  color: var(--ink-soft);
}
kbd {
  flex: none;
  white-space: nowrap;
}
</style>
