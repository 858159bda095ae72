<script setup lang="ts">
/** A name of one's own for what this section plays: it is known by it in every song from now on. */
import { nextTick, ref } from 'vue'
import { api, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import { useOpenSong } from '@/song/openSong'

const props = defineProps<{ firstBar: number }>()
const { id, part, found } = useOpenSong()
const isOpen = ref(false)
const name = ref('')
const field = ref<HTMLInputElement>()

function open(): void {
  isOpen.value = true
  void nextTick(() => field.value?.focus())
}

async function save(): Promise<void> {
  try {
    const body = { first_bar: props.firstBar, name: name.value }
    const made = await taken(api.POST('/api/songs/{song_id}/rhythm-name', { params: { path: { song_id: id } }, body }))
    part.notice.value = `${made.name}: known by that name in all of your songs.`
    isOpen.value = false
    name.value = ''
    await found.fetchGrooves()
  } catch (failure) {
    part.notice.value = problemWords(failure)
  }
}
</script>

<template>
  <button v-if="!isOpen" type="button" class="name-it" @click="open">Name this groove …</button>
  <form v-else @submit.prevent="save" @keydown.esc.stop="isOpen = false">
    <input ref="field" v-model="name" maxlength="60" aria-label="Name of this groove" placeholder="the stumble" />
    <button type="submit" :disabled="!name.trim()">Name it</button>
  </form>
</template>

<style scoped>
.name-it {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font-size: var(--size-small);
  text-decoration: underline;
  text-underline-offset: 0.2em;
  cursor: pointer;
}
.name-it:hover {
  color: var(--accent);
}
form {
  display: flex;
  gap: var(--gap-1);
}
input {
  min-width: 0;
  flex: 1;
  padding: 0.15rem 0.5rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round);
  background: var(--paper-raised);
  color: var(--ink);
  font: inherit;
}
form button {
  padding: 0.15rem 0.6rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  cursor: pointer;
}
</style>
