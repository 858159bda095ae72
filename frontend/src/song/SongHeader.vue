<script setup lang="ts">
/** The song's name and the stages, each with what is left to do in it. */
import BrandMark from '@/base/BrandMark.vue'
import { useOpenSong } from './openSong'
import { stagesOf } from './stages'

const emit = defineEmits<{ back: [] }>()
const open = useOpenSong()
const { song, part, stage, go, guest } = open
const stages = stagesOf(open)
</script>

<template>
  <header class="head">
    <BrandMark />
    <button v-if="guest && !guest.song" type="button" class="act" @click="emit('back')">All songs</button>
    <p class="song">
      <strong>{{ song?.title ?? '' }}</strong>
      <span v-if="song?.tempo_bpm" class="quiet">
        {{ Math.round(song.tempo_bpm) }} bpm · {{ song.meter }} · {{ song.feel }}{{ song.role === 'owner' ? '' : ` · from ${song.owner}` }}{{ guest?.words ? `, ${guest.words}` : '' }}
      </span>
    </p>
    <nav class="stages" aria-label="Stages">
      <button
        v-for="item in stages"
        :key="item.id"
        type="button"
        :aria-current="stage === item.id ? 'page' : undefined"
        @click="go(item.id)"
      >
        {{ item.name }}
        <small>{{ part.score.value ? item.badge(open) : '' }}</small>
      </button>
    </nav>
  </header>
</template>

<style scoped>
.head {
  display: flex;
  gap: 1.5rem;
  align-items: center;
  min-height: 3.6rem;
  padding: 0 var(--frame-edge);
  border-bottom: 1px solid var(--line);
}
.song {
  display: flex;
  gap: var(--gap-3);
  align-items: baseline;
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
}
.song strong {
  overflow: hidden;
  /* The name before the facts: they give way first. */
  flex: none;
  max-width: 100%;
  font-size: var(--size-lead);
  text-overflow: ellipsis;
}
.song .quiet {
  flex: 0 100 auto;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.stages {
  display: flex;
  flex: none;
  align-self: stretch;
  gap: clamp(0.5rem, 1.6vw, 1.5rem);
  margin-left: auto;
}
.stages button {
  display: grid;
  align-content: center;
  justify-items: start;
  padding: 0 0.25rem;
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  line-height: 1.2;
  white-space: nowrap;
  cursor: pointer;
}
.stages small {
  min-height: 1em;
  color: var(--ink-soft);
  font-size: 0.8125rem;
}
.stages button:hover {
  color: var(--accent);
}
.stages [aria-current] {
  border-bottom-color: var(--accent);
  color: var(--accent);
  font-weight: 700;
}
/* Eight stages side by side: what is left to do in each is told where there is room. */
@media (max-width: 1000px), (max-height: 500px) {
  .head {
    gap: 1rem;
    min-height: 2.75rem;
  }
  .stages {
    gap: var(--gap-4);
  }
  .song .quiet,
  .stages small {
    display: none;
  }
}
@media (max-width: 760px) {
  .head {
    flex-wrap: wrap;
    gap: 0.4rem 1rem;
    padding: 0.4rem 0.75rem;
  }
  .stages {
    flex: 1 1 100%;
    gap: 0;
    justify-content: space-between;
    width: 100%;
    font-size: clamp(0.8125rem, 3.8vw, 1rem);
  }
  .stages button {
    min-height: 2.25rem;
    padding: 0 0.1rem;
  }
}
</style>
