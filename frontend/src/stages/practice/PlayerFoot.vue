<script setup lang="ts">
/** Under the lanes: tempo, play, passes, how it felt, the next step; what ears have had. */
import { computed } from 'vue'
import { useOpenSong } from '@/song/openSong'
import { FEELINGS } from './feelings'
import type { PracticeRun } from './useRun'

const props = defineProps<{ run: PracticeRun; /** At the kit since the player was opened. */ minutes: number }>()
const { practice, player } = useOpenSong()
const step = computed(() => practice.step.value!)
const asked = computed(() => step.value.rungs.find((item) => item.is_asked))
const body = computed(() => practice.overview.value?.body)
const earWords = computed(() => {
  const left = (body.value?.break_after ?? 25) - props.minutes
  const rest = left > 0 ? `rest in ${Math.max(1, Math.round(left))} min` : 'rest your ears and hands now'
  const level = Math.round(props.run.level.value)
  return `${Math.round(props.minutes)} min at about ${level} dB(A), estimated: ${rest}. Pain or numbness: stop.`
})
</script>

<template>
  <footer>
    <div class="tempo">
      <p><span class="bpm" data-test="bpm">{{ run.bpm.value }}</span> bpm</p>
      <p class="quiet">{{ Math.round(100 * run.share.value) }} % of the record</p>
      <p v-if="asked" class="quiet" data-test="asked">asked for: {{ asked.bpm }}</p>
    </div>
    <button type="button" class="round" :aria-label="player.isPlaying.value ? 'Pause' : 'Play'" :disabled="player.isLoading.value" data-test="practice-play" @click="player.toggle()">
      <svg viewBox="0 0 24 24" width="40" height="40" aria-hidden="true">
        <path v-if="player.isPlaying.value" d="M6 4h4v16H6zM14 4h4v16h-4z" />
        <path v-else d="M7 4l14 8-14 8z" />
      </svg>
    </button>
    <div class="middle">
      <p class="passes" data-test="passes" :data-passes="run.passes.value">
        <i v-for="index in Math.min(step.loops, 16)" :key="index" :class="{ done: index <= run.passes.value }" aria-hidden="true" />
        <span>{{ run.passes.value }} of {{ step.loops }} passes</span>
      </p>
      <div class="big">
        <button type="button" @click="run.slower()">Slower <kbd>←</kbd></button>
        <button type="button" @click="run.faster()">Faster <kbd>→</kbd></button>
        <button type="button" :disabled="!step.windows.length" :aria-pressed="run.window.value !== null" data-test="zoom" @click="run.zoom()">
          {{ run.window.value === null ? 'Two beats only' : (step.windows[run.window.value + 1]?.words ?? 'All of it') }} <kbd>Z</kbd>
        </button>
      </div>
      <p class="felt" role="group" aria-label="How it felt">
        <span class="label">It felt</span>
        <button v-for="item in FEELINGS" :key="item.value" type="button" class="act" :aria-pressed="run.feeling.value === item.value" @click="run.feeling.value = item.value">
          {{ item.name }} <kbd>{{ item.key }}</kbd>
        </button>
      </p>
    </div>
    <button type="button" class="next" :disabled="practice.at.value + 1 >= practice.steps.value.length" data-test="next-step" @click="run.next()">
      Next step <kbd>Enter</kbd>
    </button>
    <p class="ears">{{ earWords }}</p>
    <p v-if="practice.waiting.value" class="ears" role="status" data-test="waiting">{{ practice.waiting.value }} kept here until Orchesis answers</p>
    <p v-if="player.problem.value" class="ears" role="alert">{{ player.problem.value }}</p>
  </footer>
</template>

<style scoped>
footer {
  display: grid;
  grid-template-columns: auto auto 1fr auto;
  gap: var(--gap-2) var(--gap-6);
  align-items: center;
  margin-top: auto;
  padding: var(--gap-3) 1.75rem;
  border-top: 1px solid var(--line);
  background: var(--paper-raised);
}
.bpm {
  font-family: var(--serif);
  font-size: 4rem;
  font-weight: 700;
  line-height: 1;
}
.round {
  display: grid;
  place-items: center;
  width: 5.5rem;
  height: 5.5rem;
  border: 0;
  border-radius: 50%;
  background: var(--ink);
  color: var(--paper);
  cursor: pointer;
}
.round path {
  fill: currentcolor;
}
.middle {
  display: grid;
  gap: var(--gap-2);
  justify-items: center;
}
.passes {
  display: flex;
  gap: 8px;
  align-items: center;
  color: var(--ink-soft);
}
.passes i {
  width: 13px;
  height: 13px;
  border: 2px solid var(--ink-faint);
  border-radius: 50%;
}
.passes .done {
  border-color: var(--accent);
  background: var(--accent);
}
.big {
  display: flex;
  gap: var(--gap-3);
}
.big button {
  min-width: 8.5rem;
  padding: 0.8rem 1rem;
  border: 1px solid var(--line-strong);
  border-radius: var(--round-full);
  background: none;
  font-size: var(--size-lead);
  cursor: pointer;
}
.big button:disabled,
.next:disabled {
  opacity: 0.5;
}
.next {
  padding: 1.5rem 3rem;
  border: 0;
  border-radius: var(--round-full);
  background: var(--accent);
  color: var(--accent-ink);
  font-size: 1.5rem;
  font-weight: 700;
  cursor: pointer;
}
.next kbd {
  border-color: currentcolor;
  background: none;
}
.felt {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  align-items: center;
}
.act {
  background: var(--paper-raised);
}
.ears {
  grid-column: 1 / -1;
  color: var(--accent);
  font-size: var(--size-small);
  text-align: right;
}
@media (max-width: 900px) {
  footer {
    grid-template-columns: auto 1fr auto;
    gap: var(--gap-2) var(--gap-3);
    padding: var(--gap-2) var(--gap-3);
  }
  .bpm {
    font-size: 2.5rem;
  }
  .round {
    width: 4.5rem;
    height: 4.5rem;
  }
  .middle {
    grid-column: 1 / -1;
    grid-row: 1;
  }
  .big button {
    min-width: 0;
    padding: 0.7rem 0.9rem;
    font-size: var(--size-body);
  }
  .next {
    padding: 1.2rem 1.4rem;
    font-size: var(--size-lead);
  }
  .next kbd,
  .felt kbd,
  .big kbd {
    display: none;
  }
}
@media (min-width: 560px) and (max-height: 500px) {
  footer {
    position: sticky;
    bottom: 0;
    grid-template-columns: auto auto 1fr auto;
    gap: 0 var(--gap-3);
    padding-block: var(--gap-1);
  }
  .tempo {
    display: flex;
    gap: var(--gap-2);
    align-items: baseline;
  }
  .bpm {
    font-size: 2rem;
  }
  .round {
    width: 3.25rem;
    height: 3.25rem;
  }
  .round svg {
    width: 26px;
  }
  .middle {
    grid-column: auto;
    grid-row: auto;
    display: flex;
    flex-wrap: wrap;
    gap: var(--gap-1) var(--gap-3);
    justify-content: center;
  }
  .passes i {
    display: none;
  }
  .big {
    gap: var(--gap-2);
  }
  .big button {
    min-width: 0;
    padding: 0.4rem 0.8rem;
    font-size: var(--size-body);
  }
  .felt .act {
    min-height: 0;
    padding-block: 0.2rem;
  }
  .next {
    padding: 0.7rem 1.2rem;
    font-size: var(--size-lead);
  }
  .next kbd,
  .felt kbd,
  .big kbd {
    display: none;
  }
}
</style>
