<script setup lang="ts">
/** What a teacher asks of one, above the songs: it is what comes first. */
import { useRouter } from 'vue-router'
import type { ToPractise } from '@/api/client'
import { LEVELS } from '@/stages/chart/options'
import { useToPractise } from './useGroups'

const given = useToPractise()
const router = useRouter()
const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { weekday: 'short', day: 'numeric', month: 'short' })

/** Which notes of it, where not all of them. */
function levelWords(one: ToPractise): string {
  const level = one.level === 'all' ? null : LEVELS.find((item) => item.value === one.level)
  return level ? `, ${level.label.toLowerCase()}` : ''
}

/** To the player, at what was given. */
function practise(one: ToPractise): void {
  sessionStorage.setItem(`orchesis.stage.${one.song}`, 'practice')
  // Its chart shows the notes that were asked for.
  const choice = JSON.parse(localStorage.getItem('orchesis.chart') ?? '{}') as Record<string, unknown>
  localStorage.setItem('orchesis.chart', JSON.stringify({ ...choice, level: one.level }))
  sessionStorage.setItem(`orchesis.practice.${one.song}`, one.target)
  sessionStorage.setItem(`orchesis.practice-level.${one.song}`, one.level)
  void router.push(`/songs/${one.song}`)
}
</script>

<template>
  <section v-if="given.length" aria-labelledby="for-you" class="for-you">
    <h2 id="for-you">Your assignments</h2>
    <ul>
      <li v-for="one in given" :key="one.id">
        <span class="what">
          <strong>{{ one.title }}: {{ one.name }}</strong>
          <span class="quiet beside">{{ Math.round(one.bpm) }} bpm{{ one.due ? `, by ${day(one.due)}` : '' }}, from {{ one.group }}{{ levelWords(one) }}</span>
          <span v-if="one.words" class="words">{{ one.words }}</span>
        </span>
        <span>{{ one.progress.words }}</span>
        <button type="button" class="act" :aria-label="`Practise ${one.title}: ${one.name}`" @click="practise(one)">Practise</button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.for-you {
  display: grid;
  gap: var(--gap-2);
  padding: var(--gap-4);
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--paper-raised);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-4);
  align-items: center;
  padding: var(--gap-2) 0;
}
.what {
  flex: 1;
  min-width: 14rem;
}
.beside {
  margin-left: var(--gap-2);
}
.words {
  display: block;
}
</style>
