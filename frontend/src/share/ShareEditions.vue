<script setup lang="ts">
/** Editions: what readers and links show while work on the song goes on; and a folder to put anywhere. */
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import { api, taken } from '@/api/client'
import { useDownload } from '@/api/download'
import { problemWords } from '@/api/words'
import { useOpenSong } from '@/song/openSong'

const { id, song, chart } = useOpenSong()
const of = { params: { path: { song_id: id } } }
const client = useQueryClient()
const edition = computed(() => song.value?.edition ?? null)
const words = ref('')
const problem = ref('')
const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'long', year: 'numeric' })

async function ask(what: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  try {
    await what()
    words.value = ''
  } catch (failure) {
    problem.value = problemWords(failure)
  }
  await client.invalidateQueries({ queryKey: ['song', id] })
}
const publish = () => ask(() => taken(api.POST('/api/songs/{song_id}/editions', { ...of, body: { words: words.value.trim() } })))
const withdraw = () => ask(() => taken(api.DELETE('/api/songs/{song_id}/editions', of)))
const { making, problem: unmade, download } = useDownload()
const folder = computed(() => `/api/songs/${id}/pages.zip?reading=${chart.choice.value.reading}&level=${chart.choice.value.level}`)
</script>

<template>
  <section aria-labelledby="share-editions">
    <h3 id="share-editions">Version others see</h3>
    <p v-if="!edition" class="quiet">The song as it is at each moment. Publish version, and they see that one until the next, while you go on.</p>
    <p v-else>
      Edition {{ edition.number }} of {{ day(edition.published_at) }}{{ edition.words ? `: ${edition.words}` : '' }}.
      <span class="quiet">{{ edition.is_current ? 'Nothing was changed since.' : 'You have changed the song since.' }}</span>
    </p>
    <form v-if="!edition?.is_current" @submit.prevent="publish">
      <InputText v-model="words" aria-label="What is new in it" placeholder="what is new in it, if you like" maxlength="300" />
      <Button type="submit" :label="edition ? `Publish edition ${edition.number + 1}` : 'Publish version'" data-test="publish" />
    </form>
    <p v-if="problem || unmade" class="problem" role="alert">{{ problem || unmade }}</p>
    <p class="acts">
      <button v-if="edition" type="button" class="act" @click="withdraw">Show it as it is again</button>
      <button type="button" class="act" :disabled="!!making" data-test="folder" @click="download(folder, `${song?.title} pages.zip`)">
        {{ making ? 'Making the folder …' : 'Save chart and kit as a folder' }}
      </button>
      <span class="quiet">It opens from a disk or on any web server.</span>
    </p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--gap-3);
}
form,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-3);
  align-items: center;
}
form > :first-child {
  flex: 1;
  min-width: 14rem;
}
.problem {
  color: var(--accent);
}
</style>
