<script setup lang="ts">
/** Which instrument is this voice? Asked once for all of its strokes, with strokes to listen to. */
import { ref } from 'vue'
import type { Instrument, Naming } from '@/api/client'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import { naming as named } from './offers'

const { part, stack, found, loopStroke } = useOpenSong()
const score = useOpenScore()

/** Which example comes next when one listens again. */
const turn = ref(0)

function listen(question: Naming, side: 'like_itself' | 'like_rival'): void {
  const examples = question[side]
  const example = examples[turn.value % examples.length]!
  turn.value += 1
  stack.place({ bar: example.bar, position: example.position })
  loopStroke(example.bar, example.position)
}

function answer(question: Naming, isRival: boolean): void {
  const name = INSTRUMENT_NAMES[isRival ? question.rival : question.instrument]
  const { edits, words } = named(score.value.bars, question, isRival, name)
  void part.make(edits, words)
}

const isSame = (question: Naming) => question.like_itself[0]?.bar === question.like_rival[0]?.bar
  && question.like_itself[0]?.position === question.like_rival[0]?.position
const sides = (question: Naming) =>
  isSame(question)
    ? [{ key: 'like_itself' as const, words: 'Hear it' }]
    : [
        { key: 'like_itself' as const, words: `Most like a ${name(question.instrument)}` },
        { key: 'like_rival' as const, words: `Most like a ${name(question.rival)}` },
      ]
const name = (instrument: Instrument) => INSTRUMENT_NAMES[instrument]
const capital = (text: string) => text[0]!.toUpperCase() + text.slice(1)
</script>

<template>
  <section v-if="found.namings.value.length" class="namings" aria-label="Which instrument is it">
    <p class="label">Which instrument is it</p>
    <div v-for="question in found.namings.value" :key="question.words" class="question">
      <p>{{ question.words }}</p>
      <div class="acts">
        <button v-for="side in sides(question)" :key="side.key" type="button" @click="listen(question, side.key)">
          <span aria-hidden="true">♪</span> {{ side.words }}
        </button>
      </div>
      <div class="acts">
        <button type="button" class="answer" @click="answer(question, false)">{{ capital(name(question.instrument)) }}</button>
        <button type="button" class="answer" @click="answer(question, true)">{{ capital(name(question.rival)) }}</button>
      </div>
    </div>
  </section>
</template>

<style scoped>
.namings {
  display: grid;
  gap: var(--gap-2);
  padding: var(--gap-2) 0 0;
  border-top: 1px solid var(--line);
  font-size: 0.9375rem;
}
.question {
  display: grid;
  gap: var(--gap-1);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1);
}
button {
  padding: 0.05rem 0.5rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  font-size: var(--size-small);
  cursor: pointer;
}
button:hover {
  border-color: var(--accent);
}
.answer {
  font-weight: 700;
}
</style>
