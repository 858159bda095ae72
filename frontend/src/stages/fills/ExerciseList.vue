<script setup lang="ts">
/** What to practise of a fill: variations by rule, and loops of groove and fill. */
import { computed, ref } from 'vue'
import type { Exercise, ToldFill } from '@/api/client'
import { useOpenSong } from '@/song/openSong'
import FillLanes from './FillLanes.vue'

const props = defineProps<{ fill: ToldFill }>()
const { fills: stage } = useOpenSong()
const opened = ref<string | null>(null)
const isOn = (exercise: Exercise) => stage.onList.value.has(`${props.fill.bar} ${exercise.key}`)
/** A long loop repeats its groove: its last two bars say it all. */
const shown = (exercise: Exercise) => exercise.bars.slice(-2)
const left = computed(() => (exercise: Exercise) => exercise.bars.length - shown(exercise).length)
</script>

<template>
  <section v-if="stage.exercises.value.length" class="exercises" aria-label="To practise">
    <h4>To practise</h4>
    <div v-for="exercise in stage.exercises.value" :key="exercise.key" class="exercise">
      <button
        type="button"
        class="name"
        :aria-expanded="opened === exercise.key"
        @click="opened = opened === exercise.key ? null : exercise.key"
      >
        <span aria-hidden="true">{{ opened === exercise.key ? '▾' : '▸' }}</span> {{ exercise.name }}
      </button>
      <span class="quiet">{{ exercise.words }}</span>
      <button type="button" class="list" :aria-pressed="isOn(exercise)" @click="stage.toList(exercise)">
        {{ isOn(exercise) ? 'On the practice list' : 'To the practice list' }}
      </button>
      <div v-if="opened === exercise.key" class="bars">
        <p v-if="left(exercise)" class="quiet">{{ left(exercise) }} more bars of groove before these.</p>
        <FillLanes :bars="shown(exercise)" :label="`${exercise.name}: ${exercise.words}`" />
      </div>
    </div>
  </section>
</template>

<style scoped>
.exercises {
  display: grid;
}
h4 {
  margin: 0 0 var(--gap-2);
  font-size: 1rem;
}
.exercise {
  display: grid;
  grid-template-columns: minmax(13rem, max-content) 1fr max-content;
  gap: var(--gap-1) var(--gap-3);
  align-items: baseline;
  padding: var(--gap-1) 0;
  border-top: 1px solid var(--line);
}
.quiet {
  margin: 0;
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.name {
  padding: 0.2rem 0;
  border: 0;
  background: none;
  text-align: left;
  cursor: pointer;
}
.name:hover {
  color: var(--accent);
}
.list {
  padding: 0.05rem 0.6rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  font-size: var(--size-small);
  cursor: pointer;
}
.list[aria-pressed='true'] {
  border-color: var(--accent);
  color: var(--accent);
}
.bars {
  grid-column: 1 / -1;
  min-width: 0;
}
@media (max-width: 700px) {
  .exercise {
    grid-template-columns: 1fr;
    justify-items: start;
  }
}
</style>
