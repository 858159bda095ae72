<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import ProgressBar from 'primevue/progressbar'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { ShelfSong } from '@/api/client'
import { isWorking } from './useShelf'
import { clock, leftWords, runWords } from './words'

const props = defineProps<{ song: ShelfSong }>()
const emit = defineEmits<{ cancel: []; tryAgain: []; remove: []; tags: [string[]]; performer: [string] }>()

const isOpen = ref(false)
const tags = ref('')
const performer = ref('')
function open(): void {
  isOpen.value = !isOpen.value
  tags.value = props.song.tags.join(', ')
  performer.value = props.song.performer
}
function keep(): void {
  const wanted = tags.value.split(',').map((name) => name.trim()).filter(Boolean)
  if (wanted.join() !== props.song.tags.join()) emit('tags', wanted)
  if (props.song.role === 'owner' && performer.value.trim() !== props.song.performer) emit('performer', performer.value.trim())
  isOpen.value = false
}
/** What one did with it last, and what comes next. */
const practised = computed(() => {
  const { practised_at, next_step } = props.song
  const day = practised_at ? new Date(practised_at).toLocaleDateString(undefined, { day: 'numeric', month: 'short' }) : ''
  return [day && `practised ${day}`, next_step].filter(Boolean).join(', ')
})

const working = computed(() => isWorking(props.song.run))
const failed = computed(() => {
  const state = props.song.run?.state
  return state === 'failed' || state === 'interrupted' || state === 'cancelled'
})
const percent = computed(() => Math.round((props.song.run?.progress ?? 0) * 100))
const facts = computed(() => {
  const song = props.song
  if (!song.has_score) return ''
  if (song.tempo_bpm === 0) return 'no steady beat found'
  return `${Math.round(song.tempo_bpm)} bpm · ${song.meter} · ${song.feel}`
})
</script>

<template>
  <li class="row" :data-song="song.id">
    <div class="name">
      <RouterLink v-if="song.has_score" :to="`/songs/${song.id}`" class="title">{{ song.title }}</RouterLink>
      <span v-else class="title waiting">{{ song.title }}</span>
      <span class="label">{{ [song.performer, song.role === 'owner' ? (song.performer ? '' : song.file_name) : `from ${song.owner}`, ...song.tags].filter(Boolean).join(' · ') }}</span>
    </div>
    <span class="length">{{ song.duration ? clock(song.duration) : '' }}</span>
    <div v-if="working && song.run" class="state" role="status">
      <span class="stage">
        {{ runWords(song.run) }} <span class="label">{{ leftWords(song.run) }}</span>
      </span>
      <ProgressBar :value="percent" :show-value="false" :aria-label="`${song.title}: ${percent} %`" />
    </div>
    <div v-else-if="failed && song.run && !song.has_score" class="state trouble" role="status">
      {{ runWords(song.run) }}
    </div>
    <div v-else class="state facts">
      <span>{{ facts }}</span>
      <span class="label">
        {{ song.bars ? `${song.bars} bars` : '' }}{{ song.doubts ? `, ${song.doubts} uncertain notes` : '' }}{{ song.difficulty ? `, difficulty ${song.difficulty.toFixed(1)}` : '' }}
      </span>
      <span v-if="practised" class="label">{{ practised }}</span>
    </div>
    <div class="does">
      <Button
        v-if="working"
        label="Cancel"
        variant="outlined"
        severity="secondary"
        size="small"
        @click="emit('cancel')"
      />
      <template v-else>
        <Button
          v-if="failed && !song.has_score && song.role === 'owner'"
          label="Try again"
          variant="outlined"
          size="small"
          @click="emit('tryAgain')"
        />
        <Button label="Tags" variant="text" severity="secondary" size="small" :aria-label="`Tags and performer of ${song.title}`" :aria-expanded="isOpen" @click="open" />
        <Button
          v-if="song.role === 'owner'"
          label="Remove"
          variant="text"
          severity="secondary"
          size="small"
          :aria-label="`Remove ${song.title}`"
          @click="emit('remove')"
        />
      </template>
    </div>
    <form v-if="isOpen" class="notes" @submit.prevent="keep">
      <label v-if="song.role === 'owner'">Performer <InputText v-model="performer" maxlength="200" size="small" /></label>
      <label class="wide">Tags, with commas between them <InputText v-model="tags" maxlength="400" size="small" data-test="tags" /></label>
      <Button type="submit" label="Keep" size="small" />
    </form>
  </li>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) 4rem minmax(0, 1.4fr) auto;
  gap: var(--gap-4);
  align-items: center;
  min-height: 5rem;
  padding: var(--gap-3) var(--gap-2);
  border-bottom: 1px solid var(--line);
}
.name,
.state {
  display: grid;
  min-width: 0;
}
.name .label {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.title {
  font: 500 1.375rem/1.3 var(--serif);
  color: var(--ink);
  text-decoration: none;
  overflow-wrap: anywhere;
}
a.title:hover {
  color: var(--accent);
  text-decoration: underline;
}
.waiting {
  color: var(--ink-soft);
}
.length {
  font-variant-numeric: tabular-nums;
  color: var(--ink-soft);
}
.stage {
  display: flex;
  justify-content: space-between;
  gap: var(--gap-2);
  margin-bottom: var(--gap-1);
}
.state :deep(.p-progressbar) {
  height: 6px;
}
.trouble {
  color: var(--accent);
}
.notes {
  display: flex;
  flex-wrap: wrap;
  grid-column: 1 / -1;
  gap: var(--gap-3);
  align-items: end;
}
.notes label {
  display: grid;
  gap: var(--gap-1);
}
.notes .wide {
  flex: 1;
  min-width: 14rem;
}
.does {
  display: flex;
  justify-content: flex-end;
  gap: var(--gap-1);
  min-width: 6rem;
}
@media (max-width: 760px) {
  .row {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .length {
    display: none;
  }
  .state {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
</style>
