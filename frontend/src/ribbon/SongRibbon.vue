<script setup lang="ts">
/**
 * The song as one strip: sections to scale, how loud it is, doubts as ticks, the loop, the
 * playhead. A click goes there; a drag makes a loop that snaps to bars.
 */
import { useElementSize, useMediaQuery } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Score, Section } from '@/api/client'
import { barAt } from '@/score/place'
import { clock } from '@/shelf/words'
import type { BarLoop } from '@/transport/usePlayer'

const props = defineProps<{
  score: Score
  position: number
  loop: { start: number; end: number } | null
  /** Bars that one player cannot play as they are written. */
  unplayable?: readonly number[]
}>()
const emit = defineEmits<{ seek: [time: number]; loop: [range: BarLoop | null] }>()

/** On a telephone that lies on its side, every line counts. */
const isLow = useMediaQuery('(max-height: 500px)')
const height = computed(() => (isLow.value ? 46 : 74))
const DRAG_PIXELS = 5

const strip = ref<HTMLElement>()
const { width } = useElementSize(strip)
const drag = ref<{ from: number; to: number } | null>(null)
let pressedAt: number | null = null

const x = (time: number) => (props.score.duration ? (time / props.score.duration) * width.value : 0)

const loudness = computed(() => {
  const values = props.score.loudness
  if (values.length === 0 || width.value === 0) return ''
  const step = width.value / values.length
  const points = values.map((value, index) => `L${(index * step).toFixed(1)} ${(height.value - 8 - value * (height.value - 38)).toFixed(1)}`)
  return `M0 ${height.value - 8}${points.join('')}L${width.value} ${height.value - 8}Z`
})

/** Runs of bars in which every note is somebody's own decision. */
const settled = computed(() => {
  const runs: { start: number; end: number }[] = []
  for (const bar of props.score.bars) {
    if (bar.hits.length === 0 || !bar.hits.every((hit) => hit.settled)) continue
    const last = runs.at(-1)
    if (last && Math.abs(last.end - bar.start) < 0.01) last.end = bar.end
    else runs.push({ start: bar.start, end: bar.end })
  }
  return runs
})

const SIGN_WIDTH = 8
/** What a section has room for: 0 nothing, 1 its name, 2 its name and its bars. */
function room(section: Section): 0 | 1 | 2 {
  const free = x(section.end) - x(section.start) - 12
  const name = section.label.length * SIGN_WIDTH
  if (name > free) return 0
  return name + `  ${section.bars} bars`.length * SIGN_WIDTH > free ? 1 : 2
}

const isOdd = (section: Section) => section.notes.some((note) => note.kind.startsWith('odd'))

const doubts = computed(() =>
  props.score.bars
    .filter((bar) => bar.hits.some((hit) => hit.status === 'doubtful'))
    .map((bar) => ({ number: bar.number, x: x((bar.start + bar.end) / 2) })),
)
/** Runs of bars that one player cannot play as they are written. */
const beyond = computed(() => {
  const runs: { first: number; last: number; start: number; end: number }[] = []
  for (const bar of props.score.bars) {
    if (!props.unplayable?.includes(bar.number)) continue
    const run = runs.at(-1)
    if (run?.last === bar.number - 1) Object.assign(run, { last: bar.number, end: bar.end })
    else runs.push({ first: bar.number, last: bar.number, start: bar.start, end: bar.end })
  }
  return runs
})
const shown = computed(() => {
  const range = drag.value
  if (range) return { start: Math.min(range.from, range.to), end: Math.max(range.from, range.to) }
  return props.loop
})

function timeAt(event: PointerEvent): number {
  const box = strip.value!.getBoundingClientRect()
  const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width))
  return share * props.score.duration
}

function press(event: PointerEvent): void {
  if (event.button !== 0) return
  pressedAt = event.clientX
  drag.value = null
  strip.value!.setPointerCapture(event.pointerId)
}

function move(event: PointerEvent): void {
  if (pressedAt === null) return
  const time = timeAt(event)
  if (drag.value) drag.value = { ...drag.value, to: time }
  else if (Math.abs(event.clientX - pressedAt) > DRAG_PIXELS) drag.value = { from: time, to: time }
}

function release(event: PointerEvent): void {
  if (pressedAt === null) return
  pressedAt = null
  const range = drag.value
  drag.value = null
  if (!range) return emit('seek', timeAt(event))
  const first = barAt(props.score.bars, Math.min(range.from, range.to)) ?? props.score.bars[0]
  const last = barAt(props.score.bars, Math.max(range.from, range.to)) ?? props.score.bars.at(-1)
  if (first && last) emit('loop', { first: first.number, last: last.number })
}

/** By keyboard: a bar at a time. */
function step(by: -1 | 1): void {
  const bars = props.score.bars
  const now = barAt(bars, props.position + 0.01)
  const index = now ? bars.indexOf(now) + by : by > 0 ? 0 : bars.length - 1
  const bar = bars[Math.min(Math.max(0, index), bars.length - 1)]
  if (bar) emit('seek', Math.max(0, bar.start))
}
</script>

<template>
  <div
    ref="strip"
    class="ribbon"
    :style="{ height: `${height}px` }"
    role="slider"
    tabindex="0"
    aria-label="Place in the song"
    :aria-valuemin="0"
    :aria-valuemax="Math.round(score.duration)"
    :aria-valuenow="Math.round(position)"
    :aria-valuetext="clock(position)"
    @pointerdown="press"
    @pointermove="move"
    @pointerup="release"
    @pointercancel="pressedAt = null"
    @keydown.left.stop.prevent="step(-1)"
    @keydown.right.stop.prevent="step(1)"
  >
    <svg :width="width" :height="height" aria-hidden="true">
      <rect
        v-if="shown"
        class="loop"
        :x="x(shown.start)"
        :width="Math.max(2, x(shown.end) - x(shown.start))"
        y="0"
        :height="height"
        rx="5"
      />
      <path class="loudness" :d="loudness" />
      <g v-for="section in score.sections" :key="section.first_bar">
        <line class="edge" :x1="x(section.start)" :x2="x(section.start)" y1="4" :y2="height - 4" />
        <text v-if="room(section) >= 1" :x="x(section.start) + 7" y="19">
          {{ section.label }}
          <tspan v-if="room(section) === 2" class="count" :class="{ odd: isOdd(section) }" dx="6">{{ section.bars }} bars</tspan>
        </text>
      </g>
      <line class="ground" x1="0" :x2="width" :y1="height - 8" :y2="height - 8" />
      <line
        v-for="run in settled"
        :key="`s${run.start}`"
        class="settled"
        :x1="x(run.start)"
        :x2="x(run.end)"
        :y1="height - 8"
        :y2="height - 8"
      >
        <title>Confirmed</title>
      </line>
      <path
        v-for="fill in score.fills"
        :key="`f${fill.bar}`"
        class="fill"
        :d="`M${x(fill.start)} ${height - 8}L${Math.max(x(fill.end), x(fill.start) + 5)} ${height - 16}V${height - 8}Z`"
      />
      <path
        v-for="doubt in doubts"
        :key="doubt.number"
        class="doubt"
        :d="`M${doubt.x} ${height - 8}v7`"
      />
      <line
        v-for="run in beyond"
        :key="`b${run.first}`"
        class="beyond"
        :x1="x(run.start) + 2"
        :x2="Math.max(x(run.start) + 5, x(run.end) - 2)"
        :y1="height - 20"
        :y2="height - 20"
      >
        <title>
          {{ run.first === run.last ? `Bar ${run.first}` : `Bars ${run.first}–${run.last}` }}: not playable by one player as written
        </title>
      </line>
      <line class="head" :x1="x(position)" :x2="x(position)" y1="0" :y2="height" />
      <path class="head-cap" :d="`M${x(position) - 5} 0h10l-5 7Z`" />
    </svg>
  </div>
</template>

<style scoped>
.ribbon {
  position: relative;
  cursor: pointer;
  touch-action: none;
  user-select: none;
}
svg {
  display: block;
}
.loop {
  fill: var(--accent-soft);
}
.loudness {
  fill: var(--shade);
}
.edge {
  stroke: var(--line-strong);
}
text {
  fill: var(--ink);
  font-size: 0.9rem;
}
.count {
  fill: var(--ink-soft);
}
.settled {
  stroke: var(--ink);
  stroke-width: 4;
}
.ground {
  stroke: var(--line-strong);
}
.fill {
  fill: var(--ink-soft);
}
.odd {
  fill: var(--accent);
  font-weight: 700;
}
.beyond {
  stroke: var(--accent);
  stroke-width: 3;
  stroke-dasharray: 5 3;
}
.doubt {
  stroke: var(--accent);
  stroke-width: 2;
}
.head {
  stroke: var(--accent);
  stroke-width: 2;
}
.head-cap {
  fill: var(--accent);
}
</style>
