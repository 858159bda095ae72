<script setup lang="ts">
/**
 * The waveform under the ribbon, at any zoom, with the beats: a click goes there, a drag makes a
 * loop that snaps to bars (Alt: no snapping, the loop still holds whole bars of the drag's ends).
 */
import { useElementSize } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import WaveSurfer from 'wavesurfer.js'
import Regions, { type Region } from 'wavesurfer.js/plugins/regions'
import type { Score } from '@/api/client'
import { barAt } from '@/score/place'
import type { BarLoop } from '@/transport/usePlayer'
import { linesBetween } from './lines'

const props = defineProps<{
  songId: string
  score: Score
  position: number
  isPlaying: boolean
  loop: { start: number; end: number } | null
  /** Bar lines can be drawn to where they belong. */
  canDraw?: boolean
}>()
const emit = defineEmits<{
  seek: [time: number]
  loop: [range: BarLoop | null]
  draw: [bar: number, time: number]
}>()

const HEIGHT = 72
const CLOSEST = 400
const LEAST_DRAWN = 0.004
const NUDGE = 0.01

const box = ref<HTMLElement>()
const { width } = useElementSize(box)
const problem = ref('')
const zoom = ref(0)
const seen = ref({ start: 0, end: props.score.duration })
let wave: WaveSurfer | null = null
let regions: ReturnType<typeof Regions.create> | null = null
let shown: Region | null = null

/** The slider runs in octaves: from the whole song to a few beats. */
const pixelsASecond = computed(() => {
  const whole = width.value / Math.max(1, props.score.duration)
  return whole * (CLOSEST / whole) ** (zoom.value / 100)
})
const lines = computed(() => linesBetween(props.score.bars, seen.value.start, seen.value.end, width.value))
const x = (time: number) => ((time - seen.value.start) / (seen.value.end - seen.value.start || 1)) * width.value

/** The bar line that is being drawn, and to where. */
const drawing = ref<{ bar: number; time: number } | null>(null)
const handles = computed(() => (props.canDraw ? lines.value.filter((line) => line.bar !== null) : []))
const timeAt = (event: PointerEvent) => {
  const left = box.value?.getBoundingClientRect().left ?? 0
  return seen.value.start + ((event.clientX - left) / Math.max(1, width.value)) * (seen.value.end - seen.value.start)
}

function grab(event: PointerEvent, bar: number, time: number): void {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  drawing.value = { bar, time }
}

function pull(event: PointerEvent): void {
  if (drawing.value) drawing.value = { ...drawing.value, time: Math.max(0, timeAt(event)) }
}

function drop(): void {
  const drawn = drawing.value
  drawing.value = null
  const from = drawn && props.score.bars.find((bar) => bar.number === drawn.bar)?.start
  if (drawn && from !== undefined && from !== null && Math.abs(drawn.time - from) > LEAST_DRAWN)
    emit('draw', drawn.bar, drawn.time)
}

/** By keyboard: a hundredth of a second a step. */
function nudge(bar: number, time: number, step: number): void {
  emit('draw', bar, Math.max(0, time + step * NUDGE))
}

function showLoop(): void {
  if (!regions) return
  shown?.remove()
  shown = null
  if (props.loop) {
    shown = regions.addRegion({ ...props.loop, color: 'rgb(156 61 34 / 14%)', drag: false, resize: true })
  }
}

function take(region: Region): void {
  const bars = props.score.bars
  const first = barAt(bars, Math.max(region.start, bars[0]?.start ?? 0) + 0.01) ?? bars[0]
  const last = barAt(bars, region.end - 0.01) ?? bars.at(-1)
  if (first && last) emit('loop', { first: first.number, last: Math.max(first.number, last.number) })
}

onMounted(async () => {
  const answer = await fetch(`/api/songs/${props.songId}/peaks`)
  if (!answer.ok) {
    problem.value = 'No waveform is kept for this song: listen to it again.'
    return
  }
  const bytes = new Uint8Array(await answer.arrayBuffer())
  if (!box.value) return
  const style = getComputedStyle(box.value)
  regions = Regions.create()
  wave = WaveSurfer.create({
    container: box.value,
    height: HEIGHT,
    peaks: [Float32Array.from(bytes, (value) => value / 255)],
    duration: bytes.length / 100,
    waveColor: style.getPropertyValue('--shade').trim(),
    progressColor: style.getPropertyValue('--ink-soft').trim(),
    cursorColor: style.getPropertyValue('--accent').trim(),
    cursorWidth: 2,
    dragToSeek: false,
    autoScroll: false,
    plugins: [regions],
  })
  regions.enableDragSelection({ color: 'rgb(156 61 34 / 14%)' })
  regions.on('region-created', (region: Region) => {
    if (region === shown || (props.loop && region.start === props.loop.start && region.end === props.loop.end)) return
    take(region)
    region.remove()
  })
  regions.on('region-updated', take)
  wave.on('interaction', (time: number) => emit('seek', time))
  wave.on('scroll', (start: number, end: number) => (seen.value = { start, end }))
  wave.on('ready', showLoop)
})
onBeforeUnmount(() => wave?.destroy())

watch(pixelsASecond, (value) => {
  if (!wave || !width.value) return
  wave.zoom(value)
  const middle = props.position
  const span = width.value / value
  wave.setScrollTime(Math.max(0, middle - span / 2))
  const start = Math.min(Math.max(0, middle - span / 2), Math.max(0, props.score.duration - span))
  seen.value = { start, end: Math.min(props.score.duration, start + span) }
})
watch(
  () => props.position,
  (time) => {
    wave?.setTime(Math.min(time, props.score.duration))
    // The page turns when the playhead leaves it: still enough to read, never lost.
    if (props.isPlaying && (time < seen.value.start || time > seen.value.end)) wave?.setScrollTime(time)
  },
)
watch(() => props.loop, showLoop)
</script>

<template>
  <div class="wave">
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div ref="box" class="box" data-test="waveform">
      <svg v-if="!problem" class="lines" :width="width" :height="HEIGHT" aria-hidden="true">
        <g v-for="line in lines" :key="line.time">
          <line :class="line.kind" :x1="x(line.time)" :x2="x(line.time)" :y1="line.kind === 'bar' ? 0 : 54" :y2="HEIGHT" />
          <text v-if="line.number !== null" :x="x(line.time) + 4" y="13">{{ line.number }}</text>
        </g>
        <line v-if="drawing" class="drawn" :x1="x(drawing.time)" :x2="x(drawing.time)" y1="0" :y2="HEIGHT" />
      </svg>
      <button
        v-for="line in handles"
        :key="`${line.bar}`"
        type="button"
        class="handle"
        :style="{ left: `${x(line.time)}px` }"
        :aria-label="`Bar line ${line.bar}: draw it with the mouse, or with the arrow keys`"
        :title="`Bar ${line.bar}: draw the line to where it belongs`"
        :data-test="`line-${line.bar}`"
        @pointerdown.stop.prevent="grab($event, line.bar!, line.time)"
        @pointermove="pull"
        @pointerup="drop"
        @keydown.left.stop.prevent="nudge(line.bar!, line.time, -1)"
        @keydown.right.stop.prevent="nudge(line.bar!, line.time, 1)"
      />
    </div>
    <label class="zoom">
      <span class="quiet">Zoom</span>
      <input v-model.number="zoom" type="range" min="0" max="100" step="1" aria-label="Zoom of the waveform" data-test="zoom" />
    </label>
  </div>
</template>

<style scoped>
.wave {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 7rem;
  gap: 1rem;
  align-items: center;
}
.box {
  position: relative;
  height: 72px;
}
.lines {
  position: absolute;
  inset: 0;
  z-index: 4;
  pointer-events: none;
}
.handle {
  position: absolute;
  z-index: 5;
  bottom: 0;
  width: 12px;
  height: 16px;
  margin-left: -6px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: 6px 6px 0 0;
  background: var(--paper-raised);
  cursor: ew-resize;
  touch-action: none;
}
.handle:hover,
.handle:focus-visible {
  border-color: var(--accent);
}
.drawn {
  stroke: var(--accent);
  stroke-width: 2;
}
.bar {
  stroke: var(--line-strong);
}
.beat {
  stroke: var(--line-strong);
}
text {
  fill: var(--ink-soft);
  font-size: 0.75rem;
}
.zoom {
  display: grid;
  gap: 0.1rem;
}
.zoom input {
  width: 100%;
  accent-color: var(--accent);
}
.problem {
  grid-column: 1 / -1;
  margin: 0;
  color: var(--accent);
}
.quiet {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
</style>
