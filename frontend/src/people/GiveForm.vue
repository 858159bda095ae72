<script setup lang="ts">
/** Give a groove or a fill: of which song, at which tempo, by when, to whom. */
import { useQuery } from '@tanstack/vue-query'
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { api, type Group, taken } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { LEVELS } from '@/stages/chart/options'
import type { GroupActs } from './useGroups'

const props = defineProps<{ group: Group; acts: GroupActs }>()
const emit = defineEmits<{ given: [] }>()
const shelf = useQuery({ queryKey: ['songs'], queryFn: () => taken(api.GET('/api/songs')) })
const songs = computed(() =>
  (shelf.data.value ?? []).filter((one) => one.role === 'owner' && one.has_score).map((one) => ({ value: one.id, label: one.title, bpm: one.tempo_bpm })),
)
const song = ref('')
watch(songs, (all) => (song.value ||= all[0]?.value ?? ''), { immediate: true })
const practice = useQuery({
  queryKey: computed(() => ['targets', song.value]),
  queryFn: () => taken(api.GET('/api/songs/{song_id}/practice', { params: { path: { song_id: song.value } } })),
  enabled: computed(() => song.value !== ''),
})
const targets = computed(() => (practice.data.value?.targets ?? []).map((one) => ({ value: one.key, label: one.name })))
const target = ref('')
watch(targets, (all) => (target.value = all[0]?.value ?? ''), { immediate: true })
const bpm = ref(100)
watch(song, (id) => (bpm.value = Math.round(songs.value.find((one) => one.value === id)?.bpm ?? 100)), { immediate: true })
const level = ref('all')
const due = ref('')
const words = ref('')
const EVERYBODY = 0
const student = ref(EVERYBODY)
const students = computed(() => [
  { value: EVERYBODY, label: 'everybody' },
  ...props.group.members.filter((one) => !one.leads).map((one) => ({ value: one.user, label: one.name })),
])

async function give(): Promise<void> {
  const made = await props.acts.give({
    song: song.value,
    target: target.value,
    level: level.value as never,
    bpm: bpm.value,
    due: due.value || null,
    words: words.value.trim(),
    student: student.value || null,
  })
  if (made) emit('given')
}
</script>

<template>
  <form aria-label="New assignment" @submit.prevent="give">
    <p v-if="!songs.length" class="quiet">You have no song with a chart yet.</p>
    <template v-else>
      <div>Song <ChoiceField v-model="song" :options="songs" label="Song" /></div>
      <div>What of it <ChoiceField v-model="target" :options="targets" label="What of it" /></div>
      <div>Notes <ChoiceField v-model="level" :options="LEVELS.map((item) => ({ value: item.value as string, label: item.label }))" label="Notes" /></div>
      <label>Tempo <InputNumber v-model="bpm" :min="20" :max="400" suffix=" bpm" input-class="bpm" /></label>
      <label>By <input v-model="due" type="date" class="date" /></label>
      <div>For <ChoiceField v-model="student" :options="students" label="For whom" /></div>
      <label class="wide">Words to go with it <InputText v-model="words" maxlength="400" placeholder="soft ghosts; count aloud" /></label>
      <Button type="submit" label="Give it" :disabled="!target" data-test="give-it" />
    </template>
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-3) var(--gap-4);
  align-items: end;
  padding: var(--gap-4);
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--paper-raised);
}
form > div,
label {
  display: grid;
  gap: var(--gap-1);
}
/* One height for lists, numbers and days: their labels stand in a line. */
form > div :deep(.choice),
label :deep(input) {
  height: 2.45rem;
}
form > div :deep(.choice) {
  align-items: center;
}
.wide {
  flex: 1;
  min-width: 16rem;
}
label :deep(.bpm) {
  width: 7rem;
}
.date {
  padding: 0 var(--gap-2);
  border: 1px solid var(--line-strong);
  border-radius: 6px;
  background: var(--paper-raised);
  color: var(--ink);
  font: inherit;
}
</style>
