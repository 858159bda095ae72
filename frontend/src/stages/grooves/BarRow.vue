<script setup lang="ts">
/** One bar of the stack: four limb lanes on the common count ruler, its differences strong. */
import { computed } from 'vue'
import type { Bar, Hit, Limb, TypicalNote } from '@/api/client'
import NoteSign from '@/signs/NoteSign.vue'
import { fraction, LIMBS, laneOf } from '@/score/place'
import { laneY, LANE_HEIGHT, middleY, placeX, ROW_HEIGHT, SIDE } from './rowLayout'

const props = defineProps<{
  bar: Bar
  typical: readonly TypicalNote[]
  width: number
  cursor: { position: string; limb: Limb } | null
}>()
const emit = defineEmits<{ pick: [position: string, limb: Limb] }>()

const belongs = computed(
  () => new Set(props.typical.filter((note) => note.standing !== 'occasional').map((note) => key(note))),
)

function key(note: { position: string; instrument: string; ghost: boolean }): string {
  return `${note.position} ${note.instrument} ${note.ghost ? 'ghost' : ''}`
}

const written = computed(() => props.bar.hits.filter((hit) => hit.status !== 'left_out'))
const tone = (hit: Hit) => (belongs.value.has(key(hit)) && hit.status !== 'doubtful' ? 'same' : 'ink')

/** Core notes of the phrase that this bar lacks; a bar without any note is a rest, not a lack. */
const lacking = computed(() => {
  if (written.value.length === 0) return []
  const here = new Set(written.value.map((hit) => `${hit.position} ${hit.instrument}`))
  return props.typical.filter(
    (note) => note.standing === 'core' && !here.has(`${note.position} ${note.instrument}`),
  )
})

const beats = computed(() => props.bar.beats.map((_, index) => index / props.bar.beats.length))

function pick(event: MouseEvent): void {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const place = (event.clientX - box.left - SIDE) / (props.width - SIDE)
  const y = event.clientY - box.top
  const nearest = props.bar.cells.reduce((best, cell) =>
    Math.abs(fraction(cell.position) - place) < Math.abs(fraction(best.position) - place) ? cell : best,
  )
  const limb = LIMBS.reduce((best, item) =>
    Math.abs(laneY(item) - y) < Math.abs(laneY(best) - y) ? item : best,
  )
  emit('pick', nearest.position, limb)
}
</script>

<template>
  <svg class="lanes" :width="width" :height="ROW_HEIGHT" @click="pick">
    <line
      v-for="limb in LIMBS"
      :key="limb"
      class="lane"
      :x1="0"
      :x2="width"
      :y1="laneY(limb)"
      :y2="laneY(limb)"
    />
    <line
      v-for="place in beats"
      :key="place"
      class="beat"
      :class="{ one: place === 0 }"
      :x1="placeX(place, width)"
      :x2="placeX(place, width)"
      :y1="6"
      :y2="ROW_HEIGHT - 6"
    />
    <line class="middle" :x1="0" :x2="width" :y1="middleY" :y2="middleY" />
    <rect
      v-if="cursor"
      class="cursor"
      :x="placeX(cursor.position, width) - 13"
      :y="laneY(cursor.limb) - LANE_HEIGHT / 2"
      width="26"
      :height="LANE_HEIGHT"
      rx="6"
    />
    <circle
      v-for="note in lacking"
      :key="`${note.position} ${note.instrument}`"
      class="lack"
      r="4"
      :cx="placeX(note.position, width)"
      :cy="laneY(laneOf(note.limb))"
    >
      <title>The phrase has a note here; this bar does not.</title>
    </circle>
    <NoteSign
      v-for="hit in written"
      :key="`${hit.position} ${hit.instrument}`"
      :instrument="hit.instrument"
      :limb="hit.limb"
      :x="placeX(hit.position, width)"
      :y="laneY(laneOf(hit.limb))"
      :ghost="hit.ghost"
      :accent="hit.accent"
      :doubtful="hit.status === 'doubtful'"
      :inferred="hit.status === 'inferred'"
      :tone="tone(hit)"
    />
  </svg>
</template>

<style scoped>
.lanes {
  display: block;
  cursor: pointer;
}
.lane {
  stroke: var(--line);
}
.beat {
  stroke: var(--line);
}
.one {
  stroke: var(--line-strong);
}
.middle {
  stroke: var(--line-strong);
  stroke-width: 1.6;
}
.cursor {
  fill: var(--accent-soft);
  stroke: var(--accent);
  stroke-width: 1.5;
}
.lack {
  fill: none;
  stroke: var(--ink-faint);
  stroke-width: 1.4;
  stroke-dasharray: 2 2.4;
}
</style>
