<script setup lang="ts">
/** Tapping along, or typing a tempo: a grid by hand, where the found one is wrong or none was found. */
import { ref } from 'vue'
import { FEWEST_TAPS, type Taps } from './useTaps'

const props = defineProps<{
  taps: Taps
  busy: boolean
  /** The tempo to begin with; 0 where none was found, and then none is typed: there is nothing to lay it through. */
  tempo: number
}>()
const emit = defineEmits<{ tempo: [bpm: number, beatsABar: number] }>()

const typed = ref(Math.round(props.tempo * 10) / 10)
</script>

<template>
  <div class="tapping" data-test="tapping">
    <p>
      Play the record and press <kbd>T</kbd> on every beat, from a one. The grid is laid on your taps;
      no note is lost.
    </p>
    <p class="row">
      <button type="button" class="act pad" data-test="tap" @click="taps.tap()">Tap</button>
      <span aria-live="polite">
        {{ taps.taps.value.length }} taps<template v-if="taps.tempo.value">, {{ taps.tempo.value.toFixed(1) }} bpm</template>
      </span>
    </p>
    <label>
      Beats a bar
      <select v-model="taps.beatsABar.value">
        <option v-for="count in [2, 3, 4, 5, 6, 7]" :key="count" :value="count">{{ count }}</option>
      </select>
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
    <form v-if="tempo > 0" class="row" @submit.prevent="emit('tempo', typed, taps.beatsABar.value)">
      <label>
        Or type a tempo
        <input v-model.number="typed" type="number" min="30" max="300" step="0.1" required data-test="typed" />
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
  padding: 0.6rem 1.6rem;
  background: var(--ink);
  color: var(--paper-raised);
  font-weight: 700;
}
select,
input {
  padding: 0.2rem 0.4rem;
  border: 1px solid var(--line-strong);
  border-radius: 6px;
  background: var(--paper-raised);
  color: var(--ink);
  font: inherit;
}
input {
  width: 5.5rem;
}
</style>
