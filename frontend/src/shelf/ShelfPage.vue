<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { useConfirm } from 'primevue/useconfirm'
import { ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import type { ShelfSong } from '@/api/client'
import { problemWords } from '@/api/words'
import PageHead from '@/base/PageHead.vue'
import ForYou from '@/people/ForYou.vue'
import { useSession } from '@/session/useSession'
import ImportPlace from './ImportPlace.vue'
import SongRow from './SongRow.vue'
import ShelfTools from './ShelfTools.vue'
import { useShelf } from './useShelf'

const { session, signOut } = useSession()
const { shelf, songs, isWhole, search, sort, left, tag, page, isLoading, error, problem, refresh, cancel, tryAgain, remove, setTags, setPerformer } = useShelf()
const router = useRouter()
const confirm = useConfirm()
const leaving = ref('')

function askToRemove(song: ShelfSong): void {
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
  <PageHead>
    <span class="who">
      <RouterLink to="/people">Bands and classes</RouterLink>
      <RouterLink to="/account">{{ session?.is_demo ? 'Demo account' : `Account of ${session?.username ?? ''}` }}</RouterLink>
      <Button label="Sign out" variant="text" severity="secondary" size="small" @click="leave" />
    </span>
  </PageHead>
  <main class="shelf">
    <h1>Songs</h1>
    <ForYou />
    <ImportPlace
      @imported="refresh"
    />
    <Message v-if="problem || leaving" severity="error">{{ problem || leaving }}</Message>
    <Message v-if="error" severity="error">
      {{ error.message }} <Button label="Try again" variant="text" size="small" @click="refresh()" />
    </Message>
    <p v-else-if="isLoading" class="quiet">Fetching your songs …</p>
    <div v-else-if="songs.length === 0 && isWhole" class="empty">
      <h2>No songs yet</h2>
      <p class="quiet">
        Import a recording of the song you want to play. A few seconds later its bars are here, with
        what each hand and foot plays.
      </p>
    </div>
    <template v-else>
    <ShelfTools v-model:search="search" v-model:sort="sort" v-model:left="left" v-model:tag="tag" v-model:page="page" :shelf="shelf!" />
    <p v-if="!songs.length" class="quiet" role="status">No songs match. Look for part of a title, a tempo, a feel or a tag.</p>
    <ul v-else class="songs">
      <SongRow
        v-for="song in songs"
        :key="song.id"
        :song="song"
        @cancel="cancel(song.id)"
        @try-again="tryAgain(song.id)"
        @remove="askToRemove(song)"
        @tags="setTags({ id: song.id, tags: $event })"
        @performer="setPerformer({ id: song.id, performer: $event })"
      />
    </ul>
    </template>
  </main>
</template>

<style scoped>
.who {
  display: flex;
  align-items: center;
  gap: var(--gap-2);
  color: var(--ink-soft);
  white-space: nowrap;
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
