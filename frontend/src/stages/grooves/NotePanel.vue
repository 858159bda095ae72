<script setup lang="ts">
/** What is at the cursor, and what can be done with it; every button names its key. */
import { computed } from 'vue'
import type { Instrument } from '@/api/client'
import { INSTRUMENT_NAMES, LIMB_NAMES, placeWords, PLAYED_BY } from '@/score/place'
import type { StackCursor } from './useCursor'

const props = defineProps<{ stack: StackCursor }>()

const where = computed(() => {
  const bar = props.stack.bar.value
  return bar ? placeWords(bar, props.stack.cursor.value.position) : ''
})
const hit = computed(() => props.stack.hit.value)
const choices = computed<readonly Instrument[]>(() => PLAYED_BY[props.stack.cursor.value.limb])
const sure = computed(() => Math.round((hit.value?.confidence ?? 0) * 100))
</script>

<template>
  <aside class="panel" aria-label="The note at the cursor">
    <p class="label">Bar {{ stack.cursor.value.bar }}, {{ LIMB_NAMES[stack.cursor.value.limb] }}</p>
    <h3>{{ where }}</h3>
    <template v-if="hit">
      <p class="what">
        {{ INSTRUMENT_NAMES[hit.instrument] }}{{ hit.ghost ? ', ghost' : '' }}{{ hit.accent ? ', accent' : '' }}
      </p>
      <p class="label">
        {{ hit.status === 'doubtful' ? 'Doubtful: ' : '' }}{{ hit.reason
        }}{{ hit.confidence < 1 ? `, ${sure} % sure` : '' }}
      </p>
    </template>
    <p v-else class="quiet">No note here</p>
    <div class="does">
      <template v-if="hit?.status === 'doubtful'">
        <button type="button" @click="stack.settle('heard')"><span>It is there</span><kbd>Y</kbd></button>
        <button type="button" @click="stack.settle('left_out')"><span>Leave it out</span><kbd>N</kbd></button>
      </template>
      <button type="button" data-test="toggle" @click="stack.toggleNote()">
        <span>{{ hit ? 'Remove' : 'Add a note' }}</span><kbd>Enter</kbd>
      </button>
      <button type="button" :aria-pressed="hit?.ghost ?? false" data-test="ghost" @click="stack.toggleGhost()">
        <span>Ghost</span><kbd>G</kbd>
      </button>
      <button
        type="button"
        :aria-pressed="hit?.accent ?? false"
        :disabled="!hit"
        data-test="accent"
        @click="stack.toggleAccent()"
      >
        <span>Accent</span><kbd>A</kbd>
      </button>
    </div>
    <p class="label">Played on</p>
    <div class="choices">
      <button
        v-for="(instrument, index) in choices"
        :key="instrument"
        type="button"
        :aria-pressed="hit?.instrument === instrument"
        @click="stack.playOn(instrument)"
      >
        {{ INSTRUMENT_NAMES[instrument] }} <span class="key">{{ index + 1 }}</span>
      </button>
    </div>
  </aside>
</template>

<style scoped>
.panel {
  display: grid;
  align-content: start;
  gap: var(--gap-2);
  padding: 1rem 1.1rem;
  border: 1px solid var(--line);
  border-radius: 12px;
  background: var(--paper-raised);
}
.what::first-letter {
  text-transform: uppercase;
}
.what {
  font-weight: 700;
}
.does {
  display: grid;
  gap: var(--gap-1);
  margin: var(--gap-1) 0;
}
button {
  border: 1px solid var(--line-strong);
  border-radius: var(--round-full);
  background: none;
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
  color: var(--ink-faint);
  border-color: var(--line);
  cursor: default;
}
.does button {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 0.3rem 0.5rem 0.3rem 0.9rem;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1);
}
.choices button {
  padding: 0.15rem 0.6rem;
  font-size: var(--size-small);
}
.key {
  color: var(--ink-soft);
}
</style>
