<script setup lang="ts">
/** One fill in full: its words, lanes and hands, the ways to play it, what cannot be played, what to practise. */
import { computed } from 'vue'
import type { ToldFill } from '@/api/client'
import { SCHOOLS } from '@/api/vocabulary'
import type { School } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { fraction } from '@/score/place'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import ExerciseList from './ExerciseList.vue'
import FillLanes from './FillLanes.vue'
import WayList from './WayList.vue'

const props = defineProps<{ fill: ToldFill }>()
const { fills: stage, player, loopFill, part } = useOpenSong()
const score = useOpenScore()
const bars = computed(() =>
  score.value.bars.filter((bar) => bar.number >= props.fill.first_bar && bar.number <= props.fill.bar),
)
const schools = Object.entries(SCHOOLS).map(([value, label]) => ({ value: value as School, label }))
const isLooped = computed(() => {
  const loop = player.settings.value.loop
  return loop?.last === props.fill.bar && loop.from === fraction(props.fill.at)
})
const facts = computed(() =>
  [
    ['Count', props.fill.count],
    ['Accents', props.fill.accents && `on ${props.fill.accents}`],
    ['Hands and feet', props.fill.hands_and_feet],
    ['Before it', props.fill.lead_in],
    ['Linear', props.fill.is_linear ? 'nothing sounds together' : ''],
  ].filter(([, words]) => words),
)
const heading = computed(() => `Bar ${props.fill.bar}${props.fill.form ? `, ${props.fill.form}` : ''}`)
</script>

<template>
  <article class="detail" :aria-label="`Fill in bar ${fill.bar}`">
    <header>
      <h3>{{ heading }}</h3>
      <button type="button" class="main" :aria-pressed="isLooped" @click="loopFill">
        {{ isLooped ? 'End the loop' : 'Loop it' }} <kbd>L</kbd>
      </button>
    </header>
    <p class="words">{{ fill.words }}</p>
    <p v-if="fill.kinship !== 'first'" class="quiet">Family {{ fill.family }}: {{ fill.kinship_words }}.</p>
    <FillLanes
      :bars="bars"
      :from="fraction(fill.at)"
      :to="fraction(fill.until)"
      :hands="stage.way.value?.hands"
      :now="player.isPlaying.value ? player.position.value : undefined"
      :label="`The notes of bar ${fill.bar}, the fill marked, with the hands that play it`"
    />
    <img class="staff" :src="stage.staff.value" :alt="`Bar ${fill.bar} on the staff, with the hands below`" />
    <div class="ends" role="group" aria-label="Where it begins and ends">
      <span class="quiet">Begins</span>
      <button type="button" :disabled="part.isChanging.value" aria-label="Begins sooner" @click="stage.move('at', -1)">◂</button>
      <button type="button" :disabled="part.isChanging.value" aria-label="Begins later" @click="stage.move('at', 1)">▸</button>
      <span class="quiet">Ends</span>
      <button type="button" :disabled="part.isChanging.value" aria-label="Ends sooner" @click="stage.move('until', -1)">◂</button>
      <button type="button" :disabled="part.isChanging.value" aria-label="Ends later" @click="stage.move('until', 1)">▸</button>
      <button type="button" :disabled="part.isChanging.value" @click="stage.none()">Not a fill <kbd>N</kbd></button>
      <span v-if="fill.settled" class="quiet">as you said</span>
    </div>
    <dl>
      <template v-for="[name, words] in facts" :key="name">
        <dt>{{ name }}</dt>
        <dd v-if="name === 'Count'" class="counted">
          <span class="count">{{ words }}</span>
          <ChoiceField v-model="stage.school.value" label="Words of your school" :options="schools" />
        </dd>
        <dd v-else>{{ words }}</dd>
      </template>
    </dl>
    <section v-if="fill.problems.length" class="problems" aria-label="What one player cannot play">
      <h4>Not playable as it is written</h4>
      <p v-for="problem in fill.problems" :key="`${problem.bar} ${problem.position} ${problem.kind}`">
        {{ problem.words }}: {{ problem.remedy }}.
      </p>
    </section>
    <p v-if="stage.elsewhere.value.length" class="quiet">
      In other songs:
      <template v-for="(item, index) in stage.elsewhere.value" :key="`${item.song} ${item.bar}`">
        <template v-if="index">, </template>
        <RouterLink :to="`/songs/${item.song}`">{{ item.title }}</RouterLink> bar {{ item.bar }} ({{ item.words }})
      </template>
    </p>
    <WayList :fill="fill" />
    <ExerciseList :fill="fill" />
  </article>
</template>

<style scoped>
.detail {
  display: flex;
  flex-direction: column;
  gap: var(--gap-3);
  min-width: 0;
  min-height: 0;
  padding: 2px 4px var(--gap-8) 2px;
  overflow-y: auto;
}
.detail > * {
  flex-shrink: 0;
}
header {
  display: flex;
  gap: var(--gap-4);
  align-items: baseline;
}
h3 {
  margin: 0;
  font: 500 1.375rem var(--serif);
}
h4 {
  margin: 0;
  font-size: 1rem;
}
p {
  margin: 0;
}
.words {
  max-width: 46rem;
  font-size: var(--size-lead);
  line-height: 1.4;
}
.quiet {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.staff {
  align-self: flex-start;
  max-width: 100%;
  height: 9rem;
  padding: 0 var(--gap-2);
  border-radius: var(--round);
  background: var(--page);
}
.ends {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-2);
  align-items: baseline;
}
button {
  padding: 0.15rem 0.7rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  cursor: pointer;
}
button:hover:not(:disabled) {
  border-color: var(--accent);
}
.main {
  margin-left: auto;
  border-color: var(--accent);
  color: var(--accent);
  font-weight: 700;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: var(--gap-1) var(--gap-4);
  margin: 0;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
}
.count {
  font-size: var(--size-lead);
  font-weight: 700;
}
.counted {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2) var(--gap-4);
  align-items: baseline;
}
dl {
  align-items: baseline;
}
.problems {
  display: grid;
  gap: var(--gap-1);
  padding: var(--gap-3);
  border-left: 3px solid var(--accent);
  background: var(--paper-raised);
}
.problems p::first-letter {
  text-transform: uppercase;
}
</style>
