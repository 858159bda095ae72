<script setup lang="ts">
/** The songs that all of them see, in order: a set list. */
import { useQuery } from '@tanstack/vue-query'
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { useDownload } from '@/api/download'
import { api, type Group, taken } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import ShareLinks from '@/share/ShareLinks.vue'
import type { GroupActs } from './useGroups'

const props = defineProps<{ group: Group; acts: GroupActs }>()
const shelf = useQuery({ queryKey: ['songs'], queryFn: () => taken(api.GET('/api/songs')) })
const there = computed(() => new Set(props.group.songs.map((one) => one.song)))
const mine = computed(() =>
  (shelf.data.value ?? []).filter((one) => one.role === 'owner' && !there.value.has(one.id)).map((one) => ({ value: one.id, label: one.title })),
)
const song = ref('')
watch(mine, (all) => (song.value = all.some((one) => one.value === song.value) ? song.value : (all[0]?.value ?? '')), { immediate: true })
const role = ref<'reader' | 'editor'>('reader')
const ROLES = [
  { value: 'reader' as const, label: 'to read and practise' },
  { value: 'editor' as const, label: 'to work on too' },
]

async function put(): Promise<void> {
  await props.acts.put(song.value, role.value)
}

const { making, problem, download } = useDownload()
const isSharing = ref(false)

function move(index: number, by: -1 | 1): void {
  const order = props.group.songs.map((one) => one.song)
  const [moved] = order.splice(index, 1)
  order.splice(index + by, 0, moved!)
  void props.acts.order(order)
}
</script>

<template>
  <section aria-labelledby="group-songs">
    <h3 id="group-songs">Songs, in the order of the set</h3>
    <ol v-if="group.songs.length">
      <li v-for="(one, index) in group.songs" :key="one.song">
        <RouterLink :to="`/songs/${one.song}`">{{ one.title }}</RouterLink>
        <span class="quiet">{{ Math.round(one.tempo_bpm) }} bpm{{ one.role === 'editor' ? ', all work on it' : '' }}</span>
        <span class="acts">
          <template v-if="group.leads">
            <button type="button" class="act" :disabled="index === 0" :aria-label="`${one.title}: sooner`" @click="move(index, -1)"><span aria-hidden="true">▴</span></button>
            <button type="button" class="act" :disabled="index === group.songs.length - 1" :aria-label="`${one.title}: later`" @click="move(index, 1)"><span aria-hidden="true">▾</span></button>
          </template>
          <button v-if="group.leads || one.is_mine" type="button" class="act" :aria-label="`Take off: ${one.title}`" @click="acts.takeOff(one.song)">Take off</button>
        </span>
      </li>
    </ol>
    <p v-if="group.songs.length" class="sheet">
      <button type="button" class="act" :disabled="!!making" data-test="sheet" @click="download(`/api/groups/${group.id}/sheet.pdf`, `${group.name}.pdf`)">
        {{ making ? 'Making the band sheet …' : 'Band sheet: the road map of each, as a PDF' }}
      </button>
      <span v-if="problem" class="problem" role="alert">{{ problem }}</span>
      <button v-if="group.leads" type="button" class="act" :aria-expanded="isSharing" @click="isSharing = !isSharing">A link to the set</button>
    </p>
    <ShareLinks v-if="isSharing" :of="{ group: group.id }" :has-recording="group.members.some((one) => one.is_me && one.name === group.owner)" first="map" />
    <p v-if="!group.songs.length" class="quiet">None yet: put songs of yours here, and everybody in it sees their charts.</p>
    <form v-if="mine.length" @submit.prevent="put">
      <ChoiceField v-model="song" :options="mine" label="A song of yours" />
      <ChoiceField v-model="role" :options="ROLES" label="What they may do" />
      <Button type="submit" label="Put it there" :disabled="!song" data-test="put-song" />
    </form>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--gap-3);
}
ol {
  margin: 0;
  padding-left: 1.5rem;
}
li {
  padding: var(--gap-1) 0;
}
li a {
  color: var(--ink);
  font-size: var(--size-lead);
}
li .quiet {
  margin-left: var(--gap-3);
}
.sheet {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-4);
  align-items: center;
}
.acts {
  float: right;
  display: flex;
  gap: var(--gap-2);
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-3);
  align-items: center;
}
</style>
