<script setup lang="ts">
/** One band or class: what is given and who is stuck, its songs, its wishes, its people. */
import Message from 'primevue/message'
import { useConfirm } from 'primevue/useconfirm'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Group } from '@/api/client'
import GivenPart from './GivenPart.vue'
import GroupSongs from './GroupSongs.vue'
import MembersPart from './MembersPart.vue'
import { useGroup } from './useGroups'
import WishesPart from './WishesPart.vue'

const props = defineProps<{ group: Group }>()
const acts = useGroup(computed(() => props.group.id))
const { problem } = acts
const confirm = useConfirm()
const router = useRouter()

function askToRemove(): void {
  confirm.require({
    header: `Remove “${props.group.name}”?`,
    message: 'Its list, its wishes and what was given go with it. Songs stay, and so does what each has practised.',
    acceptLabel: 'Remove',
    rejectLabel: 'Keep it',
    accept: async () => {
      await acts.remove()
      await router.push('/people')
    },
  })
}
</script>

<template>
  <article>
    <header>
      <h2>{{ group.name }}</h2>
      <p class="quiet">A {{ group.kind }} led by {{ group.leads ? 'you' : group.owner }}</p>
    </header>
    <Message v-if="problem" severity="error">{{ problem }}</Message>
    <GivenPart v-if="group.leads" :group="group" :acts="acts" />
    <GroupSongs :group="group" :acts="acts" />
    <WishesPart :group="group" :acts="acts" />
    <MembersPart :group="group" :acts="acts" />
    <p v-if="group.leads" class="end"><button type="button" class="act" @click="askToRemove">Remove this {{ group.kind }}</button></p>
  </article>
</template>

<style scoped>
article {
  display: grid;
  gap: 2.25rem;
  align-content: start;
  min-width: 0;
}
h2 {
  font-size: 2rem;
}
.end {
  padding-top: var(--gap-4);
  border-top: 1px solid var(--line);
}
</style>
