<script setup lang="ts">
/** Second recordings: how well each fits, hearing it at the same bar, adding one. */
import { useFileDialog } from '@vueuse/core'
import Message from 'primevue/message'
import { useConfirm } from 'primevue/useconfirm'
import { ref, type Ref } from 'vue'
import type { Source } from '@/api/client'
import { SUFFIXES } from '@/api/vocabulary'
import { useOpenSong } from '@/song/openSong'

const { sources, player } = useOpenSong()
const settings = player.settings
const confirm = useConfirm()

function wordsOf(source: Source): string {
  if (source.state === 'queued') return source.words || 'waits for its turn …'
  if (source.state === 'running') return 'being lined up …'
  return source.words
}

function remove(source: Source): void {
  confirm.require({
    header: `Take “${source.title}” away?`,
    message: 'The recording goes. What you decided by it stays in the chart.',
    acceptLabel: 'Take it away',
    rejectLabel: 'Keep it',
    accept: () => sources.remove(source),
  })
}

const field = ref<HTMLInputElement | null>(null)
const files = useFileDialog({ input: field as Ref<HTMLInputElement>, accept: `audio/*,${SUFFIXES.join(',')}`, multiple: false, reset: true })
files.onChange((chosen) => {
  if (chosen?.[0]) sources.add(chosen[0])
})
</script>

<template>
  <div class="sources">
    <h3>Recordings</h3>
    <div class="source">
      <p>The record</p>
      <button type="button" :aria-pressed="settings.hearing === 'record'" @click="settings.hearing = 'record'">hear</button>
    </div>
    <div v-for="source in sources.sources.value" :key="source.id" class="source" data-test="source">
      <p>
        {{ source.title }}
        <small :class="source.state">{{ wordsOf(source) }}</small>
      </p>
      <button
        v-if="source.state === 'ready'"
        type="button"
        :aria-pressed="settings.hearing === `source:${source.id}`"
        @click="settings.hearing = `source:${source.id}`"
      >
        hear
      </button>
      <button
        type="button"
        :aria-label="`Take ${source.title} away`"
        @click="remove(source)"
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
        v-tooltip.left="'It is the same song, played another time: follow it from place to place'"
        type="button"
        class="follow"
        @click="sources.follow(source)"
      >
        follow as another take
      </button>
    </div>
    <input ref="field" type="file" class="visually-hidden" tabindex="-1" aria-label="A recording to add" data-test="add-source" />
    <button type="button" class="add" :disabled="sources.isSending.value" @click="files.open()">
      {{ sources.isSending.value ? 'Sending …' : 'Add isolated drums, a live take …' }}
    </button>
    <Message v-if="sources.problem.value" severity="error">{{ sources.problem.value }}</Message>
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
small.failed {
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
  color: var(--ink);
  cursor: pointer;
}
</style>
