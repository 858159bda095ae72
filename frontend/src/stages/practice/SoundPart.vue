<script setup lang="ts">
/** What sounds while one plays: click, voice, kit, record, count-in. */
import Checkbox from 'primevue/checkbox'
import { computed } from 'vue'
import ChoiceField from '@/base/ChoiceField.vue'
import { useOpenSong } from '@/song/openSong'
import type { Detail, PracticeRun } from './useRun'
import { LIMB_NAMES } from '@/api/vocabulary'

const props = defineProps<{ run: PracticeRun }>()
const { song, part } = useOpenSong()
const { sound } = props.run

const CLICKS = ['quarters', 'eighths', 'sixteenths', 'triplets', 'swung'] as const
const clicks = computed(() => new Set(sound.value.click.split('+').filter(Boolean)))
function toggle(name: string): void {
  const next = new Set(clicks.value)
  if (!next.delete(name)) next.add(name)
  sound.value.click = CLICKS.filter((item) => next.has(item)).join('+')
}
const has = (name: string) => part.score.value?.parts.includes(name as never)
const records = computed(() => [
  { value: 'off' as const, label: 'no record' },
  ...(song.value?.has_recording
    ? [
        { value: 'record' as const, label: 'the record' },
        ...(has('drums-down') ? [{ value: 'drums-down' as const, label: 'the record, its drums down' }] : []),
        ...(has('bass-forward') ? [{ value: 'bass-forward' as const, label: 'the bass forward, to sing along' }] : []),
      ]
    : []),
])
const COUNTS = [
  { value: 0 as const, label: 'none' },
  { value: 1 as const, label: '1 bar' },
  { value: 2 as const, label: '2 bars' },
]
const PROTECTION = [
  { value: 0, label: 'open ears' },
  { value: 15, label: 'plugs, 15 dB' },
  { value: 25, label: 'muffs or plugs, 25 dB' },
]
const details = computed<{ value: Detail; label: string }[]>(() => [
  { value: 'none', label: 'nothing' },
  ...(props.run.notes.value.some((note) => note.ghost) ? [{ value: 'ghosts' as const, label: 'the ghosts' }] : []),
  ...(props.run.notes.value.some((note) => note.accent) ? [{ value: 'accents' as const, label: 'the accents' }] : []),
  ...props.run.limbs.value.map((limb) => ({ value: limb, label: `the ${LIMB_NAMES[limb].toLowerCase()}` })),
])
</script>

<template>
  <div class="sound">
    <fieldset>
      <legend class="label">Click</legend>
      <button v-for="name in CLICKS" :key="name" type="button" class="act" :aria-pressed="clicks.has(name)" @click="toggle(name)">
        {{ name }}
      </button>
      <label><Checkbox v-model="sound.isTested" binary /> every fourth bar silent</label>
    </fieldset>
    <fieldset>
      <legend class="label">Beside it</legend>
      <label><Checkbox v-model="sound.kit" binary /> the kit plays the step</label>
      <label><Checkbox v-model="sound.voice" binary /> a voice counts</label>
      <ChoiceField v-model="sound.record" :options="records" label="Record" />
    </fieldset>
    <fieldset>
      <legend class="label">In every other pass only</legend>
      <ChoiceField v-model="run.detail.value" :options="details" label="In every other pass only" />
      <span class="label">Count-in</span>
      <ChoiceField v-model="sound.countIn" :options="COUNTS" label="Count-in" />
    </fieldset>
    <fieldset>
      <legend class="label">Rules</legend>
      <label><Checkbox v-model="sound.climbs" binary /> up a rung after enough passes</label>
      <ChoiceField v-model="sound.protection" :options="PROTECTION" label="Ears" />
    </fieldset>
  </div>
</template>

<style scoped>
.sound {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2) var(--gap-6);
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  align-items: center;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  float: left;
  margin-right: var(--gap-2);
}
label {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
}
[aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
}
</style>
