<script setup lang="ts">
/** The big player, readable from the drum stool: one step, its lanes, the ladder, the next step by one key. */
import { useNow, useWakeLock } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'
import { LIMB_NAMES } from '@/api/vocabulary'
import { makeKey } from '@/song/keyUse'
import { useOpenSong } from '@/song/openSong'
import { useKeys } from '@/song/useKeys'
import PlayerFoot from './PlayerFoot.vue'
import PlayerTalk from './PlayerTalk.vue'
import PracticeLadder from './PracticeLadder.vue'
import PracticeLanes from './PracticeLanes.vue'
import { FEELINGS } from './feelings'
import { useControls } from './useControls'
import { usePads } from './usePads'
import { useRun } from './useRun'

const { id, song, practice, player } = useOpenSong()
const run = useRun(practice, player, id, () => song.value?.has_recording ?? false)
const pads = usePads(run, player, id)
const step = computed(() => practice.step.value!)
/** The notes of the steps before: what is new stands out. */
const known = computed(() => (practice.at.value ? practice.steps.value.slice(0, practice.at.value).flatMap((item) => item.notes) : null))
const told = computed(() => pads.comparison.value?.found.words ?? [])
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
  makeKey('n', 'N', 'call the next note', GROUP, () => void run.callNext()),
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
/** Where a kit answers the ladder moves by it: up after enough passes of which few strokes failed, down after many that did. */
watch([pads.source, step, run.rung], () => (run.isHeld.value = pads.source.value !== 'none'), { immediate: true })
watch(
  () => pads.comparison.value,
  (now) => {
    if (!now) return
    run.isHeld.value = now.found.ladder_step < 1
    if (run.sound.value.climbs && now.found.ladder_step < 0 && run.rung.value > 0) run.climb(-1, now.found.words)
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
    <PlayerTalk :run="run" :pads="pads" :controls="controls" :told="told" />
    <PlayerFoot :run="run" :minutes="minutesHere" />
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
.top {
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
@media (max-width: 900px) {
  header,
  .top {
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
  header kbd {
    display: none;
  }
}
/* A telephone on its side: the lanes have what height there is, and what is tapped stays below them. */
@media (min-width: 560px) and (max-height: 500px) {
  .player {
    gap: var(--gap-1);
  }
  header {
    padding-top: var(--gap-1);
  }
  .title {
    font-size: var(--size-body);
  }
  .where {
    display: flex;
    gap: var(--gap-3);
    align-items: center;
  }
  .top {
    display: flex;
    gap: var(--gap-4);
    align-items: baseline;
  }
  h2 {
    font-size: 1.25rem;
  }
  .count {
    font-size: var(--size-body);
  }
  .middle-part {
    display: block;
    flex: none;
    min-height: 0;
  }
  .ladder {
    display: none;
  }
}
</style>
