<script setup lang="ts">
/** A song whose part is not there: being listened to, not heard yet, not to be had, or on its way. */
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { isWorking } from '@/shelf/useShelf'
import { leftWords, runWords } from '@/shelf/words'
import { useOpenSong } from './openSong'

const { song, error, part, tryAgain } = useOpenSong()
const run = computed(() => song.value?.run ?? null)
</script>

<template>
  <main v-if="error" class="alone">
    <h1>This song cannot be shown</h1>
    <p>{{ error.message }}</p>
    <p><RouterLink to="/songs">To the shelf of songs</RouterLink></p>
  </main>
  <main v-else-if="song && run && isWorking(run) && !song.has_score" class="alone" role="status">
    <h1>Listening to {{ song.title }}</h1>
    <p>{{ runWords(run) }} <span class="quiet">{{ leftWords(run) }}</span></p>
    <ProgressBar :value="Math.round(run.progress * 100)" :show-value="false" :aria-label="`${song.title}: listening`" />
  </main>
  <main v-else-if="song && !song.has_score" class="alone">
    <h1>{{ song.title }} has no chart yet</h1>
    <p class="trouble">{{ run ? runWords(run) : '' }}</p>
    <Button label="Try again" @click="tryAgain" />
  </main>
  <main v-else-if="part.problem.value" class="alone">
    <h1>The chart could not be fetched</h1>
    <p class="trouble">{{ part.problem.value }}</p>
    <Button label="Try again" @click="part.fetchScore()" />
  </main>
  <main v-else class="alone">
    <p class="quiet">Opening the song …</p>
  </main>
</template>

<style scoped>
.alone {
  display: grid;
  gap: var(--gap-4);
  justify-items: start;
  width: min(36rem, 92vw);
  margin: 16vh auto;
}
.alone :deep(.p-progressbar) {
  width: 100%;
  height: 8px;
}
.trouble {
  color: var(--accent);
}
.trouble::first-letter {
  text-transform: uppercase;
}
</style>
