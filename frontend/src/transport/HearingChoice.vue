<script setup lang="ts">
/** What one hears: a version of the record, the chart kit, both, or another recording of the song. */
import { computed } from 'vue'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import ChoiceField from '@/base/ChoiceField.vue'
import type { Hearing } from '@/engine/player'
import { useOpenScore, useOpenSong } from '@/song/openSong'

const { player, sources, drums, guest } = useOpenSong()
const settings = player.settings
const score = useOpenScore()

const ALL: { value: Hearing; label: string; hint: string }[] = [
  { value: 'record', label: 'Record', hint: 'The recording' },
  { value: 'drums-forward', label: 'Drums forward', hint: 'The drums of the recording, the rest far behind' },
  { value: 'drums-down', label: 'Drums down', hint: 'The recording with its drums far behind: play your own' },
  { value: 'bass-forward', label: 'Bass forward', hint: 'The bass line to the front, to sing along' },
  { value: 'kit', label: 'Chart kit', hint: 'The chart, played by a drum kit' },
  { value: 'sides', label: 'Left / right', hint: 'The recording on the left, the chart on the right' },
  { value: 'turns', label: 'In turn', hint: 'A pass of the loop each: the recording, then the chart' },
  { value: 'only', label: 'Only this drum', hint: 'The band and the moments of one drum of the recording' },
]
const ALWAYS: readonly Hearing[] = ['record', 'kit', 'sides', 'turns']
/** A version of the record is offered when the worker has made it. */
const hearings = computed(() => [
  ...ALL.filter(({ value }) => {
    // A link without the record: there is the kit.
    if (guest && !guest.with_audio) return value === 'kit'
    if (ALWAYS.includes(value)) return true
    return (score.value.parts as readonly string[]).includes(value === 'only' ? 'drums-forward' : value)
  }),
  ...sources.sources.value
    .filter((source) => source.state === 'ready')
    .map((source) => ({ value: `source:${source.id}` as Hearing, label: source.title, hint: 'At the same bar' })),
])
const voices = computed(() => drums.value.map((drum) => ({ value: drum, label: INSTRUMENT_NAMES[drum] })))
</script>

<template>
  <div class="part hearing" role="group" aria-label="You hear">
    <span class="label" aria-hidden="true">You hear</span>
    <span class="choices">
      <ChoiceField
        v-model="settings.hearing"
        class="value"
        label="What you hear"
        :options="hearings"
        data-test="hearing"
        :data-hearing="settings.hearing"
      />
      <span v-if="score.parts_coming" class="coming label" role="status">drums apart: being made</span>
      <ChoiceField v-if="settings.hearing === 'only'" v-model="settings.only" class="value" label="Which drum" :options="voices" />
    </span>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 0.1rem;
  min-width: 0;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1);
}
.coming {
  align-self: center;
  max-width: 8rem;
}
@media (max-width: 700px) {
  .label {
    display: none;
  }
}
</style>
