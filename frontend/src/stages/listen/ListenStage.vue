<script setup lang="ts">
/** Listen: what was found about tempo, metre and feel, why, and every correction one gesture away. */
import { computed } from 'vue'
import type { BeatNotation } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import FoldedPart from '@/base/FoldedPart.vue'
import type { Finding } from '@/score/useScore'
import { clock } from '@/shelf/words'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import BeatPlaces from './BeatPlaces.vue'
import SourceList from './SourceList.vue'
import TempoCurve from './TempoCurve.vue'
import TapPanel from './TapPanel.vue'

const { part, player, taps, previews, isListening, later, takeReading, tryAgain } = useOpenSong()
const score = useOpenScore()
const busy = part.isChanging

const listening = computed(() => score.value.listening)
const taken = computed(() => listening.value.readings[0])
const others = computed(() => listening.value.readings.slice(1))
const firstBar = computed(() => score.value.bars.find((bar) => bar.number === 1) ?? score.value.bars[0])

const findings = computed(() => {
  const { tempo, feel } = listening.value
  const start = firstBar.value
  return [
    { id: 'tempo' as Finding, name: 'Tempo', value: `${tempo.median.toFixed(1)} bpm`, why: tempo.words },
    {
      id: 'meter' as Finding,
      name: 'Metre',
      value: score.value.meter.join('/'),
      why: taken.value?.evidence[0] ?? 'as you tapped it',
    },
    {
      id: 'first beat' as Finding,
      name: 'First beat of bar 1',
      value: start ? `${clock(start.start)}.${String(Math.round((start.start % 1) * 100)).padStart(2, '0')}` : '–',
      why: score.value.bars[0]?.number === 0 ? 'after a pick-up' : 'no pick-up before it',
    },
    { id: 'feel' as Finding, name: 'Feel', value: feel.half_time ? 'half-time' : feel.subdivision, why: feel.words },
  ]
})
/** Beats that fall in three, as one writes them; a matter of style, and of one's readers. */
const NOTATIONS: { value: BeatNotation; label: string }[] = [
  { value: 'compound', label: 'compound time (12/8)' },
  { value: 'triplets', label: 'triplets (4/4)' },
  { value: 'swung', label: 'swung eighths (4/4)' },
]
const notation = computed<BeatNotation>({
  get: () => listening.value.beat_notation ?? 'triplets',
  set: (value) => void part.writeBeats(value),
})
/** The line of figures is for who wants it: it is folded. */
const FIGURES = 'In figures: '
const wordsOf = (evidence: readonly string[]) => evidence.filter((text) => !text.startsWith(FIGURES))
const figuresOf = (evidence: readonly string[]) =>
  evidence.find((text) => text.startsWith(FIGURES))?.slice(FIGURES.length) ?? ''
const isSettled = (id: Finding) => listening.value.confirmed.includes(id)
const ownFeel = computed(() =>
  listening.value.feel.sections.filter((section) => section.words !== listening.value.feel.words),
)
</script>

<template>
  <main class="body listen">
    <section class="found" aria-labelledby="found">
      <h2 id="found">What we hear</h2>
      <div class="acts">
        <button type="button" class="act" :aria-expanded="taps.isOpen.value" @click="taps.isOpen.value = !taps.isOpen.value">
          Tap along <kbd>T</kbd>
        </button>
        <button
          v-tooltip.bottom="'Count every bar from one beat later'"
          type="button"
          class="act"
          :disabled="busy"
          @click="later"
        >
          One beat later
        </button>
        <button
          v-tooltip.bottom="'Hear the recording anew: what you decided stays, and Undo takes the rest back'"
          type="button"
          class="act"
          :disabled="busy || isListening"
          data-test="listen-again"
          @click="tryAgain"
        >
          {{ isListening ? 'Listening …' : 'Listen again' }}
        </button>
      </div>
      <TapPanel v-if="taps.isOpen.value" />
      <div v-for="item in findings" :key="item.id" class="finding">
        <p class="label">{{ item.name }}</p>
        <p class="value">
          <strong>{{ item.value }}</strong>
          <button
            type="button"
            class="act settle"
            :class="{ settled: isSettled(item.id) }"
            :aria-pressed="isSettled(item.id)"
            :disabled="busy"
            :data-test="`confirm-${item.id.replace(' ', '-')}`"
            @click="part.confirm(item.id, !isSettled(item.id))"
          >
            {{ isSettled(item.id) ? '✓ confirmed' : 'Confirm' }}
          </button>
        </p>
        <p class="why">{{ item.why }}</p>
        <div v-if="item.id === 'feel' && listening.beat_notation" class="notation">
          <span class="label">Written in</span>
          <ChoiceField v-model="notation" :options="NOTATIONS" label="Written in" :disabled="busy" />
        </div>
      </div>
    </section>

    <section class="pictures">
      <header><h3>Tempo through the song</h3><span class="quiet">{{ score.bars.length }} bars</span></header>
      <TempoCurve :score="score" :position="player.position.value" @seek="player.seek" />
      <header>
        <h3>Placement within the beat</h3>
        <span class="quiet">all beats overlaid</span>
      </header>
      <BeatPlaces :score="score" />
      <p class="sentence">{{ listening.feel.words }}</p>
      <FoldedPart v-if="ownFeel.length" heading="By section">
        <p v-for="section in ownFeel" :key="section.label"><strong>{{ section.label }}</strong> {{ section.words }}</p>
      </FoldedPart>
    </section>

    <section class="readings" aria-labelledby="readings">
      <h3 id="readings">Other ways to count</h3>
      <article v-if="taken" class="reading taken">
        <p><strong>{{ taken.words }}</strong> <span class="mark">taken</span></p>
        <ul>
          <li v-for="text in wordsOf(taken.evidence)" :key="text">{{ text }}</li>
        </ul>
        <FoldedPart v-if="figuresOf(taken.evidence)" heading="Figures">
          <p class="quiet">{{ figuresOf(taken.evidence) }}</p>
        </FoldedPart>
      </article>
      <button
        v-for="reading in others"
        :key="reading.key"
        type="button"
        class="reading"
        :disabled="busy"
        :data-test="`reading-${reading.key}`"
        @pointerenter="previews.prepare(reading.key)"
        @focus="previews.prepare(reading.key)"
        @click="takeReading(reading.key)"
      >
        <strong>{{ reading.words }}</strong>
        <span>{{ reading.evidence[0] }}</span>
      </button>
      <p v-if="others.length" class="quiet">The same strokes, written on other lines. Undo brings this one back.</p>
      <SourceList />
    </section>
  </main>
</template>

<style scoped>
.listen {
  display: grid;
  grid-template-columns: 16rem minmax(0, 1fr) 17rem;
  gap: 2rem;
  padding: 0.75rem var(--frame-edge) 2rem;
}
h2 {
  margin: 0 0 0.5rem;
  font: 500 var(--size-title) var(--serif);
}
h3 {
  margin: 0;
  font: 700 1rem var(--sans);
}
p {
  margin: 0;
}
.finding {
  padding: 0.3rem 0;
}
.label,
.why {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.notation {
  display: flex;
  gap: 0.5rem;
  align-items: center;
  margin-top: 0.35rem;
}
.value {
  display: flex;
  gap: 0.75rem;
  justify-content: space-between;
  align-items: center;
}
.value strong {
  font-size: var(--size-lead);
}
.settle {
  padding: 0.1rem 0.7rem;
  border-color: var(--accent);
  color: var(--accent);
  font-size: var(--size-small);
}
.settle.settled {
  border-color: transparent;
  color: var(--ink-soft);
}
.reading:hover {
  border-color: var(--accent);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  margin: 0.25rem 0 0.5rem;
}
.pictures header {
  display: flex;
  justify-content: space-between;
  margin: 0.4rem 0 0.5rem;
}
.sentence {
  margin-top: 0.5rem;
  font-size: var(--size-lead);
}
.readings {
  display: grid;
  gap: 0.6rem;
  align-content: start;
}
.reading {
  display: grid;
  gap: 0.2rem;
  padding: 0.6rem 0.8rem;
  border: 1px solid var(--line);
  border-radius: var(--round);
  background: none;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
}
.reading span {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.reading.taken {
  border-color: var(--accent);
  background: var(--paper-raised);
  cursor: default;
}
.reading .mark {
  float: right;
  color: var(--accent);
  font-size: var(--size-small);
}
ul {
  margin: 0;
  padding-left: 1.1rem;
  color: var(--ink-soft);
  font-size: var(--size-small);
}
button:disabled {
  cursor: progress;
  opacity: 0.6;
}
@media (max-width: 1000px) {
  .listen {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
