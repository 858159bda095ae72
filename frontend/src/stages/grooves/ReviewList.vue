<script setup lang="ts">
/** Where to listen before the gig: the places most likely wrong, the costliest first. */
import type { ReviewPlace } from '@/api/client'
import FoldedPart from '@/base/FoldedPart.vue'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import { reviewing } from './offers'

const { part, stack, found, loopBars } = useOpenSong()
const score = useOpenScore()

function listen(place: ReviewPlace): void {
  const { bar, position, limb } = place.hits[0]!
  stack.place({ bar, position, ...(limb ? { limb } : {}) })
  loopBars(bar, bar)
}

function answer(place: ReviewPlace, isThere: boolean): void {
  const { edits, words } = reviewing(score.value.bars, place, isThere)
  void part.make(edits, words)
}
</script>

<template>
  <FoldedPart v-if="found.review.value.length" :heading="`Listen here before the gig: ${found.review.value.length}`">
    <ol class="review" aria-label="Listen here before the gig">
      <li v-for="place in found.review.value" :key="place.words" data-test="review">
        <button type="button" class="where" :title="`Loop bar ${place.bars[0]}`" @click="listen(place)">
          {{ place.words }}
        </button>
        <span class="answers">
          <button type="button" @click="answer(place, true)">It is there</button>
          <button type="button" @click="answer(place, false)">It is not</button>
        </span>
      </li>
    </ol>
  </FoldedPart>
</template>

<style scoped>
.review {
  display: grid;
  gap: var(--gap-2);
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 0.9375rem;
}
.where {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  text-underline-offset: 0.2em;
  cursor: pointer;
}
.where:hover {
  text-decoration-color: var(--accent);
}
.answers {
  display: flex;
  gap: var(--gap-1);
  margin-top: 0.15rem;
}
.answers button {
  padding: 0.05rem 0.6rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  font-size: var(--size-small);
  cursor: pointer;
}
.answers button:hover {
  border-color: var(--accent);
}
</style>
