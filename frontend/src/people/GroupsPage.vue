<script setup lang="ts">
/** Bands and classes: which one is in, and the one that is looked at. */
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import type { GroupKind } from '@/api/client'
import PageHead from '@/base/PageHead.vue'
import ChoiceField from '@/base/ChoiceField.vue'
import GroupPart from './GroupPart.vue'
import { useGroups } from './useGroups'

const props = defineProps<{ id?: string }>()
const router = useRouter()
const { groups, isLoading, problem, make } = useGroups()
const group = computed(() => groups.value.find((one) => String(one.id) === props.id) ?? (props.id ? null : (groups.value[0] ?? null)))
const KINDS: { value: GroupKind; label: string }[] = [
  { value: 'band', label: 'a band' },
  { value: 'class', label: 'a class' },
]
const name = ref('')
const kind = ref<GroupKind>('band')

async function makeIt(): Promise<void> {
  const made = await make(name.value.trim(), kind.value)
  if (!made) return
  name.value = ''
  await router.push(`/people/${made.id}`)
}
</script>

<template>
  <PageHead />
  <main class="people">
    <nav aria-label="Bands and classes">
      <h1>Bands and classes</h1>
      <Message v-if="problem" severity="error">{{ problem }}</Message>
      <p v-if="isLoading" class="quiet">Fetching …</p>
      <ul v-else>
        <li v-for="one in groups" :key="one.id">
          <RouterLink :to="`/people/${one.id}`" :aria-current="group?.id === one.id ? 'page' : undefined">{{ one.name }}</RouterLink>
          <small>{{ one.kind }}, {{ one.members.length === 1 ? 'only you' : `${one.members.length} people` }}</small>
        </li>
      </ul>
      <form @submit.prevent="makeIt">
        <h2>New band or class</h2>
        <InputText v-model="name" aria-label="Name" placeholder="Name" maxlength="80" data-test="group-name" fluid />
        <ChoiceField v-model="kind" :options="KINDS" label="What it is" />
        <Button type="submit" :label="kind === 'class' ? 'Create class' : 'Create band'" :disabled="!name.trim()" />
      </form>
    </nav>
    <GroupPart v-if="group" :key="group.id" :group="group" />
    <section v-else-if="!isLoading" class="empty">
      <template v-if="props.id">
        <h2>You are in no such band or class</h2>
        <p class="quiet">It was removed, or you were taken off. Whoever leads it can invite you.</p>
      </template>
      <template v-else>
        <h2>Nobody yet</h2>
        <p class="quiet">
          Make a band, and its people see the songs you put there; make a class, and give each student a groove, a tempo and a day.
        </p>
      </template>
    </section>
  </main>
</template>

<style scoped>
.people {
  display: grid;
  grid-template-columns: 16rem minmax(0, 1fr);
  gap: 3rem;
  max-width: 78rem;
  margin: 2rem auto;
  padding: 0 var(--frame-edge);
}
h1 {
  font-size: 1.75rem;
}
h2 {
  font-size: 1.125rem;
}
nav,
form {
  display: grid;
  gap: var(--gap-3);
  align-content: start;
}
form {
  padding-top: var(--gap-4);
  border-top: 1px solid var(--line);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  padding: var(--gap-2) 0;
}
li a {
  color: var(--ink);
  font-size: var(--size-lead);
}
li [aria-current] {
  color: var(--accent);
  font-weight: 700;
}
small {
  color: var(--ink-soft);
}
.empty {
  display: grid;
  gap: var(--gap-2);
  align-content: start;
  max-width: 34rem;
}
@media (max-width: 760px) {
  .people {
    grid-template-columns: minmax(0, 1fr);
    gap: 2rem;
    margin: 1rem auto;
  }
}
</style>
