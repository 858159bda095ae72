<script setup lang="ts">
import type { Bar } from '@/api/client'
import { placeX } from './rowLayout'

defineProps<{ bar: Bar; width: number; cursor?: string | null }>()
</script>

<template>
  <svg class="ruler" :width="width" height="30" aria-hidden="true">
    <text
      v-for="cell in bar.cells"
      :key="cell.position"
      :x="placeX(cell.position, width)"
      y="21"
      :class="{ beat: /\d/.test(cell.word), here: cell.position === cursor }"
    >
      {{ cell.word }}
    </text>
  </svg>
</template>

<style scoped>
.ruler {
  display: block;
}
text {
  fill: var(--ink-soft);
  font-size: 1rem;
  text-anchor: middle;
}
.beat {
  fill: var(--ink);
  font-weight: 700;
  font-size: 1.125rem;
}
.here {
  fill: var(--accent);
  font-weight: 700;
}
</style>
