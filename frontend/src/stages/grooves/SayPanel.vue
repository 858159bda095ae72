<script setup lang="ts">
/** The spoken count of the bars at hand in the user's school, what falls together and what between. */
import { useLocalStorage } from '@vueuse/core'
import { ref, watch } from 'vue'
import { api, type Saying, taken } from '@/api/client'
import type { paths } from '@/api/schema'
import { DEFAULT_SCHOOL, SCHOOLS } from '@/api/vocabulary'

type School = NonNullable<paths['/api/songs/{song_id}/saying']['get']['parameters']['query']['school']>
const props = defineProps<{ songId: string; bars: readonly number[]; revision: number }>()

const school = useLocalStorage<School>('orchesis.school', DEFAULT_SCHOOL as School)
const saying = ref<Saying | null>(null)
const problem = ref('')
let timer: ReturnType<typeof setTimeout> | undefined

watch(
  [() => props.bars[0], () => props.bars.at(-1), () => props.revision, school],
  ([first, last]) => {
    clearTimeout(timer)
    if (first === undefined || last === undefined) return
    timer = setTimeout(() => void fetchSaying(first, last), 250)
  },
  { immediate: true },
)

async function fetchSaying(first: number, last: number): Promise<void> {
  try {
    saying.value = await taken(
      api.GET('/api/songs/{song_id}/saying', {
        params: { path: { song_id: props.songId }, query: { first, last, school: school.value } },
      }),
    )
    problem.value = ''
  } catch (error) {
    problem.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <section class="say" aria-label="The count">
    <label class="label" for="school">Words of your school</label>
    <select id="school" v-model="school">
      <option v-for="(words, key) in SCHOOLS" :key="key" :value="key">{{ words }}</option>
    </select>
    <p class="label">{{ bars.length > 1 ? `Bars ${bars[0]}–${bars.at(-1)}` : `Bar ${bars[0]}` }}, said</p>
    <p v-if="problem" role="alert" class="trouble">{{ problem }}</p>
    <template v-else-if="saying">
      <p v-for="(line, index) in saying.count.split(' | ')" :key="index" class="count">{{ line }}</p>
      <p class="label">Together and between</p>
      <ul>
        <li v-for="sentence in saying.sentences" :key="sentence">{{ sentence }}</li>
      </ul>
      <p v-if="saying.sentences.length === 0" class="quiet">Nothing is played by two limbs here.</p>
    </template>
  </section>
</template>

<style scoped>
.say {
  display: grid;
  align-content: start;
  gap: var(--gap-2);
}
select {
  padding: 0.25rem 0.4rem;
  border: 1px solid var(--line-strong);
  border-radius: 8px;
  background: var(--paper-raised);
  color: var(--ink);
  font: inherit;
}
.count {
  font-weight: 700;
  font-size: 1.125rem;
  word-spacing: 0.25em;
}
ul {
  display: grid;
  gap: var(--gap-2);
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 0.9375rem;
  line-height: 1.35;
}
.trouble {
  color: var(--accent);
}
</style>
