<script setup lang="ts">
/** The big player, readable from the drum stool: one step, its lanes, the ladder, the next step by one key. */
import { useNow, useWakeLock } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'
import { LIMB_NAMES } from '@/api/vocabulary'
import type { Feeling } from '@/api/client'
import { makeKey } from '@/song/keyUse'
import { useOpenSong } from '@/song/openSong'
import { useKeys } from '@/song/useKeys'
import KitPart from './KitPart.vue'
import PracticeLadder from './PracticeLadder.vue'
import PracticeLanes from './PracticeLanes.vue'
import SoundPart from './SoundPart.vue'
import { useControls } from './useControls'
import { usePads } from './usePads'
import { useRun } from './useRun'

const { id, song, practice, player } = useOpenSong()
const run = useRun(practice, player, id, () => song.value?.has_recording ?? false)
const pads = usePads(run, player, id)
const step = computed(() => practice.step.value!)
const panel = ref<'' | 'sound' | 'kit'>('')
/** The notes of the steps before: what is new stands out. */
const known = computed(() => (practice.at.value ? practice.steps.value.slice(0, practice.at.value).flatMap((item) => item.notes) : null))
const told = computed(() => pads.comparison.value?.found.words ?? [])
const FEELINGS: { value: Feeling; name: string; key: string }[] = [
  { value: 'easy', name: 'Easy', key: '7' },
  { value: 'work', name: 'Work', key: '8' },
  { value: 'tense', name: 'Tense', key: '9' },
]

function leave(): void {
  run.leave(told.value)
}
const acts = {
  play: () => player.toggle(),
  next: () => run.next(),
  faster: () => run.faster(),
  slower: () => run.slower(),
  zoom: () => run.zoom(),
}
const controls = useControls(pads, acts)
const GROUP = 'Practice'
const keys = computed(() => [
  makeKey(' ', 'Space', 'play or pause', GROUP, acts.play),
  makeKey('Enter', 'Enter', 'next step', GROUP, acts.next),
  makeKey('Backspace', 'Backspace', 'step before', GROUP, run.before),
  makeKey('ArrowRight', '→', 'faster', GROUP, acts.faster),
  makeKey('ArrowLeft', '←', 'slower', GROUP, acts.slower),
  makeKey('z', 'Z', 'two beats only', GROUP, acts.zoom),
  makeKey('v', 'V', 'the voice', GROUP, () => (run.sound.value.voice = !run.sound.value.voice)),
  makeKey('m', 'M', 'another variation', GROUP, () => void run.vary()),
  ...run.limbs.value.map((limb, index) => makeKey(String(index + 1), '', LIMB_NAMES[limb], GROUP, () => run.toggleLimb(limb))),
  ...FEELINGS.map((item) => makeKey(item.key, '', item.name, GROUP, () => (run.feeling.value = item.value))),
  makeKey('Escape', 'Esc', 'leave', GROUP, leave),
])
useKeys(() => keys.value)

// The screen of a telephone on a stand stays on while one plays.
const { isSupported, request, release } = useWakeLock()
watch(player.isPlaying, (now) => {
  if (isSupported.value) void (now ? request('screen') : release())
})

/** Minutes at the kit since the player was opened, for the break. */
const opened = Date.now()
const clock = useNow({ interval: 10_000 })
const minutesHere = computed(() => (clock.value.getTime() - opened) / 60_000)
const body = computed(() => practice.overview.value?.body)
const earWords = computed(() => {
  const minutes = Math.round(minutesHere.value)
  const level = Math.round(run.level.value)
  const left = (body.value?.break_after ?? 25) - minutesHere.value
  const rest = left > 0 ? `rest in ${Math.max(1, Math.round(left))} min` : 'rest your ears and hands now'
  return `${minutes} min at about ${level} dB(A), estimated: ${rest}. Pain or numbness: stop.`
})
/** A kit that answered without a slip: the ladder moves by it. */
watch(
  () => pads.comparison.value,
  (now) => {
    if (!now || !run.sound.value.climbs) return
    const slips = now.found.missed.length + now.found.extra.length
    if (slips >= 2 && run.rung.value > 0 && slips > now.wanted.length / 8) run.climb(-1, now.found.words)
  },
)
const root = ref<HTMLElement>()
onMounted(() => root.value?.focus())
</script>

<template>
  <div ref="root" class="stage-theme player" role="region" aria-label="Practice player" tabindex="-1">
    <header>
      <p><strong class="title">{{ song?.title }}</strong> <span class="quiet">{{ practice.plan.value?.name }}</span></p>
      <p class="where">
        <b>Step {{ practice.at.value + 1 }} of {{ practice.steps.value.length }}</b>
        <span class="track" aria-hidden="true">
          <i v-for="(item, index) in practice.steps.value" :key="item.key" :class="{ done: index < practice.at.value, now: index === practice.at.value }" />
        </span>
      </p>
      <button type="button" class="plain" data-test="leave" @click="leave">Leave <kbd>Esc</kbd></button>
    </header>
    <div class="middle-part">
    <section class="top">
      <h2>{{ step.title }}</h2>
      <p class="quiet count">{{ step.count }}</p>
    </section>
    <PracticeLadder :step="step" :rung="run.rung.value" class="ladder" />
    <PracticeLanes
      v-if="practice.plan.value"
      class="sheet"
      :plan="practice.plan.value"
      :notes="run.notes.value"
      :known="known"
      :start="run.range.value.start"
      :end="run.range.value.end"
      :muted="run.muted.value"
      :share="run.share.value"
      :compared="pads.comparison.value"
      @limb="run.toggleLimb"
    />
    </div>
    <section class="about">
      <p class="chips">
        <span class="label">The kit plays</span>
        <button
          v-for="(limb, index) in run.limbs.value"
          :key="limb"
          type="button"
          class="act"
          :aria-pressed="!run.muted.value.has(limb)"
          :data-limb="limb"
          @click="run.toggleLimb(limb)"
        >
          {{ LIMB_NAMES[limb] }} <kbd>{{ index + 1 }}</kbd>
        </button>
        <button v-if="practice.plan.value?.variation.length" type="button" class="act" :aria-pressed="run.varied.value !== null" @click="run.vary()">
          Another variation <kbd>M</kbd>
        </button>
        <button v-if="run.varied.value" type="button" class="act" @click="run.asItIs()">As it is</button>
        <button type="button" class="act" :aria-expanded="panel === 'sound'" data-test="sound" @click="panel = panel === 'sound' ? '' : 'sound'">What sounds</button>
        <button type="button" class="act" :aria-expanded="panel === 'kit'" data-test="kit" @click="panel = panel === 'kit' ? '' : 'kit'">Kit and pedals</button>
      </p>
      <SoundPart v-if="panel === 'sound'" :run="run" />
      <KitPart v-if="panel === 'kit'" :pads="pads" :controls="controls" />
      <p v-if="run.varied.value" class="told" role="status">
        {{ run.called.value.length ? `Now with ${run.called.value.join(', ')}.` : 'Now the core alone.' }}
      </p>
      <p v-if="told.length" class="told" role="status" data-test="told">{{ told.join(' ') }}</p>
      <p v-else-if="step.trap"><span class="label">Watch for</span> {{ step.trap }}</p>
    </section>
    <footer>
      <div class="tempo">
        <p><span class="bpm" data-test="bpm">{{ run.bpm.value }}</span> bpm</p>
        <p class="quiet">{{ Math.round(100 * run.share.value) }} % of the record</p>
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
  </div>
</template>

<style scoped>
.player {
  position: fixed;
  inset: 0;
  z-index: 20;
  display: flex;
  flex-direction: column;
  gap: var(--gap-3);
  overflow-y: auto;
  background: var(--paper);
  color: var(--ink);
  outline: none;
}
header,
.top,
.about {
  padding: 0 1.75rem;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding-top: var(--gap-3);
}
.title {
  font-family: var(--serif);
  font-size: 1.375rem;
  font-weight: 500;
}
.where {
  display: grid;
  justify-items: center;
  color: var(--accent);
}
.track {
  display: flex;
  gap: 6px;
}
.track i {
  width: 22px;
  height: 6px;
  border-radius: 3px;
  background: var(--line);
}
.track .done {
  background: var(--accent);
}
.track .now {
  background: var(--ink);
}
.plain {
  border: 0;
  background: none;
  cursor: pointer;
}
.middle-part {
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr) 11rem;
  flex: 1 1 auto;
  min-height: 18rem;
}
h2 {
  font-size: 2.25rem;
}
.count {
  font-size: var(--size-lead);
}
.ladder {
  grid-row: span 2;
  padding-right: 1.75rem;
}
.sheet {
  align-self: center;
  margin: 0 1.75rem;
  width: auto;
}
.about {
  display: grid;
  gap: var(--gap-2);
}
.chips,
.felt {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  align-items: center;
}
.act {
  background: var(--paper-raised);
}
.act[aria-pressed='true'],
.act[aria-expanded='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
}
.act[aria-pressed='false'] {
  color: var(--ink-soft);
}
.told {
  color: var(--accent);
  font-size: var(--size-lead);
}
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
.next kbd,
.round kbd {
  border-color: currentcolor;
  background: none;
}
.ears {
  grid-column: 1 / -1;
  color: var(--accent);
  font-size: var(--size-small);
  text-align: right;
}
@media (max-width: 900px) {
  header,
  .top,
  .about {
    padding: 0 var(--gap-3);
  }
  .sheet {
    margin: 0 var(--gap-3);
  }
  header {
    padding-top: var(--gap-2);
  }
  h2 {
    font-size: 1.5rem;
  }
  .middle-part {
    display: block;
    min-height: 0;
  }
  .ladder {
    display: none;
  }
  .track i {
    width: 10px;
  }
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
  header kbd,
  .next kbd,
  .felt kbd,
  .big kbd,
  .chips kbd {
    display: none;
  }
}
</style>
