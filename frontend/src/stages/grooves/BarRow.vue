<script setup lang="ts">
/** One bar of the stack: four limb lanes on the common count ruler, its differences strong. */
import { isHalfOpen } from '@/score/opening'
import { computed, inject } from 'vue'
import type { Bar, Hit, Limb, PhraseNote, Shade } from '@/api/client'
import NoteSign from '@/signs/NoteSign.vue'
import { fraction, laneOf } from '@/score/place'
import { OPEN_SONG } from '@/song/openSong'
import LaneGround from './LaneGround.vue'
import { laneY, layout, placeIn, placeX, rowHeight } from './rowLayout'
import { isSelected, type Selection } from './useCursor'

const props = defineProps<{
  bar: Bar
  typical: readonly PhraseNote[]
  width: number
  cursor: { position: string; limb: Limb } | null
  /** Where a note that is being dragged would go. */
  target?: { position: string; limb: Limb } | null
  shade?: Shade | null
  selection?: Selection | null
  /** Notes that something is said of beside the bar. */
  marked?: readonly { position: string; limb: Limb | null }[]
}>()
/** The same empty list each time: rows to which nothing happens are not drawn again. */
const NONE: readonly never[] = []
/** Notes of this bar that a fact of the panel is about. */
const open = inject(OPEN_SONG, null)
const told = computed<readonly Hit[]>(() => {
  const lit = open?.found.lit?.value
  if (!lit) return NONE
  return props.bar.hits.filter((hit) => lit.places.has(`${hit.bar} ${hit.position} ${hit.instrument}`))
})
/** Places of this bar that one player cannot play as they are written. */
const unplayable = computed(() => open?.found.unplayable?.value.get(props.bar.number) ?? NONE)
const emit = defineEmits<{ pick: [position: string, limb: Limb, extend: boolean] }>()

const belongs = computed(
  () => new Set(props.typical.filter((note) => note.standing !== 'occasional').map((note) => key(note))),
)

function key(note: { position: string; instrument: string; ghost: boolean; ornament?: string | null; opening?: number | null }): string {
  return `${note.position} ${note.instrument} ${note.ghost ? 'ghost' : ''} ${note.ornament ?? ''} ${isHalfOpen(note) ? 'half' : ''}`
}

const written = computed(() => props.bar.hits.filter((hit) => hit.status !== 'left_out'))
const taken = computed(() => new Set(written.value.map((hit) => `${hit.position} ${laneOf(hit.limb)}`)))
/** What was left out stays in sight, faintly: the decision can be taken back. */
const leftOut = computed(() =>
  props.bar.hits.filter(
    (hit) => hit.status === 'left_out' && !taken.value.has(`${hit.position} ${laneOf(hit.limb)}`),
  ),
)
const tone = (hit: Hit) => (belongs.value.has(key(hit)) && hit.status !== 'doubtful' ? 'same' : 'ink')

/** Core notes of the phrase that this bar lacks; a bar without any note is a rest, not a lack. */
const lacking = computed(() => {
  if (written.value.length === 0) return []
  const here = new Set(written.value.map((hit) => `${hit.position} ${hit.instrument}`))
  return props.typical.filter(
    (note) => note.standing === 'core' && !here.has(`${note.position} ${note.instrument}`),
  )
})

const chosen = computed(() => {
  const { selection, bar } = props
  if (!selection) return []
  return selection.limbs.flatMap((limb) =>
    bar.cells
      .filter((cell) => isSelected(selection, bar.number, fraction(cell.position), limb))
      .map((cell) => ({ limb, position: cell.position })),
  )
})

function pick(event: MouseEvent): void {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const { position, limb } = placeIn(props.bar, box, event.clientX, event.clientY)
  emit('pick', position, limb, event.shiftKey)
}
</script>

<template>
  <svg class="lanes" :width="width" :height="rowHeight" @click="pick">
    <LaneGround :bar="bar" :width="width" :shade="shade" />
    <rect
      v-for="cell in chosen"
      :key="`${cell.limb} ${cell.position}`"
      class="chosen"
      :x="placeX(cell.position, width) - 12"
      :y="laneY(cell.limb) - layout.lane / 2"
      width="24"
      :height="layout.lane"
    />
    <rect
      v-for="note in marked ?? told"
      :key="`marked ${note.limb} ${note.position} ${'instrument' in note ? note.instrument : ''}`"
      class="chosen"
      :x="placeX(note.position, width) - 12"
      :y="laneY(laneOf(note.limb)) - layout.lane / 2"
      width="24"
      :height="layout.lane"
      rx="6"
    />
    <rect
      v-if="cursor"
      class="cursor"
      :x="placeX(cursor.position, width) - 13"
      :y="laneY(cursor.limb) - layout.lane / 2"
      width="26"
      :height="layout.lane"
      rx="6"
    />
    <rect
      v-if="target"
      class="target"
      :x="placeX(target.position, width) - 13"
      :y="laneY(target.limb) - layout.lane / 2"
      width="26"
      :height="layout.lane"
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
      v-for="hit in leftOut"
      :key="`out ${hit.position} ${hit.instrument}`"
      :scale="layout.sign"
      :instrument="hit.instrument"
      :limb="hit.limb"
      :x="placeX(hit.position, width)"
      :y="laneY(laneOf(hit.limb))"
      ghost
      out
      tone="faint"
    />
    <NoteSign
      v-for="hit in written"
      :key="`${hit.position} ${hit.instrument}`"
      :scale="layout.sign"
      :instrument="hit.instrument"
      :limb="hit.limb"
      :x="placeX(hit.position, width)"
      :y="laneY(laneOf(hit.limb))"
      :ghost="hit.ghost"
      :accent="hit.accent"
      :ornament="hit.ornament"
        :half="isHalfOpen(hit)"
      :doubtful="hit.status === 'doubtful'"
      :inferred="hit.status === 'inferred'"
      :tone="tone(hit)"
    />
    <g v-for="spot in unplayable" :key="`unplayable ${spot.position}`" class="unplayable">
      <title>{{ spot.words }}</title>
      <circle :cx="placeX(spot.position, width)" :cy="rowHeight - 3" r="6" />
      <text :x="placeX(spot.position, width)" :y="rowHeight + 1">!</text>
    </g>
  </svg>
</template>

<style scoped>
.lanes {
  display: block;
  cursor: pointer;
}
.cursor {
  fill: var(--accent-soft);
  fill-opacity: 0.7;
  stroke: var(--accent);
  stroke-width: 1.5;
}
.target {
  fill: none;
  stroke: var(--accent);
  stroke-dasharray: 4 3;
  stroke-width: 1.5;
}
.chosen {
  fill: var(--accent);
  fill-opacity: 0.22;
}
.unplayable circle {
  fill: var(--paper-raised);
  stroke: var(--accent);
  stroke-width: 1.4;
}
.unplayable text {
  fill: var(--accent);
  font-weight: 700;
  font-size: 0.6875rem;
  text-anchor: middle;
}
.lack {
  fill: none;
  stroke: var(--ink-faint);
  stroke-width: 1.4;
  stroke-dasharray: 2 2.4;
}
</style>
