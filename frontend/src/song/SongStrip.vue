<script setup lang="ts">
/** Above every stage: the whole song as a ribbon, its waveform, what was said last, undo. */
import { computed } from 'vue'
import SongRibbon from '@/ribbon/SongRibbon.vue'
import { leftWords, runWords } from '@/shelf/words'
import { isDense } from '@/stages/grooves/rowLayout'
import { isFolded } from '@/transport/phoneBar'
import { lazy } from './lazy'
import { useOpenScore, useOpenSong } from './openSong'

const WaveStrip = lazy(() => import('@/ribbon/WaveStrip.vue'))

const { id, song, part, player, found, stage, showWave, showHeard, isListening, mayEdit, guest, others, showShare, showComments, undo, redo } = useOpenSong()
const score = useOpenScore()
/** What readers and guests see, of which day, and what is new in it. */
const editionWords = computed(() => {
  const edition = song.value?.edition
  if (!edition || mayEdit.value) return ''
  const day = new Date(edition.published_at).toLocaleDateString(undefined, { day: 'numeric', month: 'long' })
  return [`Edition ${edition.number} of ${day}`, edition.words, ...edition.changed].filter(Boolean).join(' · ')
})
const run = computed(() => (isListening.value ? song.value!.run! : null))
</script>

<template>
  <p v-if="run" class="again" role="status">
    Listening again: {{ runWords(run).toLowerCase() }} …
    <span class="quiet">{{ leftWords(run) }} What you decided stays.</span>
  </p>
  <p v-else-if="score.heard_again && mayEdit" class="again">
    Orchesis has transcribed this song again and found differences.
    <button type="button" class="act" data-test="look-heard" @click="showHeard = true">Review changes</button>
  </p>
  <div class="strip" :class="{ folded: isFolded }">
    <SongRibbon
      :score="score"
      :position="player.position.value"
      :loop="player.loopTimes.value"
      :unplayable="found.unplayableBars.value"
      @seek="player.seek"
      @loop="player.setLoop"
    />
    <WaveStrip
      v-if="showWave"
      :song-id="id"
      :score="score"
      :position="player.position.value"
      :is-playing="player.isPlaying.value"
      :loop="player.loopTimes.value"
      :can-draw="stage === 'listen' && !part.isChanging.value"
      @seek="player.seek"
      @loop="player.setLoop"
      @draw="part.moveBarLine"
    />
  </div>
  <div class="notice" :class="{ folded: isFolded }">
    <p role="status" data-test="notice">{{ part.notice.value }}</p>
    <p v-if="editionWords" class="edition" data-test="edition">{{ editionWords }}</p>
    <p v-if="others.length" class="here" role="status" data-test="here">{{ others.map((one) => `${one.name} at bar ${one.bar}`).join(', ') }}</p>
    <div class="travel" role="group" aria-label="View, people and undo">
      <button v-if="song?.role === 'owner'" type="button" data-test="share" @click="showShare = true">Share</button>
      <button v-if="song && !guest" type="button" :aria-expanded="showComments" data-test="comments" @click="showComments = !showComments">
        Comments{{ song.open_comments ? ` (${song.open_comments})` : '' }}
      </button>
      <button
        v-if="stage === 'grooves'"
        v-tooltip.bottom="'Low rows: nine bars and more in sight'"
        type="button"
        class="density"
        :aria-pressed="isDense"
        data-test="dense"
        @click="isDense = !isDense"
      >
        Dense rows
      </button>
      <button type="button" :aria-pressed="showWave" data-test="show-wave" @click="showWave = !showWave">
        Waveform <kbd>W</kbd>
      </button>
      <template v-if="mayEdit">
        <button type="button" :disabled="!score.can_undo" data-test="undo" @click="undo">Undo <kbd>Ctrl Z</kbd></button>
        <button type="button" :disabled="!score.can_redo" @click="redo">Redo</button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.strip {
  flex: none;
  padding: 0.5rem var(--frame-edge) 0.25rem;
  border-bottom: 1px solid var(--line);
}
.again {
  flex: none;
  margin: 0;
  padding: 0.35rem var(--frame-edge);
  border-bottom: 1px solid var(--line);
  background: var(--paper-raised);
}
.notice {
  display: flex;
  justify-content: space-between;
  align-items: center;
  flex: none;
  min-height: 2rem;
  padding: 0 var(--frame-edge);
  color: var(--ink-soft);
  font-size: var(--size-small);
}
/* What the core says begins small: elsewhere it stands after a colon. */
.notice > p::first-letter {
  text-transform: uppercase;
}
.here {
  margin-left: auto;
  padding-right: var(--gap-4);
  color: var(--accent);
}
.travel {
  display: flex;
  flex: none;
  gap: var(--gap-2);
}
.travel button {
  border: 0;
  background: none;
  cursor: pointer;
}
.travel button[aria-pressed='true'] {
  color: var(--accent);
  font-weight: 700;
}
.travel button:disabled {
  color: var(--ink-faint);
  cursor: default;
}
@media (max-height: 500px) {
  .strip {
    padding-block: 0.25rem 0;
  }
  .notice {
    min-height: 1.5rem;
  }
}
@media (max-width: 700px) {
  .strip.folded,
  .folded .travel {
    display: none;
  }
  .notice.folded {
    min-height: 0;
  }
  /* Low rows are for a pointer: a finger needs the high ones. */
  .travel .density,
  .travel kbd {
    display: none;
  }
  .strip,
  .again,
  .notice {
    padding-inline: 0.75rem;
  }
}
</style>
