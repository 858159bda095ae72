<script setup lang="ts">
/** What a link opens, for whoever has it: the chart and the player of one song, without an account. */
import { computed, onMounted, shallowRef } from 'vue'
import BrandMark from '@/base/BrandMark.vue'
import { api, type Shared, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import SongPage from '@/song/SongPage.vue'

const props = defineProps<{ token: string }>()
const shared = shallowRef<Shared | null>(null)
const problem = shallowRef('')
/** Of a set list: the song that is looked at. */
const chosen = shallowRef('')
const song = computed(() => shared.value?.song ?? chosen.value)
/** Of a list some recordings go along and others do not. */
const guest = computed(() => {
  const one = shared.value?.songs.find((item) => item.song === song.value)
  return { ...shared.value!, with_audio: one?.with_audio ?? false }
})

onMounted(async () => {
  try {
    // The forgery check needs its cookie, which a first visitor has not got yet.
    await taken(api.GET('/api/session'))
    shared.value = await taken(api.POST('/api/shared', { body: { token: props.token } }))
  } catch (failure) {
    problem.value = problemWords(failure)
  }
})
</script>

<template>
  <SongPage v-if="shared && song" :id="song" :key="song" :guest="guest" @back="chosen = ''" />
  <main v-else-if="shared" class="stopped set">
    <p><BrandMark /></p>
    <h1>{{ shared.title }}</h1>
    <p class="quiet">{{ shared.songs.length }} songs from {{ shared.sender }}{{ shared.words ? `: ${shared.words}` : '' }}</p>
    <ol>
      <li v-for="one in shared.songs" :key="one.song">
        <button type="button" class="song" @click="chosen = one.song">{{ one.title }}</button>
        <span class="quiet">{{ Math.round(one.tempo_bpm) }} bpm</span>
      </li>
    </ol>
  </main>
  <main v-else class="stopped">
    <p><BrandMark /></p>
    <template v-if="problem">
      <h1>This link does not open</h1>
      <p class="lead" role="alert">{{ problem }}</p>
    </template>
    <p v-else class="quiet" role="status">Opening …</p>
  </main>
</template>

<style scoped>
.stopped {
  display: grid;
  gap: var(--gap-4);
  align-content: center;
  max-width: 40rem;
  min-height: 90vh;
  margin: 0 auto;
  padding: 2rem var(--frame-edge);
}
.set {
  align-content: start;
}
ol {
  padding-left: 1.5rem;
}
li {
  padding: var(--gap-2) 0;
}
.song {
  padding: 0;
  border: 0;
  background: none;
  color: var(--accent);
  font-size: var(--size-lead);
  text-decoration: underline;
  cursor: pointer;
}
.song + .quiet {
  margin-left: var(--gap-3);
}
.lead {
  font-size: var(--size-lead);
}
</style>
