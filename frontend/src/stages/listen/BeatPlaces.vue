<script setup lang="ts">
/** Placement within the beat: all beats of the song on top of each other. */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Score } from '@/api/client'
import { heights } from './scales'

const props = defineProps<{ score: Score }>()

const ROW = 62
const LEFT = 118
const RIGHT = 24
const TOP = 8

const box = ref<HTMLElement>()
const { width } = useElementSize(box)
const lines = computed(() => props.score.listening.feel.lines)
const inner = computed(() => Math.max(0, width.value - LEFT - RIGHT))
const x = (place: number) => LEFT + place * inner.value
const base = (row: number) => TOP + (row + 1) * ROW - 8
const height = computed(() => TOP + lines.value.length * ROW + 20)

function area(counts: readonly number[], row: number): string {
  const values = heights(counts)
  const bottom = base(row)
  const points = values.map(
    (value, index) => `L${x(index / (values.length - 1)).toFixed(1)} ${(bottom - value * (ROW - 16)).toFixed(1)}`,
  )
  return `M${x(0)} ${bottom}${points.join('')}L${x(1)} ${bottom}Z`
}

const COUNTS = [
  { place: 0, word: 'beat' },
  { place: 0.25, word: 'e' },
  { place: 0.5, word: '&' },
  { place: 0.75, word: 'a' },
  { place: 1, word: 'beat' },
]
</script>

<template>
  <div ref="box" class="places">
    <svg :width="width" :height="height" role="img" :aria-label="score.listening.feel.words">
      <line
        v-for="third in [1 / 3, 2 / 3]"
        :key="third"
        class="third"
        :x1="x(third)"
        :x2="x(third)"
        :y1="TOP"
        :y2="base(lines.length - 1)"
      />
      <g v-for="count in COUNTS" :key="count.place">
        <line class="count" :x1="x(count.place)" :x2="x(count.place)" :y1="TOP" :y2="base(lines.length - 1)" />
        <text class="word" :x="x(count.place)" :y="height - 5" text-anchor="middle">{{ count.word }}</text>
      </g>
      <text
        v-for="third in [1 / 3, 2 / 3]"
        :key="`t${third}`"
        class="small"
        :x="x(third)"
        :y="height - 5"
        text-anchor="middle"
      >
        triplet
      </text>
      <g v-for="(line, row) in lines" :key="line.name">
        <text class="name" :x="LEFT - 12" :y="base(row) - 6" text-anchor="end">{{ line.name }}</text>
        <line class="ground" :x1="x(0)" :x2="x(1)" :y1="base(row)" :y2="base(row)" />
        <path class="area" :d="area(line.counts, row)" />
      </g>
    </svg>
  </div>
</template>

<style scoped>
svg {
  display: block;
}
.count {
  stroke: var(--line-strong);
}
.third {
  stroke: var(--line-strong);
  stroke-dasharray: 2 4;
}
.ground {
  stroke: var(--line);
}
.area {
  fill: var(--ink-soft);
}
.word,
.name {
  fill: var(--ink);
}
.small {
  fill: var(--ink-soft);
  font-size: var(--size-small);
}
</style>
