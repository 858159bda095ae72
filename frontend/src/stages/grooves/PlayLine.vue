<script setup lang="ts">
/** The line that goes through the sounding bar. It reads the time itself: nothing else is redrawn with it. */
import { computed } from 'vue'
import type { Bar } from '@/api/client'
import { throughBar } from '@/score/place'
import { placeX } from './rowLayout'

const props = defineProps<{ bar: Bar; width: number; now: () => number }>()

const x = computed(() => placeX(throughBar(props.bar, props.now()), props.width))
</script>

<template>
  <span class="playhead" :style="{ transform: `translateX(${x}px)` }" />
</template>

<style scoped>
.playhead {
  position: absolute;
  inset: 0 auto 0 -1px;
  width: 2px;
  background: var(--accent);
  pointer-events: none;
}
</style>
