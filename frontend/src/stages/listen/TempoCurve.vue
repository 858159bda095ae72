<script setup lang="ts">
/** The tempo bar by bar over the song, with the sections that it runs through. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Score } from '@/api/client'
import { steps } from './scales'

const props = defineProps<{ score: Score; position: number }>()
const emit = defineEmits<{ seek: [time: number] }>()

const HEIGHT = 190
const LEFT = 44
const BOTTOM = 26

const box = ref<HTMLElement>()
const { width } = useElementSize(box)
const curve = computed(() => props.score.listening.tempo.curve as [number, number][])
const range = computed(() => {
  const values = curve.value.map(([, tempo]) => tempo)
  const middle = props.score.listening.tempo.median
  // A steady song should look steady: never less than 3 % either way.
  const reach = Math.max(...values.map((value) => Math.abs(value - middle)), 0.03 * middle) * 1.15
  return { low: middle - reach, high: middle + reach }
})
const x = (time: number) => LEFT + (time / props.score.duration) * Math.max(0, width.value - LEFT)
const y = (tempo: number) =>
  6 + (1 - (tempo - range.value.low) / (range.value.high - range.value.low)) * (HEIGHT - BOTTOM - 6)
const line = computed(() =>
  curve.value.map(([time, tempo], index) => `${index ? 'L' : 'M'}${x(time).toFixed(1)} ${y(tempo).toFixed(1)}`).join(''),
)
const ticks = computed(() => steps(range.value.low, range.value.high, 4))
const sections = computed(() => props.score.sections.filter((section) => section.mark))

function press(event: MouseEvent): void {
  const share = (event.offsetX - LEFT) / Math.max(1, width.value - LEFT)
  emit('seek', Math.min(1, Math.max(0, share)) * props.score.duration)
}
</script>

<template>
  <div ref="box" class="curve">
    <svg
      :width="width"
      :height="HEIGHT"
      role="img"
      :aria-label="score.listening.tempo.words"
      @click="press"
    >
      <g v-for="tick in ticks" :key="tick">
        <line class="rule" :x1="LEFT" :x2="width" :y1="y(tick)" :y2="y(tick)" />
        <text class="tick" :x="LEFT - 8" :y="y(tick) + 5" text-anchor="end">{{ tick }}</text>
      </g>
      <g v-for="section in sections" :key="section.first_bar">
        <line class="rule" :x1="x(section.start)" :x2="x(section.start)" y1="0" :y2="HEIGHT - BOTTOM" />
        <text
          v-if="x(section.end) - x(section.start) > section.label.length * 7"
          class="name"
          :x="x(section.start) + 3"
          :y="HEIGHT - 8"
        >
          {{ section.label }}
        </text>
      </g>
      <path class="line" :d="line" />
      <line class="head" :x1="x(position)" :x2="x(position)" y1="0" :y2="HEIGHT - BOTTOM" />
    </svg>
  </div>
</template>

<style scoped>
svg {
  display: block;
  cursor: pointer;
}
.rule {
  stroke: var(--line);
}
.tick,
.name {
  fill: var(--ink-soft);
  font-size: var(--size-small);
  font-variant-numeric: tabular-nums;
}
.line {
  fill: none;
  stroke: var(--accent);
  stroke-width: 2.2;
  stroke-linejoin: round;
}
.head {
  stroke: var(--ink);
}
</style>
