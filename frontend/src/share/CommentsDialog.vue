<script setup lang="ts">
/** Comments at bars: written at the cursor's, answered, settled. It leaves the song in sight. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import Textarea from 'primevue/textarea'
import { computed, ref } from 'vue'
import { api, type Comment, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import { useOpenSong } from '@/song/openSong'

const { id, stack } = useOpenSong()
const visible = defineModel<boolean>('visible', { required: true })
const of = { params: { path: { song_id: id } } }
const key = ['comments', id]
const client = useQueryClient()
const query = useQuery({ queryKey: key, queryFn: () => taken(api.GET('/api/songs/{song_id}/comments', of)) })
const problem = ref('')
const bar = computed(() => stack.cursor.value.bar)
const words = ref('')
const answering = ref<number | null>(null)
const showSettled = ref(false)
const threads = computed(() => {
  const all = query.data.value ?? []
  return all
    .filter((one) => one.answers === null)
    .map((first) => ({ first, rest: all.filter((one) => one.answers === first.id) }))
    .sort((one, other) => Number(one.first.settled) - Number(other.first.settled) || one.first.bar - other.first.bar)
})
const open = computed(() => threads.value.filter((one) => !one.first.settled))
const settled = computed(() => threads.value.filter((one) => one.first.settled))
const shown = computed(() => (showSettled.value ? threads.value : open.value))

async function ask(what: () => Promise<Comment[] | unknown>): Promise<boolean> {
  problem.value = ''
  try {
    await what()
    return true
  } catch (failure) {
    problem.value = problemWords(failure)
    return false
  } finally {
    await client.invalidateQueries({ queryKey: key })
  }
}
const one = (comment: Comment) => ({ params: { path: { song_id: id, comment_id: comment.id } } })

async function write(): Promise<void> {
  const body = { bar: bar.value, words: words.value.trim(), answers: answering.value }
  if (!(await ask(() => taken(api.POST('/api/songs/{song_id}/comments', { ...of, body }))))) return
  words.value = ''
  answering.value = null
}
const settle = (comment: Comment) =>
  ask(() => taken(api.PATCH('/api/songs/{song_id}/comments/{comment_id}', { ...one(comment), body: { settled: !comment.settled } })))
const takeBack = (comment: Comment) => ask(() => taken(api.DELETE('/api/songs/{song_id}/comments/{comment_id}', one(comment))))
const answered = computed(() => threads.value.find((item) => item.first.id === answering.value)?.first)
</script>

<template>
  <Dialog v-model:visible="visible" header="Comments" position="right" :style="{ width: '24rem', maxWidth: '96vw' }">
    <div class="all">
      <form @submit.prevent="write">
        <label>
          {{ answered ? `Answer ${answered.author} at bar ${answered.bar}` : `At bar ${bar}` }}
          <Textarea v-model="words" rows="2" maxlength="600" auto-resize fluid data-test="comment" />
        </label>
        <p class="acts">
          <Button type="submit" :label="answered ? 'Answer' : 'Comment'" size="small" :disabled="!words.trim()" />
          <button v-if="answered" type="button" class="act" @click="answering = null">A comment of its own</button>
        </p>
      </form>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-if="!shown.length" class="quiet">{{ settled.length ? 'All is settled.' : 'No comments yet: go to a bar and write one.' }}</p>
      <article v-for="thread in shown" :key="thread.first.id" :class="{ settled: thread.first.settled }">
        <button type="button" class="bar" @click="stack.place({ bar: thread.first.bar })">Bar {{ thread.first.bar }}</button>
        <p v-for="comment in [thread.first, ...thread.rest]" :key="comment.id">
          <strong>{{ comment.author }}</strong> {{ comment.words }}
          <button v-if="comment.is_mine" type="button" class="plain" :aria-label="`Take back: ${comment.words}`" @click="takeBack(comment)">take back</button>
        </p>
        <p class="acts">
          <button type="button" class="act" @click="answering = thread.first.id">Answer</button>
          <button type="button" class="act" @click="settle(thread.first)">{{ thread.first.settled ? 'Open again' : 'Settled' }}</button>
        </p>
      </article>
      <button v-if="settled.length" type="button" class="act" @click="showSettled = !showSettled">
        {{ showSettled ? 'Only what is open' : `${settled.length} settled` }}
      </button>
    </div>
  </Dialog>
</template>

<style scoped>
.all,
form,
article {
  display: grid;
  gap: var(--gap-3);
}
article {
  padding-top: var(--gap-3);
  border-top: 1px solid var(--line);
}
.settled {
  color: var(--ink-soft);
}
.acts {
  display: flex;
  gap: var(--gap-2);
}
.bar,
.plain {
  justify-self: start;
  padding: 0;
  border: 0;
  background: none;
  color: var(--accent);
  font-weight: 700;
  cursor: pointer;
}
.plain {
  color: var(--ink-soft);
  font-weight: 400;
  text-decoration: underline;
}
.problem {
  color: var(--accent);
}
p {
  overflow-wrap: anywhere;
}
</style>
