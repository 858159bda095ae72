<script setup lang="ts">
/** Bars on their lanes under one count ruler, with what is a fill in them marked, and the hands below. */
import { isHalfOpen } from '@/score/opening'
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Bar, Hit } from '@/api/client'
import { LIMBS } from '@/api/vocabulary'
import { fraction, laneOf } from '@/score/place'
import NoteSign from '@/signs/NoteSign.vue'
import CountRuler from '@/stages/grooves/CountRuler.vue'
import LaneGround from '@/stages/grooves/LaneGround.vue'
import { laneY, layout, placeX, rowHeight, SIDE } from '@/stages/grooves/rowLayout'

const props = defineProps<{
  bars: readonly Bar[]
  /** What of them is marked: from a place of the first to one of the last. */
  from?: number
  to?: number
  /** Hands below the notes. */
  hands?: readonly { bar: number; position: string; letter: string }[]
  /** Seconds of the song, where it sounds. */
  now?: number
  /** What is drawn, for those who do not see it. */
  label: string
}>()

const LANES = { RH: 'right hand', LH: 'left hand', RF: 'right foot', LF: 'left foot' } as const
const box = ref<HTMLElement>()
const { width: whole } = useElementSize(box)
const width = computed(() => Math.max(260, Math.floor(whole.value / Math.min(2, props.bars.length)) - 4))
/** As the chosen way has it: one hand at a place plays it; two keep what they have. */
const handAt = computed(
  () => new Map((props.hands ?? []).map((item) => [`${item.bar} ${item.position}`, item.letter] as const)),
)
function limbOf(hit: Hit): Hit['limb'] {
  const letter = handAt.value.get(`${hit.bar} ${hit.position}`)
  if (!hit.limb || hit.limb.endsWith('F') || !letter || letter === 'B') return hit.limb
  return letter === 'R' ? 'RH' : 'LH'
}
const written = (bar: Bar) => bar.hits.filter((hit) => hit.status !== 'left_out')
const isOverdub = (hit: Hit) => hit.limb === null
const lettersOf = (bar: Bar) => (props.hands ?? []).filter((item) => item.bar === bar.number)

function marked(index: number): { x: number; wide: number } | null {
  if (props.from === undefined || props.to === undefined) return null
  const low = index === 0 ? props.from : 0
  const high = index === props.bars.length - 1 ? props.to : 1
  const x = placeX(low, width.value) - (low === 0 ? SIDE / 2 : 10)
  return { x, wide: placeX(high, width.value) - x - (high === 1 ? 0 : 10) }
}

const playing = computed(() => {
  const { now } = props
  if (now === undefined) return null
  const index = props.bars.findIndex((bar) => now >= bar.start && now < bar.end)
  const bar = props.bars[index]
  if (!bar) return null
  const edges = [...bar.beats, bar.end]
  const beat = Math.max(0, edges.findLastIndex((edge) => edge <= now))
  const within = (now - edges[beat]!) / Math.max(1e-3, (edges[beat + 1] ?? bar.end) - edges[beat]!)
  return { index, x: placeX((beat + within) / bar.beats.length, width.value) }
})
const tall = computed(() => rowHeight.value + (props.hands ? 26 : 0))
const fills = computed(() => props.bars.map((_, index) => marked(index)))
const place = (position: string) => placeX(fraction(position), width.value)
</script>

<template>
  <div ref="box" class="bars">
    <div v-for="(bar, index) in bars" :key="bar.number" class="bar">
      <CountRuler :bar="bar" :width="width" />
      <svg :width="width" :height="tall" role="img" :aria-label="index ? undefined : label" :aria-hidden="index > 0">
        <rect
          v-if="fills[index]"
          class="is-fill"
          :x="fills[index]!.x"
          y="0"
          :width="fills[index]!.wide"
          :height="rowHeight"
          rx="6"
        />
        <LaneGround :bar="bar" :width="width" />
        <text v-for="limb in index ? [] : LIMBS" :key="limb" class="lane-name" x="-22" :y="laneY(limb) + 4">
          <title>{{ LANES[limb] }}</title>
          {{ limb }}
        </text>
        <NoteSign
          v-for="hit in written(bar)"
          :key="`${hit.position} ${hit.instrument}`"
          :scale="layout.sign"
          :instrument="hit.instrument"
          :limb="limbOf(hit)"
          :x="place(hit.position)"
          :y="laneY(laneOf(limbOf(hit)))"
          :ghost="hit.ghost"
          :accent="hit.accent"
          :ornament="hit.ornament"
        :half="isHalfOpen(hit)"
          :doubtful="hit.status === 'doubtful'"
          :inferred="hit.status === 'inferred'"
          :tone="isOverdub(hit) ? 'faint' : 'ink'"
        />
        <text
          v-for="item in lettersOf(bar)"
          :key="item.position"
          class="hand"
          :class="{ left: item.letter === 'L' }"
          :x="place(item.position)"
          :y="rowHeight + 18"
        >
          {{ item.letter }}
        </text>
        <line v-if="playing?.index === index" class="now" :x1="playing.x" :x2="playing.x" y1="0" :y2="rowHeight" />
      </svg>
    </div>
  </div>
</template>

<style scoped>
.bars {
  display: flex;
  flex-wrap: wrap;
  gap: 0 2px;
  min-width: 0;
  padding-left: 1.5rem;
  overflow-x: auto;
}
svg {
  display: block;
  overflow: visible;
}
.is-fill {
  fill: var(--accent-soft);
  fill-opacity: 0.55;
}
.lane-name {
  fill: var(--ink-soft);
  font-size: 0.6875rem;
}
.hand {
  fill: var(--ink);
  font-weight: 700;
  text-anchor: middle;
}
.hand.left {
  fill: var(--accent);
}
.now {
  stroke: var(--accent);
  stroke-width: 2;
}
</style>
