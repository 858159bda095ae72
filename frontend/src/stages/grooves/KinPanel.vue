<script setup lang="ts">
/** Where the groove at the cursor is elsewhere, and the stages by which one becomes the other. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, type Relative, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import { useStill } from '@/base/useStill'
import { useOpenSong } from '@/song/openSong'

const STILL_MS = 300
const { id, stack, part } = useOpenSong()

const HEADINGS: Record<Relative['kin'], string> = {
  'the same': 'The same groove',
  'one note away': 'One note away',
  'contained in it': 'Contained in it',
  'contains it': 'What it unlocks: this, and more',
  'the same kick': 'The same kick',
}
const router = useRouter()
const bar = useStill(() => stack.cursor.value.bar, STILL_MS)
const revision = useStill(() => part.score.value?.revision, STILL_MS)
const query = useQuery({
  queryKey: ['kin', id, bar, revision],
  queryFn: () => taken(api.GET('/api/songs/{song_id}/kin/{bar}', { params: { path: { song_id: id, bar: bar.value } } })),
  placeholderData: keepPreviousData,
})
const kin = computed(() => query.data.value ?? null)

/** The kin to which the stages are shown, until one goes to another bar. */
const goal = ref<Relative | null>(null)
watch([bar, revision], () => (goal.value = null))
const chain = useQuery({
  queryKey: ['chain', id, bar, revision, goal],
  queryFn: () =>
    taken(
      api.GET('/api/songs/{song_id}/kin/{bar}/chain', {
        params: {
          path: { song_id: id, bar: bar.value },
          query: { to_song: goal.value!.song, to_bar: goal.value!.bar },
        },
      }),
    ),
  enabled: computed(() => goal.value !== null),
})
const stages = computed(() => (goal.value ? (chain.data.value?.stages ?? []) : []))
const problem = computed(() => problemWords(query.error.value ?? chain.error.value))

const groups = computed(() =>
  (Object.keys(HEADINGS) as Relative['kin'][])
    .map((name) => ({ name, members: (kin.value?.relatives ?? []).filter((item) => item.kin === name) }))
    .filter((group) => group.members.length),
)
const isHere = (relative: Relative) => relative.song === id
const words = (relative: Relative) =>
  `${isHere(relative) ? '' : `${relative.title}, `}${relative.section || 'bar'} ${relative.section ? `bar ${relative.bar}` : relative.bar}${
    relative.more ? ` and ${relative.more} more` : ''
  }`
const apart = ({ distance }: Relative) => `${distance} ${distance === 1 ? 'note' : 'notes'}`

function open(relative: Relative): void {
  if (isHere(relative)) stack.place({ bar: relative.bar, position: '0' })
  else void router.push(`/songs/${relative.song}`)
}
</script>

<template>
  <section class="kin" aria-label="Similar grooves">
    <p class="label">Bar {{ bar }}, compared with {{ kin?.compared ?? '…' }} bars of your songs</p>
    <p v-if="problem" role="alert" class="trouble">{{ problem }}</p>
    <p v-else-if="kin && groups.length === 0" class="quiet">No similar grooves yet.</p>
    <template v-for="group in groups" :key="group.name">
      <h4>{{ HEADINGS[group.name] }}</h4>
      <ul>
        <li v-for="member in group.members" :key="`${member.song} ${member.bar}`">
          <button type="button" class="go" @click="open(member)">{{ words(member) }}</button>
          <button
            v-if="member.distance"
            type="button"
            class="how"
            :aria-label="`${apart(member)}: stages to ${words(member)}`"
            @click="goal = member"
          >
            {{ apart(member) }}
          </button>
        </li>
      </ul>
      <ol v-if="goal?.kin === group.name && stages.length" class="stages">
        <li v-for="(stage, index) in stages" :key="index">
          {{ stage.words }}<span v-if="stage.bar" class="label"> · {{ stage.title }} bar {{ stage.bar }}</span>
        </li>
      </ol>
    </template>
  </section>
</template>

<style scoped>
.kin {
  display: grid;
  align-content: start;
  gap: var(--gap-2);
}
h4 {
  margin: var(--gap-2) 0 0;
  font-weight: 700;
}
ul {
  display: grid;
  gap: var(--gap-1);
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  font-size: 0.9375rem;
  line-height: 1.35;
}
ul li {
  display: flex;
  justify-content: space-between;
  gap: var(--gap-2);
}
button {
  padding: 0.1rem 0;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  cursor: pointer;
}
button:hover {
  text-decoration-color: var(--accent);
}
.how {
  color: var(--accent);
  white-space: nowrap;
}
.stages {
  margin: 0;
  padding-left: 1.25rem;
}
.trouble {
  color: var(--accent);
}
</style>
