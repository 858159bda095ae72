<script setup lang="ts">
/** Who is in it, and how others come in. */
import { useClipboard } from '@vueuse/core'
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import { computed, ref } from 'vue'
import type { Group } from '@/api/client'
import type { GroupActs } from './useGroups'

const props = defineProps<{ group: Group; acts: GroupActs }>()
const { copy, copied, text } = useClipboard({ legacy: true, copiedDuring: 4000 })
const seats = ref(props.group.kind === 'class' ? 30 : 4)
const open = computed(() => props.group.invitations.filter((one) => one.state === 'open'))
const addressOf = (path: string) => `${location.origin}${path}`

async function invite(): Promise<void> {
  const made = await props.acts.invite(seats.value)
  if (made) await copy(addressOf(made.path))
}
</script>

<template>
  <section aria-labelledby="members">
    <h3 id="members">People</h3>
    <ul class="members">
      <li v-for="one in group.members" :key="one.id">
        <strong>{{ one.name }}</strong>
        <span class="quiet">{{ one.leads ? 'leads' : '' }}{{ one.is_me ? (one.leads ? ', you' : 'you') : '' }}</span>
        <span class="acts">
          <button v-if="group.leads && !one.is_me" type="button" class="act" :aria-pressed="one.leads" @click="acts.lead(one.id, !one.leads)">
            {{ one.leads ? 'Leads no longer' : 'Leads too' }}
          </button>
          <button v-if="(group.leads || one.is_me) && one.name !== group.owner" type="button" class="act" @click="acts.dismiss(one.id)">
            {{ one.is_me ? 'Leave' : 'Take off' }}
          </button>
        </span>
      </li>
    </ul>
    <template v-if="group.leads">
      <form @submit.prevent="invite">
        <label>Invite <InputNumber v-model="seats" :min="1" :max="200" show-buttons aria-label="Number of uses" size="small" input-class="seats" /> people</label>
        <Button type="submit" label="Copy invitation link" data-test="invite" />
      </form>
      <ul v-if="open.length" class="invitations">
        <li v-for="one in open" :key="one.id">
          <input readonly :value="addressOf(one.path)" aria-label="Address of the invitation" data-test="invitation" @focus="($event.target as HTMLInputElement).select()" />
          <span class="quiet">{{ one.taken }} of {{ one.seats }} came</span>
          <button type="button" class="act" @click="copy(addressOf(one.path))">{{ copied && text === addressOf(one.path) ? 'Copied' : 'Copy' }}</button>
          <button type="button" class="act" @click="acts.revoke(one.id)">Take back</button>
        </li>
      </ul>
    </template>
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
.members {
  columns: 20rem 2;
  column-gap: var(--gap-8);
}
li,
form,
label,
.acts {
  display: flex;
  gap: var(--gap-3);
  align-items: center;
}
li {
  min-height: 2.5rem;
  break-inside: avoid;
}
.acts {
  margin-left: auto;
}
form {
  flex-wrap: wrap;
}
label :deep(.seats) {
  width: 6rem;
}
.invitations input {
  flex: 1;
  min-width: 8rem;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font: inherit;
  font-size: var(--size-small);
  text-overflow: ellipsis;
}
</style>
