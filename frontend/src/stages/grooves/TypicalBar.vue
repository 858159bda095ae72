<script setup lang="ts">
/** The typical bar: core notes in ink, usual and occasional ones with the share of bars that have them. */
import { computed } from 'vue'
import type { Bar, TypicalNote } from '@/api/client'
import NoteSign from '@/signs/NoteSign.vue'
import { INSTRUMENT_NAMES, LIMBS, laneOf, placeWords } from '@/score/place'
import { laneY, middleY, placeX, ROW_HEIGHT } from './rowLayout'

const props = defineProps<{ bar: Bar; typical: readonly TypicalNote[]; width: number }>()

const beats = computed(() => props.bar.beats.map((_, index) => index / props.bar.beats.length))
const TONE = { core: 'ink', usual: 'same', occasional: 'faint' } as const

function words(note: TypicalNote): string {
  const share = Math.round(note.share * 100)
  return `${INSTRUMENT_NAMES[note.instrument]} on ${placeWords(props.bar, note.position)}: ${note.standing}, in ${share} % of the bars`
}
</script>

<template>
  <svg class="typical" :width="width" :height="ROW_HEIGHT" role="img" aria-label="The typical bar">
    <line v-for="limb in LIMBS" :key="limb" class="lane" :x1="0" :x2="width" :y1="laneY(limb)" :y2="laneY(limb)" />
    <line
      v-for="place in beats"
      :key="place"
      class="lane"
      :x1="placeX(place, width)"
      :x2="placeX(place, width)"
      :y1="6"
      :y2="ROW_HEIGHT - 6"
    />
    <line class="middle" :x1="0" :x2="width" :y1="middleY" :y2="middleY" />
    <g v-for="note in typical" :key="`${note.position} ${note.instrument}`">
      <title>{{ words(note) }}</title>
      <rect
        class="reach"
        :x="placeX(note.position, width) - 12"
        :y="laneY(laneOf(note.limb)) - 11"
        width="24"
        height="22"
      />
      <NoteSign
        :instrument="note.instrument"
        :limb="note.limb"
        :x="placeX(note.position, width)"
        :y="laneY(laneOf(note.limb))"
        :ghost="note.ghost"
        :accent="note.accent"
        :tone="TONE[note.standing]"
      />
      <rect
        v-if="note.standing !== 'core'"
        class="share"
        :x="placeX(note.position, width) - 7"
        :y="laneY(laneOf(note.limb)) + 9.5"
        :width="14 * note.share"
        height="1.6"
      />
    </g>
  </svg>
</template>

<style scoped>
.typical {
  display: block;
}
.lane {
  stroke: var(--line);
}
.middle {
  stroke: var(--line-strong);
  stroke-width: 1.6;
}
.reach {
  fill: transparent;
}
.share {
  fill: var(--ink-soft);
}
</style>
