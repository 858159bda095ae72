<script setup lang="ts">
/** A recording in which no beat was found: the one thing to do is to tap it. */
import { RouterLink } from 'vue-router'
import TapPanel from '@/stages/listen/TapPanel.vue'
import { useOpenSong } from './openSong'

const { part } = useOpenSong()
</script>

<template>
  <main class="beatless" data-test="beatless">
    <h1>No steady beat was found</h1>
    <p>
      Orchesis lays no bars over a recording in which it hears no pulse: speech, rubato, silence or noise. If you
      feel one, tap it: what was heard is then written on your beats.
    </p>
    <p v-if="part.notice.value" class="trouble" role="status">{{ part.notice.value }}</p>
    <TapPanel />
    <p class="quiet">
      Or try a recording in which the drums are louder:
      <RouterLink to="/songs">to the shelf of songs</RouterLink>
    </p>
  </main>
</template>

<style scoped>
.beatless {
  display: grid;
  flex: 1;
  gap: var(--gap-4);
  align-content: start;
  justify-items: start;
  width: min(36rem, 92vw);
  margin: 8vh auto 0;
}
.trouble {
  color: var(--accent);
}
.trouble::first-letter {
  text-transform: uppercase;
}
</style>
