<script setup lang="ts">
/** Feel: pictures with one sentence each that says what to do at the kit; and all of it can be heard. */
import Message from 'primevue/message'
import { computed } from 'vue'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import { useOpenSong } from '@/song/openSong'
import HatAccents from './HatAccents.vue'
import PocketStrip from './PocketStrip.vue'

const { feel, player, hearFeel, tryAgain, isListening } = useOpenSong()
const measured = feel.measured
const TIMINGS = [
  { value: 'written' as const, label: 'on the grid' },
  { value: 'played' as const, label: 'as played' },
  { value: 'twice' as const, label: 'twice as much' },
]
/** Over the strips, whose scale it has: 45 ms to either side. */
const AXIS = [
  { x: 44, words: '40 ms early' },
  { x: 172, words: '20' },
  { x: 300, words: 'the grid' },
  { x: 428, words: '20' },
  { x: 556, words: '40 ms late' },
]
const isHeard = (timing: string) => player.settings.value.hearing === 'kit' && player.settings.value.timing === timing

type Ratio = { value: number; low: number; high: number } | null
const ratio = (found: Ratio) => (found ? `${found.value.toFixed(2)} : 1` : '—')
const between = (found: Ratio) => (found ? `${found.low.toFixed(2)} to ${found.high.toFixed(2)}` : '')
const swings = computed(() => measured.value?.swing.filter((item) => item.eighths || item.sixteenths) ?? [])
const hasSixteenths = computed(() => swings.value.some((item) => item.sixteenths))
const paces = computed(() => measured.value?.pace.sections ?? [])
const slowest = computed(() => Math.min(...paces.value.map((item) => item.bpm)))
const fastest = computed(() => Math.max(...paces.value.map((item) => item.bpm)))
const share = (bpm: number) => (fastest.value > slowest.value ? (bpm - slowest.value) / (fastest.value - slowest.value) : 0.5)
</script>

<template>
  <main class="body feel">
    <header class="title">
      <h2>Feel</h2>
      <p class="quiet">how it is played, measured in the recording</p>
      <div class="acts" role="group" aria-label="Play the chart">
        <span class="quiet">Play the chart</span>
        <button
          v-for="(item, index) in TIMINGS"
          :key="item.value"
          type="button"
          :aria-pressed="isHeard(item.value)"
          @click="hearFeel(item.value)"
        >
          {{ item.label }} <kbd>{{ index + 1 }}</kbd>
        </button>
      </div>
    </header>
    <Message v-if="feel.problem.value" severity="error">
      {{ feel.problem.value }} <button type="button" @click="feel.fetch()">Try again</button>
    </Message>
    <p v-else-if="!measured" class="quiet" role="status">Measuring …</p>
    <template v-else>
      <section aria-label="Pocket">
        <h3>Pocket</h3>
        <p class="lead">{{ measured.pocket.advice }}</p>
        <svg v-if="measured.pocket.voices.length" class="axis" viewBox="0 0 600 14" aria-hidden="true">
          <text v-for="mark in AXIS" :key="mark.x" :x="mark.x" y="11">{{ mark.words }}</text>
        </svg>
        <PocketStrip
          v-for="voice in measured.pocket.voices"
          :key="voice.voice"
          :voice="voice"
          :reach="measured.pocket.reach"
        />
        <p v-if="!measured.pocket.voices.length" class="quiet">No voice has strokes enough to measure.</p>
      </section>

      <div class="halves">
        <section aria-label="Swing">
          <h3>Swing</h3>
          <p v-if="!swings.length" class="quiet">No section has pairs of strokes enough to tell.</p>
          <table v-else>
            <thead>
              <tr>
                <th scope="col">Section</th>
                <th scope="col">Eighths</th>
                <th v-if="hasSixteenths" scope="col">Sixteenths</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="item in swings" :key="item.first_bar" :title="item.words">
                <th scope="row">{{ item.label }}</th>
                <td>{{ ratio(item.eighths) }} <small>{{ between(item.eighths) }}</small></td>
                <td v-if="hasSixteenths">{{ ratio(item.sixteenths) }} <small>{{ between(item.sixteenths) }}</small></td>
              </tr>
            </tbody>
          </table>
        </section>

        <section aria-label="Pace">
          <h3>Pace</h3>
          <p>{{ measured.pace.words }}</p>
          <ol class="paces">
            <li v-for="(item, index) in paces" :key="index">
              <span>{{ item.label }}</span>
              <span class="bar"><i :style="{ width: `${20 + 80 * share(item.bpm)}%` }" /></span>
              <b>{{ item.bpm.toFixed(1) }}</b>
            </li>
          </ol>
        </section>

        <section aria-label="Dynamics">
          <h3>Dynamics</h3>
          <template v-if="measured.dynamics">
            <HatAccents v-if="measured.dynamics.hat.length > 1" :places="measured.dynamics.hat" :label="measured.dynamics.hat_words" />
            <p>{{ measured.dynamics.hat_words }}</p>
            <p>{{ measured.dynamics.ghost_words }}</p>
            <p>{{ measured.dynamics.backbeat_words }}</p>
            <p>{{ measured.dynamics.swell_words }}</p>
          </template>
          <template v-else>
            <p class="quiet">{{ measured.missing }}</p>
            <button type="button" :disabled="isListening" @click="tryAgain">
              {{ isListening ? 'Listening …' : 'Listen to it again' }}
            </button>
          </template>
        </section>

        <section aria-label="Sound of the kit">
          <h3>Sound of the kit</h3>
          <p v-for="ring in measured.sound" :key="ring.instrument">
            {{ ring.words }}
            <small>{{ ring.strokes }} strokes of the {{ INSTRUMENT_NAMES[ring.instrument] }} with nothing over them</small>
          </p>
          <p v-if="!measured.sound.length" class="quiet">
            No stroke of snare or kick rings out alone often enough to measure how dry it is.
          </p>
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
.feel {
  display: grid;
  gap: var(--gap-4);
  align-content: start;
  padding: 0.5rem var(--frame-edge) 2rem;
}
.title {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1rem;
  align-items: baseline;
}
h2 {
  margin: 0;
  font: 500 var(--size-title) var(--serif);
}
h3 {
  margin: 0;
  font: 500 1.375rem var(--serif);
}
p {
  margin: 0;
  line-height: 1.4;
}
section {
  display: grid;
  gap: var(--gap-2);
  align-content: start;
}
.lead {
  font-size: var(--size-lead);
}
.quiet,
small {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.axis {
  display: block;
  width: calc(100% - 26.5rem - 2 * var(--gap-4));
  margin-left: calc(6.5rem + var(--gap-4));
}
.axis text {
  fill: var(--ink-soft);
  font-size: 0.6875rem;
  text-anchor: middle;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: baseline;
  margin-left: auto;
}
button {
  justify-self: start;
  padding: 0.2rem 0.75rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  cursor: pointer;
}
button:hover:not(:disabled),
button[aria-pressed='true'] {
  border-color: var(--accent);
}
button[aria-pressed='true'] {
  color: var(--accent);
  font-weight: 700;
}
.halves {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 28rem), 1fr));
  gap: var(--gap-6) var(--gap-8);
  padding-top: var(--gap-4);
  border-top: 1px solid var(--line);
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 0.2rem 1rem 0.2rem 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
  text-align: left;
  white-space: nowrap;
}
thead th {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.paces {
  display: grid;
  gap: var(--gap-1);
  margin: 0;
  padding: 0;
  list-style: none;
}
.paces li {
  display: grid;
  grid-template-columns: 8rem 1fr 3.5rem;
  gap: var(--gap-3);
  align-items: center;
}
.bar {
  height: 6px;
  border-radius: 3px;
  background: var(--paper-sunk);
}
.bar i {
  display: block;
  height: 100%;
  border-radius: 3px;
  background: var(--line-strong);
}
b {
  text-align: right;
}
@media (max-width: 800px) {
  .axis {
    display: none;
  }
}
</style>
