<script setup lang="ts">
/** The steady hand over a bar: a column for each place, above the line where it is louder than usual. */
import { computed } from 'vue'

const props = defineProps<{ places: readonly { place: string; db: number }[]; label: string }>()
const WIDTH = 420
const MIDDLE = 46
const most = computed(() => Math.max(3, ...props.places.map((item) => Math.abs(item.db))))
const step = computed(() => WIDTH / props.places.length)
const height = (db: number) => (Math.abs(db) / most.value) * 34
const short = (place: string) => (/^\d+$/.test(place) ? place : (place.match(/^the (\S+) of/)?.[1] ?? '·'))
</script>

<template>
  <svg :viewBox="`0 0 ${WIDTH} 104`" role="img" :aria-label="label">
    <line class="zero" x1="0" :x2="WIDTH" :y1="MIDDLE" :y2="MIDDLE" />
    <g v-for="(item, index) in places" :key="item.place">
      <title>{{ item.place }}: {{ item.db > 0 ? '+' : '' }}{{ item.db.toFixed(1) }} dB</title>
      <rect
        class="column"
        :class="{ loud: item.db > 0 }"
        :x="(index + 0.5) * step - Math.min(9, step * 0.35)"
        :y="item.db > 0 ? MIDDLE - height(item.db) : MIDDLE"
        :width="Math.min(18, step * 0.7)"
        :height="Math.max(1, height(item.db))"
        rx="2"
      />
      <text :class="{ beat: /^\d+$/.test(item.place) }" :x="(index + 0.5) * step" y="100">{{ short(item.place) }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: min(100%, 30rem);
}
.zero {
  stroke: var(--line-strong);
}
.column {
  fill: var(--line-strong);
}
.loud {
  fill: var(--ink);
}
text {
  fill: var(--ink-soft);
  font-size: 0.875rem;
  text-anchor: middle;
}
.beat {
  fill: var(--ink);
  font-weight: 700;
}
</style>
