<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { useConfirm } from 'primevue/useconfirm'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Song } from '@/api/client'
import { problemWords } from '@/api/words'
import BrandMark from '@/base/BrandMark.vue'
import { useSession } from '@/session/useSession'
import ImportPlace from './ImportPlace.vue'
import SongRow from './SongRow.vue'
import { useShelf } from './useShelf'

const { session, signOut } = useSession()
const { songs, isLoading, error, problem, refresh, cancel, tryAgain, remove } = useShelf()
const router = useRouter()
const confirm = useConfirm()
const leaving = ref('')

function askToRemove(song: Song): void {
  confirm.require({
    header: `Remove “${song.title}”?`,
    message: 'The recording, the chart and all edits go with it. This cannot be undone.',
    acceptLabel: 'Remove',
    rejectLabel: 'Keep it',
    accept: () => remove(song.id),
  })
}

async function leave(): Promise<void> {
  try {
    await signOut()
  } catch (failure) {
    leaving.value = problemWords(failure)
    return
  }
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
    <Message v-if="problem || leaving" severity="error">{{ problem || leaving }}</Message>
    <Message v-if="error" severity="error">
      {{ error.message }} <Button label="Try again" variant="text" size="small" @click="refresh()" />
    </Message>
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
        @cancel="cancel(song.id)"
        @try-again="tryAgain(song.id)"
        @remove="askToRemove(song)"
      />
    </ul>
  </main>
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
.empty {
  display: grid;
  gap: var(--gap-2);
  padding: 3rem 0;
  max-width: 34rem;
}
</style>
