<script setup lang="ts">
/** The spoken count of the bars at hand in the user's school, what falls together and what between. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { api, taken } from '@/api/client'
import type { paths } from '@/api/schema'
import { DEFAULT_SCHOOL, SCHOOLS } from '@/api/vocabulary'
import { problemWords } from '@/api/words'
import ChoiceField from '@/base/ChoiceField.vue'
import { useStill } from '@/base/useStill'
import { useOpenSong } from '@/song/openSong'

const STILL_MS = 250

type School = NonNullable<paths['/api/songs/{song_id}/saying']['get']['parameters']['query']['school']>
const { id, stack, part } = useOpenSong()

const school = useLocalStorage<School>('orchesis.school', DEFAULT_SCHOOL as School)
const schools = Object.entries(SCHOOLS).map(([value, label]) => ({ value: value as School, label }))
const bars = stack.bars
const asked = useStill(() => `${bars.value[0]} ${bars.value.at(-1)} ${part.score.value?.revision}`, STILL_MS)
const query = useQuery({
  queryKey: ['saying', id, asked, school],
  queryFn: () => {
    const [first, last] = asked.value.split(' ').map(Number)
    return taken(
      api.GET('/api/songs/{song_id}/saying', {
        params: { path: { song_id: id }, query: { first: first!, last: last!, school: school.value } },
      }),
    )
  },
  placeholderData: keepPreviousData,
})
const saying = computed(() => query.data.value)
const problem = computed(() => problemWords(query.error.value))
</script>

<template>
  <section class="say" aria-label="The count">
    <p class="label">Words of your school</p>
    <ChoiceField v-model="school" label="Words of your school" :options="schools" />
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
