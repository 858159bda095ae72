<script setup lang="ts">
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Song } from '@/api/client'
import { isWorking } from './useShelf'
import { clock, leftWords, runWords } from './words'

const props = defineProps<{ song: Song }>()
const emit = defineEmits<{ cancel: []; tryAgain: []; remove: [] }>()

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
      <span class="label">{{ song.file_name }}</span>
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
        {{ song.bars ? `${song.bars} bars` : '' }}{{ song.doubts ? `, ${song.doubts} doubtful notes` : '' }}
      </span>
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
          v-if="failed && !song.has_score"
          label="Try again"
          variant="outlined"
          size="small"
          @click="emit('tryAgain')"
        />
        <Button
          label="Remove"
          variant="text"
          severity="secondary"
          size="small"
          :aria-label="`Remove ${song.title}`"
          @click="emit('remove')"
        />
      </template>
    </div>
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
