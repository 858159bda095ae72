<script setup lang="ts">
/** The bar that the cursor is in: words over it, and the way to it in the bar stack. */
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { useOpenSong } from '@/song/openSong'

const { chart: stage, part, stack, bars, go } = useOpenSong()
const number = computed(() => stack.cursor.value.bar)
const bar = computed(() => bars.value.find((item) => item.number === number.value))
const there = computed(() => {
  const beat = bar.value ? (bar.value.end - bar.value.start) / bar.value.beats.length : 0
  const early = beat / 2
  return (
    stage.chart.value?.cues
      .filter((cue) => bar.value && cue.time >= bar.value.start - early && cue.time < bar.value.end - early)
      .map((cue) => cue.words)
      .join('; ') ?? ''
  )
})
const words = ref('')
watch([there, number], () => (words.value = there.value), { immediate: true })
const USUAL = ['stop', 'vocals in', 'vocals out', 'watch', 'build', 'crash']
function put(text: string): void {
  if (text !== there.value) void part.setCue(number.value, text)
}
</script>

<template>
  <section class="bar" aria-label="The bar of the cursor">
    <h3>Bar {{ number }}</h3>
    <form @submit.prevent="put(words.trim())">
      <label>
        <span class="quiet">Cue</span>
        <InputText v-model="words" maxlength="80" size="small" placeholder="vocals in" list="usual-cues" fluid />
      </label>
      <datalist id="usual-cues"><option v-for="item in USUAL" :key="item" :value="item" /></datalist>
      <div class="acts">
        <button type="submit" class="act" :disabled="words.trim() === there">Put it there</button>
        <button v-if="there" type="button" class="act" @click="put('')">Take it away</button>
        <button type="button" class="act" @click="go('grooves')">To the bar stack</button>
      </div>
    </form>
  </section>
</template>

<style scoped>
.bar,
form,
label {
  display: grid;
  gap: var(--gap-2);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
}
.quiet {
  font-size: var(--size-small);
}
</style>
