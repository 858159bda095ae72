<script setup lang="ts">
/** People who have an account here: what each of them may do. */
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { ref } from 'vue'
import type { SeatRole } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { usePeople } from './useSharing'

const props = defineProps<{ songId: string }>()
const { people, problem, give, take, takeOff } = usePeople(props.songId)
const ROLES: { value: SeatRole; label: string }[] = [
  { value: 'reader', label: 'may read and practise' },
  { value: 'editor', label: 'may work on it too' },
]
const name = ref('')
const role = ref<SeatRole>('reader')

async function letIn(): Promise<void> {
  if (await give({ name: name.value.trim(), role: role.value })) name.value = ''
}
</script>

<template>
  <section aria-labelledby="share-people">
    <h3 id="share-people">Share with members</h3>
    <form class="new" @submit.prevent="letIn">
      <InputText v-model="name" aria-label="Name of the one to let in" placeholder="their name here" maxlength="150" data-test="seat-name" />
      <ChoiceField v-model="role" :options="ROLES" label="What they may do" />
      <Button type="submit" label="Let in" :disabled="!name.trim()" />
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <ul v-if="people?.seats.length">
      <li v-for="seat in people.seats" :key="seat.id">
        <strong>{{ seat.name }}</strong>
        <ChoiceField :model-value="seat.role" :options="ROLES" :label="`What ${seat.name} may do`" @update:model-value="give({ name: seat.name, role: $event })" />
        <button type="button" class="act" :aria-label="`Take away: the seat of ${seat.name}`" @click="take(seat.id)">Take away</button>
      </li>
    </ul>
    <p v-else-if="people && !people.groups.length" class="quiet">Nobody but you.</p>
    <template v-if="people?.groups.length">
      <h4>Bands and classes</h4>
      <ul data-test="song-groups">
        <li v-for="group in people.groups" :key="group.id">
          <strong>{{ group.name }}</strong>
          <span class="quiet">{{ group.kind }}, {{ group.role === 'editor' ? 'may work on it too' : 'may read and practise' }}</span>
          <button v-if="people.role === 'owner'" type="button" class="act" :aria-label="`Take off the list of ${group.name}`" @click="takeOff(group.id)">Take off</button>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
section,
ul {
  display: grid;
  gap: var(--gap-3);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.new,
li {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-3);
  align-items: center;
}
.new > :first-child,
li strong {
  flex: 1;
  min-width: 10rem;
}
.problem {
  color: var(--accent);
}
</style>
