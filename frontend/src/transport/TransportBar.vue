<script setup lang="ts">
/** The transport, always in sight: play, loop, speed, what one hears, click, count-in, saved or not. */
import Message from 'primevue/message'
import Slider from 'primevue/slider'
import { computed } from 'vue'
import ChoiceField from '@/base/ChoiceField.vue'
import { barsWords } from '@/score/place'
import { clock } from '@/shelf/words'
import { useOpenSong } from '@/song/openSong'
import HearingChoice from './HearingChoice.vue'
import LimbButtons from './LimbButtons.vue'
import { isFolded } from './phoneBar'
import { type ClickChoice, FASTEST, SLOWEST } from './usePlayer'

const { player, part, showKeys, mayEdit } = useOpenSong()
const settings = player.settings

const CLICKS = (['off', 'quarters', 'eighths', 'sixteenths', 'triplets'] as ClickChoice[]).map((value) => ({
  value,
  label: value,
}))
const COUNT_INS = [
  { value: false, label: 'none' },
  { value: true, label: '1 bar' },
]
/** The tempo at which one hears the bar that sounds. */
const bpm = computed(() => {
  const bar = player.currentBar.value
  const own = bar ? (60 * bar.beats.length) / (bar.end - bar.start) : (part.score.value?.tempo_bpm ?? 0)
  return Math.round((own * settings.value.speed) / 100)
})
const playsKit = computed(() => ['kit', 'sides', 'turns'].includes(settings.value.hearing))
const loopWords = computed(() => {
  const loop = settings.value.loop
  if (!loop) return 'off'
  const bars = barsWords(loop.first, loop.last)
  return loop.from === undefined ? bars : `in ${bars}`
})
const savedWords = computed(() => {
  if (part.saveState.value === 'saved') return 'Every edit saved'
  if (part.saveState.value === 'saving') return 'Saving …'
  if (part.saveState.value === 'signed-out') return `${part.waiting.value} kept here until you sign in again`
  return `${part.waiting.value} ${part.waiting.value === 1 ? 'edit' : 'edits'} kept here until Orchesis answers`
})
/** The ear hears steps of loudness, not of pressure: the root spreads soft sounds out. */
const meter = computed(() => Math.min(1, Math.sqrt(player.level.value) * 1.8))
</script>

<template>
  <footer class="transport" :class="{ folded: isFolded }" aria-label="Transport">
    <button
      type="button"
      class="play"
      :aria-label="player.isPlaying.value ? 'Pause' : 'Play'"
      :disabled="player.isLoading.value"
      data-test="play"
      @click="player.toggle()"
    >
      <svg viewBox="0 0 24 24" width="26" height="26" aria-hidden="true">
        <path v-if="player.isPlaying.value" d="M6 4h4v16H6zM14 4h4v16h-4z" />
        <path v-else d="M7 4l14 8-14 8z" />
      </svg>
    </button>
    <div class="part place">
      <span class="label">{{ player.isLoading.value ? 'Loading' : 'Time' }}</span>
      <output class="time" data-test="time" :data-seconds="player.position.value.toFixed(3)">{{
        clock(player.position.value)
      }}</output>
      <meter
        class="level"
        min="0"
        max="1"
        :value="meter"
        aria-label="Loudness now"
        data-test="level"
        :data-level="player.level.value.toFixed(4)"
      />
    </div>
    <div class="part">
      <span class="label">Loop</span>
      <span class="value">
        {{ loopWords }}
        <button v-if="settings.loop" type="button" class="end" aria-label="End the loop" @click="player.setLoop(null)">
          end
        </button>
      </span>
    </div>
    <div class="part speed">
      <span class="label" id="speed-label">Speed</span>
      <span class="value">
        <output class="percent">{{ settings.speed }} %<span v-if="bpm" class="bpm"> · {{ bpm }} bpm</span></output>
        <Slider v-model="settings.speed" :min="SLOWEST" :max="FASTEST" :step="5" aria-labelledby="speed-label" />
      </span>
    </div>
    <button
      type="button"
      class="more"
      :aria-expanded="!isFolded"
      :aria-label="isFolded ? 'More of the player' : 'Less of the player'"
      data-test="more"
      @click="isFolded = !isFolded"
    >
      <span aria-hidden="true">{{ isFolded ? '▴' : '▾' }}</span>
    </button>
    <HearingChoice />
    <LimbButtons v-if="playsKit" class="limbs" />
    <div class="part side">
      <span class="label" aria-hidden="true">Click</span>
      <ChoiceField v-model="settings.click" class="value" label="Click" :options="CLICKS" />
    </div>
    <div class="part side">
      <span class="label" aria-hidden="true">Count-in</span>
      <ChoiceField v-model="settings.countIn" class="value" label="Count-in" :options="COUNT_INS" />
    </div>
    <div class="part last">
      <span v-if="mayEdit" class="label saved" :class="part.saveState.value" role="status" data-test="saved">{{ savedWords }}</span>
      <button type="button" class="keys" @click="showKeys = true">Keys <kbd>?</kbd></button>
    </div>
    <Message v-if="player.problem.value" severity="error">{{ player.problem.value }}</Message>
  </footer>
</template>

<style scoped>
.transport {
  display: flex;
  gap: 1.6rem;
  align-items: center;
  min-height: var(--transport-height);
  padding: 0.5rem var(--frame-edge);
  border-top: 1px solid var(--line-strong);
  background: var(--paper-raised);
}
.play {
  display: grid;
  place-items: center;
  flex: none;
  width: 3.5rem;
  height: 3.5rem;
  border: 0;
  border-radius: 50%;
  background: var(--ink);
  cursor: pointer;
}
.play path {
  fill: var(--paper-raised);
}
.play:hover {
  background: var(--accent);
}
.play:disabled {
  background: var(--ink-faint);
  cursor: progress;
}
.play:focus-visible {
  border-radius: 50%;
}
.part {
  display: grid;
  gap: 0.1rem;
  min-width: 0;
  margin: 0;
  padding: 0;
  border: 0;
}
.place {
  width: 3.6rem;
}
.time {
  font-weight: 700;
  font-variant-numeric: tabular-nums;
}
.level {
  width: 3.4rem;
  height: 6px;
  appearance: none;
}
.level::-webkit-meter-bar {
  height: 6px;
  border: 0;
  border-radius: 3px;
  background: var(--paper-sunk);
}
.level::-webkit-meter-optimum-value {
  border-radius: 3px;
  background: var(--ink-soft);
}
.value {
  display: flex;
  align-items: center;
  gap: var(--gap-3);
  min-height: 1.9rem;
  font-weight: 700;
  white-space: nowrap;
}
.speed .value {
  width: 15rem;
}
.bpm {
  font-weight: 400;
}
.more {
  display: none;
}
.speed :deep(.p-slider) {
  flex: 1;
}
.percent {
  min-width: 6.6rem;
  font-variant-numeric: tabular-nums;
}
.end,
.keys {
  padding: 0.2rem 0.7rem;
  border: 1px solid transparent;
  border-radius: var(--round-full);
  background: none;
  cursor: pointer;
}
.end:hover,
.keys:hover {
  border-color: var(--line-strong);
}
.end {
  padding: 0 0.5rem;
  color: var(--accent);
  text-decoration: underline;
}
.part :deep(.p-select-label) {
  padding: 0.15rem 0.5rem;
  font-weight: 700;
}
.last {
  justify-items: end;
  margin-left: auto;
  text-align: right;
}
.saved {
  max-width: 11rem;
}
.saved.kept {
  color: var(--accent);
  font-weight: 700;
}
@media (max-width: 1180px) {
  .transport {
    flex-wrap: wrap;
    gap: 0.6rem 1.2rem;
  }
}
@media (max-width: 700px) {
  .transport {
    display: grid;
    grid-template-columns: auto auto minmax(0, 1fr) auto;
    gap: 0.3rem 0.9rem;
    padding: 0.4rem 0.75rem;
  }
  .play {
    width: 3rem;
    height: 3rem;
  }
  .speed .label,
  .hearing .label,
  .last {
    display: none;
  }
  .more {
    display: block;
    min-width: 2.75rem;
    min-height: 2.75rem;
    border: 1px solid var(--line-strong);
    border-radius: 50%;
    background: none;
    cursor: pointer;
  }
  .folded {
    min-height: 4rem;
    padding-block: 0.25rem;
  }
  .folded .speed :deep(.p-slider),
  .folded .side,
  .folded .limbs,
  .folded > :deep(.hearing) {
    display: none;
  }
  .speed .value {
    width: auto;
  }
  .part:nth-child(3) {
    display: none;
  }
  .transport > :deep(.hearing) {
    grid-column: 1 / -1;
  }
  .side {
    display: flex;
    gap: 0.5rem;
    align-items: center;
  }
  .side:nth-last-of-type(3) {
    grid-column: 1 / 3;
  }
  .side:nth-last-of-type(2) {
    grid-column: 3 / -1;
  }
}
@media (min-width: 701px) and (max-height: 500px) {
  .transport {
    flex-wrap: nowrap;
    gap: 0 1.2rem;
    min-height: 0;
    padding-block: 0.2rem;
  }
  .play {
    width: 2.75rem;
    height: 2.75rem;
  }
  .speed .value {
    width: 9rem;
  }
  .last {
    display: none;
  }
}
</style>
