<script setup lang="ts">
/** Who sees this song: people with an account, and whoever has a link. */
import Dialog from 'primevue/dialog'
import { useOpenSong } from '@/song/openSong'
import ShareEditions from './ShareEditions.vue'
import ShareLinks from './ShareLinks.vue'
import SharePeople from './SharePeople.vue'

const { id, song } = useOpenSong()
const visible = defineModel<boolean>('visible', { required: true })
</script>

<template>
  <Dialog v-model:visible="visible" modal dismissable-mask header="Share this song" :style="{ width: '46rem', maxWidth: '96vw' }">
    <div class="parts">
      <ShareLinks :of="{ song: id }" :has-recording="song?.has_recording ?? false" />
      <SharePeople :song-id="id" />
      <ShareEditions />
    </div>
  </Dialog>
</template>

<style scoped>
.parts {
  display: grid;
  gap: var(--gap-6);
}
</style>
