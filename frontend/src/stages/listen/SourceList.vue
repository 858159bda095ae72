<script setup lang="ts">
/** Second recordings: how well each fits, hearing it at the same bar, adding one. */
import type { Source } from '@/api/client'
import { SUFFIXES } from '@/api/vocabulary'
import type { Hearing } from '@/engine/player'
import type { Sources } from './useSources'

defineProps<{ sources: Sources; hearing: Hearing }>()
const emit = defineEmits<{ hear: [what: Hearing] }>()

function wordsOf(source: Source): string {
  if (source.state === 'queued') return source.words || 'waits for its turn …'
  if (source.state === 'running') return 'being lined up …'
  return source.words
}

function chosen(event: Event, add: (file: File) => Promise<void>): void {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  field.value = ''
  if (file) void add(file)
}
</script>

<template>
  <div class="sources">
    <h3>Recordings</h3>
    <div class="source">
      <p>The record</p>
      <button type="button" :aria-pressed="hearing === 'record'" @click="emit('hear', 'record')">hear</button>
    </div>
    <div v-for="source in sources.sources.value" :key="source.id" class="source" data-test="source">
      <p>
        {{ source.title }}
        <small :class="source.state">{{ wordsOf(source) }}</small>
      </p>
      <button
        v-if="source.state === 'ready'"
        type="button"
        :aria-pressed="hearing === `source:${source.id}`"
        @click="emit('hear', `source:${source.id}`)"
      >
        hear
      </button>
      <button
        type="button"
        :aria-label="`Take ${source.title} away`"
        @click="sources.remove(source)"
      >
        remove
      </button>
      <button
        v-if="source.state === 'failed'"
        type="button"
        class="follow"
        data-test="line-up-again"
        @click="sources.again(source)"
      >
        try again
      </button>
      <button
        v-if="source.state === 'refused'"
        type="button"
        class="follow"
        title="It is the same song, played another time: follow it from place to place"
        @click="sources.follow(source)"
      >
        follow as another take
      </button>
    </div>
    <label class="add" :class="{ busy: sources.isSending.value }">
      {{ sources.isSending.value ? 'Sending …' : 'Add isolated drums, a live take …' }}
      <input
        type="file"
        :accept="`audio/*,${SUFFIXES.join(',')}`"
        data-test="add-source"
        :disabled="sources.isSending.value"
        @change="chosen($event, sources.add)"
      />
    </label>
    <p v-if="sources.problem.value" class="problem" role="alert">{{ sources.problem.value }}</p>
  </div>
</template>

<style scoped>
.sources {
  display: grid;
  gap: 0.3rem;
  margin-top: 0.75rem;
}
h3 {
  margin: 0;
  font: 700 1rem var(--sans);
}
p {
  margin: 0;
}
.source {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 0.5rem;
  align-items: baseline;
  padding: 0.25rem 0;
  border-bottom: 1px solid var(--line);
}
.follow {
  grid-column: 1 / -1;
  justify-self: start;
}
small {
  display: block;
  color: var(--ink-soft);
  font-size: var(--size-small);
}
small.refused,
small.failed,
.problem {
  color: var(--accent);
}
button {
  padding: 0;
  border: 0;
  background: none;
  color: var(--accent);
  cursor: pointer;
}
button[aria-pressed='true'] {
  font-weight: 700;
  text-decoration: underline;
}
button:disabled {
  color: var(--ink-faint);
  cursor: progress;
}
.add {
  justify-self: start;
  margin-top: 0.4rem;
  padding: 0.25rem 0.8rem;
  border: 1px solid var(--line-strong);
  border-radius: var(--round-full);
  cursor: pointer;
}
.add:focus-within {
  outline: 2px solid var(--accent);
  outline-offset: 2px;
}
.add input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
</style>
