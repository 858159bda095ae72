<script setup lang="ts">
/** One voice against the grid: a dot a stroke, the median with its interval, later to the right. */
import { computed } from 'vue'
import type { MeasuredFeel } from '@/api/client'

type Voice = MeasuredFeel['pocket']['voices'][number]
const props = defineProps<{ voice: Voice; reach: number; now?: number }>()

const WIDTH = 600
const HEIGHT = 58
const shown = computed(() => Math.min(props.reach, 45))
const x = (ms: number) => WIDTH / 2 + (ms / shown.value) * (WIDTH / 2 - 12)
const last = computed(() => props.voice.points.at(-1)?.[0] ?? 1)
/** From the beginning of the song, above, to its end, below. */
const dots = computed(() =>
  props.voice.points
    .filter(([, ms]) => Math.abs(ms!) <= shown.value)
    .map(([time, ms]) => ({ x: x(ms!), y: 8 + (time! / last.value) * (HEIGHT - 16), time: time! })),
)
const marks = [-40, -20, 20, 40]
</script>

<template>
  <div class="voice">
    <h4>{{ voice.voice }}</h4>
    <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="voice.words">
      <rect class="ground" x="0" y="0" :width="WIDTH" :height="HEIGHT" rx="4" />
      <line v-for="ms in marks" :key="ms" class="mark" :x1="x(ms)" :x2="x(ms)" y1="0" :y2="HEIGHT" />
      <line class="grid" :x1="x(0)" :x2="x(0)" y1="0" :y2="HEIGHT" />
      <rect class="sure" :x="x(voice.low)" y="0" :width="Math.max(2, x(voice.high) - x(voice.low))" :height="HEIGHT" />
      <circle v-for="(dot, index) in dots" :key="index" class="dot" :cx="dot.x" :cy="dot.y" r="2.2" />
      <line class="middle" :x1="x(voice.ms)" :x2="x(voice.ms)" y1="0" :y2="HEIGHT" />
    </svg>
    <p>
      {{ voice.words }}
      <small>{{ voice.strokes }} strokes, half of them within {{ voice.spread.toFixed(0) }} ms of that</small>
    </p>
  </div>
</template>

<style scoped>
.voice {
  display: grid;
  grid-template-columns: 6.5rem minmax(0, 1fr) 20rem;
  gap: 0 var(--gap-4);
  align-items: center;
}
h4 {
  margin: 0;
  font-size: 1rem;
  font-weight: 500;
}
h4::first-letter {
  text-transform: uppercase;
}
svg {
  display: block;
  width: 100%;
}
.ground {
  fill: var(--paper-raised);
}
.mark {
  stroke: var(--line);
}
.grid {
  stroke: var(--ink);
  stroke-width: 1.5;
}
.sure {
  fill: var(--accent-soft);
}
.dot {
  fill: var(--ink-soft);
  fill-opacity: 0.55;
}
.middle {
  stroke: var(--accent);
  stroke-width: 2.5;
}
p {
  margin: 0;
  line-height: 1.35;
}
small {
  display: block;
  color: var(--ink-soft);
  font-size: var(--size-small);
}
@media (max-width: 800px) {
  .voice {
    grid-template-columns: minmax(0, 1fr);
    gap: var(--gap-1);
  }
}
</style>
