<script setup lang="ts">
/** One bar of the typical phrase: core notes in ink, usual and occasional ones fainter, with their share. */
import { isHalfOpen } from '@/score/opening'
import type { Bar, PhraseNote } from '@/api/client'
import NoteSign from '@/signs/NoteSign.vue'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import { laneOf, placeWords } from '@/score/place'
import LaneGround from './LaneGround.vue'
import { laneY, layout, placeX, rowHeight } from './rowLayout'

const props = defineProps<{ bar: Bar; notes: readonly PhraseNote[]; width: number }>()
const TONE = { core: 'ink', usual: 'same', occasional: 'faint' } as const

function words(note: PhraseNote): string {
  return `${INSTRUMENT_NAMES[note.instrument]} on ${placeWords(props.bar, note.position)}: ${note.standing}, in ${note.count} of ${note.asked} bars`
}
</script>

<template>
  <svg class="typical" :width="width" :height="rowHeight" role="img" aria-label="A bar of the typical phrase">
    <LaneGround :bar="bar" :width="width" />
    <g v-for="note in notes" :key="`${note.position} ${note.instrument}`">
      <title>{{ words(note) }}</title>
      <rect
        class="reach"
        :x="placeX(note.position, width) - 12"
        :y="laneY(laneOf(note.limb)) - 11"
        width="24"
        height="22"
      />
      <NoteSign
        :scale="layout.sign"
        :instrument="note.instrument"
        :limb="note.limb"
        :x="placeX(note.position, width)"
        :y="laneY(laneOf(note.limb))"
        :ghost="note.ghost"
        :accent="note.accent"
        :ornament="note.ornament"
        :half="isHalfOpen(note)"
        :tone="TONE[note.standing]"
      />
      <rect
        v-if="note.standing !== 'core'"
        class="share"
        :x="placeX(note.position, width) - 7"
        :y="laneY(laneOf(note.limb)) + 0.59 * layout.lane"
        :width="14 * Math.min(1, note.share)"
        height="1.6"
      />
    </g>
  </svg>
</template>

<style scoped>
.typical {
  display: block;
}
.reach {
  fill: transparent;
}
.share {
  fill: var(--ink-soft);
}
</style>
