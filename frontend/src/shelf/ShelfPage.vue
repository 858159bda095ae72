<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { Problem, type Song } from '@/api/client'
import BrandMark from '@/base/BrandMark.vue'
import { useSession } from '@/session/useSession'
import ImportPlace from './ImportPlace.vue'
import SongRow from './SongRow.vue'
import { useShelf } from './useShelf'

const { session, signOut } = useSession()
const { songs, isLoading, error, refresh, cancel, tryAgain, remove } = useShelf()
const router = useRouter()
const leaving = ref<Song | null>(null)
const problem = ref('')

async function attempt(work: Promise<void>): Promise<void> {
  problem.value = ''
  try {
    await work
  } catch (failure) {
    problem.value = failure instanceof Problem ? failure.message : String(failure)
  }
}

async function removeChosen(): Promise<void> {
  if (leaving.value) await attempt(remove(leaving.value.id))
  leaving.value = null
}

async function leave(): Promise<void> {
  await attempt(signOut())
  await router.push('/sign-in')
}
</script>

<template>
  <header class="head">
    <BrandMark />
    <span class="who">
      {{ session?.username }}
      <Button label="Sign out" variant="text" severity="secondary" size="small" @click="leave" />
    </span>
  </header>
  <main class="shelf">
    <h1>Songs</h1>
    <ImportPlace
      @imported="refresh"
    />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <p v-if="error" class="problem" role="alert">
      {{ error.message }} <Button label="Try again" variant="text" size="small" @click="refresh()" />
    </p>
    <p v-else-if="isLoading" class="quiet">Fetching your songs …</p>
    <div v-else-if="songs.length === 0" class="empty">
      <h2>No songs yet</h2>
      <p class="quiet">
        Import a recording of the song you want to play. A few seconds later its bars are here, with
        what each hand and foot plays.
      </p>
    </div>
    <ul v-else class="songs">
      <SongRow
        v-for="song in songs"
        :key="song.id"
        :song="song"
        @cancel="attempt(cancel(song.id))"
        @try-again="attempt(tryAgain(song.id))"
        @remove="leaving = song"
      />
    </ul>
  </main>
  <Dialog
    :visible="leaving !== null"
    modal
    :header="`Remove “${leaving?.title}”?`"
    :style="{ width: '28rem' }"
    @update:visible="leaving = null"
  >
    <p>The recording, the chart and all edits go with it. This cannot be undone.</p>
    <template #footer>
      <Button label="Keep it" variant="text" severity="secondary" @click="leaving = null" />
      <Button label="Remove" data-test="really-remove" @click="removeChosen" />
    </template>
  </Dialog>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: var(--gap-3) var(--frame-edge);
  border-bottom: 1px solid var(--line);
}
.who {
  display: flex;
  align-items: center;
  gap: var(--gap-2);
  color: var(--ink-soft);
}
.shelf {
  display: grid;
  gap: var(--gap-6);
  max-width: 70rem;
  margin: 2rem auto;
  padding: 0 var(--frame-edge);
}
.songs {
  margin: 0;
  padding: 0;
  border-top: 1px solid var(--line);
  list-style: none;
}
.problem {
  color: var(--accent);
}
.empty {
  display: grid;
  gap: var(--gap-2);
  padding: 3rem 0;
  max-width: 34rem;
}
</style>
