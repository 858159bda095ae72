<script setup lang="ts">
/** Tapping along, or typing a tempo: a grid by hand, where the found one is wrong or none was found. */
import InputNumber from 'primevue/inputnumber'
import { computed, ref } from 'vue'
import ChoiceField from '@/base/ChoiceField.vue'
import { useOpenSong } from '@/song/openSong'
import { FEWEST_TAPS } from './useTaps'

const { taps, part, player } = useOpenSong()
/** The tempo to begin with; 0 where none was found, and then none is typed: there is nothing to lay it through. */
const tempo = computed(() => part.score.value?.tempo_bpm ?? 0)
const busy = part.isChanging
const SLOWEST_BPM = 30
const FASTEST_BPM = 300
const typed = ref(Math.round(tempo.value * 10) / 10)
const BEATS = [2, 3, 4, 5, 6, 7].map((count) => ({ value: count, label: String(count) }))

const beatsABar = taps.beatsABar

function tapByKey(event: KeyboardEvent): void {
  if (!event.repeat) taps.tap(event.timeStamp)
}
</script>

<template>
  <div class="tapping" data-test="tapping">
    <p>
      Play the record and press <kbd>T</kbd> on every beat, from a one: two bars are enough. The rest of the song is
      followed from there; a grid that goes on as you tapped stays as it is. No note is lost.
    </p>
    <p class="row">
      <button type="button" class="act pad" data-test="tap" @pointerdown="taps.tap($event.timeStamp)" @keydown.enter.space.prevent="tapByKey">Tap</button>
      <span aria-live="polite">
        <template v-if="!player.isPlaying.value && taps.taps.value.length === 1">Nothing plays yet: press <kbd>Space</kbd></template>
        <template v-else>{{ taps.taps.value.length }} {{ taps.taps.value.length === 1 ? 'tap' : 'taps' }}</template>
        <template v-if="taps.tempo.value">, {{ taps.tempo.value.toFixed(1) }} bpm</template>
      </span>
    </p>
    <label>
      Beats a bar
      <ChoiceField v-model="beatsABar" label="Beats a bar" :options="BEATS" />
    </label>
    <p class="row">
      <button
        type="button"
        class="act"
        :disabled="busy || taps.taps.value.length < FEWEST_TAPS"
        data-test="lay"
        @click="taps.lay()"
      >
        Lay the grid
      </button>
      <button type="button" class="act" @click="taps.clear()">Begin anew</button>
    </p>
    <form v-if="tempo > 0" class="row" @submit.prevent="part.layTempo(typed, beatsABar)">
      <label>
        Or type a tempo
        <InputNumber
          v-model="typed"
          :min="SLOWEST_BPM"
          :max="FASTEST_BPM"
          :max-fraction-digits="1"
          locale="en"
          size="small"
          :pt="{ pcInputText: { root: { 'data-test': 'typed' } } }"
        />
      </label>
      <button type="submit" class="act" :disabled="busy" data-test="lay-tempo">Lay it near {{ typed }} bpm</button>
    </form>
  </div>
</template>

<style scoped>
.tapping {
  display: grid;
  gap: 0.6rem;
  margin-top: 0.75rem;
  padding: 0.75rem;
  border: 1px solid var(--line-strong);
  border-radius: var(--round);
  background: var(--paper-raised);
}
p {
  margin: 0;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2) var(--gap-4);
  align-items: center;
}
.pad {
  min-height: 3rem;
  padding: 0.6rem 2rem;
  touch-action: manipulation;
  user-select: none;
  background: var(--ink);
  color: var(--paper-raised);
  font-weight: 700;
}
label {
  display: inline-flex;
  gap: var(--gap-2);
  align-items: center;
}
.row :deep(.p-inputnumber-input) {
  width: 5.5rem;
}
</style>
