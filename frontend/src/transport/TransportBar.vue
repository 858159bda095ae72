<script setup lang="ts">
/** The transport, always in sight: play, loop, speed, what one hears, click, count-in, saved or not. */
import Slider from 'primevue/slider'
import { computed } from 'vue'
import type { Instrument, Source } from '@/api/client'
import type { Hearing } from '@/engine/player'
import { INSTRUMENT_NAMES, LIMB_NAMES, LIMBS } from '@/api/vocabulary'
import type { SaveState } from '@/score/useScore'
import { clock } from '@/shelf/words'
import { type ClickChoice, FASTEST, type SongPlayer, SLOWEST } from './usePlayer'

const props = defineProps<{
  player: SongPlayer
  parts: readonly string[]
  sources: readonly Source[]
  drums: readonly Instrument[]
  saveState: SaveState
  waiting: number
}>()
const emit = defineEmits<{ keys: [] }>()

const ALL_HEARINGS: { value: Hearing; label: string; title: string }[] = [
  { value: 'record', label: 'Record', title: 'The recording' },
  { value: 'drums-forward', label: 'Drums forward', title: 'The drums of the recording, the rest far behind' },
  { value: 'drums-down', label: 'Drums down', title: 'The recording with its drums far behind: play your own' },
  { value: 'bass-forward', label: 'Bass forward', title: 'The bass line to the front, to sing along' },
  { value: 'kit', label: 'Chart kit', title: 'The chart, played by a drum kit' },
  { value: 'sides', label: 'Left / right', title: 'The recording on the left, the chart on the right' },
  { value: 'turns', label: 'In turn', title: 'A pass of the loop each: the recording, then the chart' },
  { value: 'only', label: 'Only this drum', title: 'The band and the moments of one drum of the recording' },
]
/** A version of the record is offered when the worker has made it. */
const HEARINGS = computed(() => [
  ...ALL_HEARINGS.filter((item) => {
    if (['record', 'kit', 'sides', 'turns'].includes(item.value)) return true
    return props.parts.includes(item.value === 'only' ? 'drums-forward' : item.value)
  }),
  ...props.sources
    .filter((source) => source.state === 'ready')
    .map((source) => ({
      value: `source:${source.id}` as Hearing,
      label: source.title,
      title: `${source.title}, at the same bar`,
    })),
])
const CLICKS: ClickChoice[] = ['off', 'quarters', 'eighths', 'sixteenths', 'triplets']

const settings = computed(() => props.player.settings.value)
const playsKit = computed(() => ['kit', 'sides', 'turns'].includes(settings.value.hearing))
const loopWords = computed(() => {
  const loop = settings.value.loop
  if (!loop) return 'off'
  if (loop.from !== undefined) return loop.first === loop.last ? `in bar ${loop.first}` : `in bars ${loop.first}–${loop.last}`
  return loop.first === loop.last ? `bar ${loop.first}` : `bars ${loop.first}–${loop.last}`
})
const savedWords = computed(() => {
  if (props.saveState === 'saved') return 'Every edit saved'
  if (props.saveState === 'saving') return 'Saving …'
  if (props.saveState === 'signed-out') return `${props.waiting} kept here until you sign in again`
  return `${props.waiting} ${props.waiting === 1 ? 'edit' : 'edits'} kept here until Orchesis answers`
})
/** The ear hears steps of loudness, not of pressure: the root spreads soft sounds out. */
const meter = computed(() => Math.min(1, Math.sqrt(props.player.level.value) * 1.8))
</script>

<template>
  <footer class="transport" aria-label="Transport">
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
        <output class="percent">{{ settings.speed }} %</output>
        <Slider v-model="settings.speed" :min="SLOWEST" :max="FASTEST" :step="5" aria-labelledby="speed-label" />
      </span>
    </div>
    <fieldset class="part hearing">
      <legend class="label">You hear</legend>
      <span class="choices">
      <select v-model="settings.hearing" class="value" aria-label="What you hear" data-test="hearing">
        <option v-for="item in HEARINGS" :key="item.value" :value="item.value" :title="item.title">
          {{ item.label }}
        </option>
      </select>
      <select
        v-if="settings.hearing === 'only'"
        v-model="settings.only"
        class="value"
        aria-label="Which drum"
      >
        <option v-for="item in drums" :key="item" :value="item">{{ INSTRUMENT_NAMES[item] }}</option>
      </select>
      </span>
    </fieldset>
    <div v-if="playsKit" class="part limbs" role="group" aria-label="Limbs that the kit plays">
      <span class="label">Limbs</span>
      <span class="value">
        <button
          v-for="limb in LIMBS"
          :key="limb"
          type="button"
          :aria-pressed="settings.limbs[limb]"
          :aria-label="LIMB_NAMES[limb]"
          :title="`${LIMB_NAMES[limb]}: click to mute, Shift-click for it alone`"
          @click="player.toggleLimb(limb, $event.shiftKey)"
        >
          {{ limb }}
        </button>
      </span>
    </div>
    <label class="part">
      <span class="label">Click</span>
      <select v-model="settings.click" class="value">
        <option v-for="item in CLICKS" :key="item" :value="item">{{ item }}</option>
      </select>
    </label>
    <label class="part">
      <span class="label">Count-in</span>
      <select v-model="settings.countIn" class="value">
        <option :value="false">none</option>
        <option :value="true">1 bar</option>
      </select>
    </label>
    <div class="part last">
      <span class="label saved" :class="saveState" role="status" data-test="saved">{{ savedWords }}</span>
      <button type="button" class="keys" @click="emit('keys')">Keys <kbd>?</kbd></button>
    </div>
    <p v-if="player.problem.value" class="problem" role="alert">{{ player.problem.value }}</p>
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
  width: 11.5rem;
}
.speed :deep(.p-slider) {
  flex: 1;
}
.percent {
  min-width: 3.4rem;
  font-variant-numeric: tabular-nums;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1);
}
.limbs button,
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
.limbs .value {
  gap: 0;
}
.limbs button {
  padding: 0.15rem 0.35rem;
  color: var(--ink-soft);
  text-decoration: line-through;
}
.limbs button[aria-pressed='true'] {
  color: var(--ink);
  font-weight: 700;
  text-decoration: none;
}
.end {
  padding: 0 0.5rem;
  color: var(--accent);
  text-decoration: underline;
}
select {
  padding: 0.15rem 0.3rem;
  border: 1px solid var(--line-strong);
  border-radius: 6px;
  background: var(--paper-raised);
  color: var(--ink);
  font: 700 1rem var(--sans);
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
.problem {
  color: var(--accent);
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
  .speed {
    grid-column: 3 / -1;
  }
  .speed .value {
    width: auto;
  }
  .part:nth-child(3) {
    display: none;
  }
  .hearing {
    grid-column: 1 / -1;
  }
  .part:nth-child(6) {
    grid-column: 1 / 3;
  }
  .part:nth-child(7) {
    grid-column: 3 / -1;
  }
  label.part {
    display: flex;
    gap: 0.5rem;
    align-items: center;
  }
}
</style>
