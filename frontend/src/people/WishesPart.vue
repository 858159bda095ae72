<script setup lang="ts">
/** What they would like to play: one vote a person; what is declined says why. */
import { useFileDialog } from '@vueuse/core'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Group, Wish } from '@/api/client'
import { SUFFIXES } from '@/api/vocabulary'
import { type GroupActs, useWishes } from './useGroups'

const props = defineProps<{ group: Group; acts: GroupActs }>()
const wishes = useWishes(computed(() => props.group.id))
const title = ref('')
const performer = ref('')
const declining = ref<number | null>(null)
const reason = ref('')
const { open, onChange } = useFileDialog({ accept: SUFFIXES.join(','), multiple: false, reset: true })
let chosen: Wish | null = null
const sending = ref<number | null>(null)
const share = ref(0)
function choose(one: Wish): void {
  chosen = one
  open()
}
onChange(async (files) => {
  const file = files?.[0]
  if (!file || !chosen) return
  sending.value = chosen.id
  share.value = 0
  await props.acts.begin(chosen, file, (now) => (share.value = now))
  sending.value = null
})
const STATES = { wished: '', begun: 'begun', done: 'done', declined: 'declined' } as const

async function wish(): Promise<void> {
  if (await props.acts.wish(title.value.trim(), performer.value.trim())) title.value = performer.value = ''
}
async function decline(one: Wish): Promise<void> {
  if (await props.acts.settle(one.id, 'declined', reason.value.trim())) {
    declining.value = null
    reason.value = ''
  }
}
</script>

<template>
  <section aria-labelledby="wishes">
    <h3 id="wishes">Song requests</h3>
    <ul v-if="wishes.length">
      <li v-for="one in wishes" :key="one.id" :class="one.state">
        <button type="button" class="act vote" :aria-pressed="one.is_mine" :aria-label="`${one.title}: ${one.votes} for it`" @click="acts.vote(one.id, !one.is_mine)">
          {{ one.votes }} for it
        </button>
        <span class="what">
          <RouterLink v-if="one.song" :to="`/songs/${one.song}`">{{ one.title }}</RouterLink>
          <strong v-else>{{ one.title }}</strong>
          <span class="quiet beside">{{ [one.performer, `wished for by ${one.wisher}`, STATES[one.state], one.reason].filter(Boolean).join(' · ') }}</span>
        </span>
        <span v-if="group.leads && one.state !== 'done'" class="acts">
          <button v-if="one.state !== 'begun'" type="button" class="act" :disabled="sending !== null" @click="choose(one)">
            {{ sending === one.id ? `Sending, ${Math.round(100 * share)} %` : 'Begin with a recording' }}
          </button>
          <button v-else type="button" class="act" @click="acts.settle(one.id, 'done')">Done</button>
          <button v-if="one.state !== 'declined'" type="button" class="act" :aria-expanded="declining === one.id" @click="declining = declining === one.id ? null : one.id">Decline</button>
        </span>
        <form v-if="declining === one.id" class="why" @submit.prevent="decline(one)">
          <InputText v-model="reason" aria-label="Why not" placeholder="why not: they would like to know" maxlength="200" />
          <Button type="submit" label="Decline" :disabled="!reason.trim()" />
        </form>
      </li>
    </ul>
    <p v-else class="quiet">Nothing yet.</p>
    <form class="new" @submit.prevent="wish">
      <InputText v-model="title" aria-label="Title of a song" placeholder="a song" maxlength="200" data-test="wish-title" />
      <InputText v-model="performer" aria-label="Who plays it" placeholder="who plays it" maxlength="200" />
      <Button type="submit" label="Wish for it" :disabled="!title.trim()" />
    </form>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--gap-3);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li,
.new,
.why,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-3);
  align-items: center;
}
li {
  padding: var(--gap-2) 0;
}
.what {
  flex: 1;
  min-width: 12rem;
}
.beside {
  margin-left: var(--gap-2);
}
.why {
  width: 100%;
}
.vote[aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
}
.declined strong {
  font-weight: 400;
  text-decoration: line-through;
}
</style>
