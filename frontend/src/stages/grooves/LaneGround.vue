<script setup lang="ts">
/** What lies under the notes of a bar: four lanes, the beats, and how strongly the record sounds there. */
import { computed } from 'vue'
import type { Bar, Limb, Shade } from '@/api/client'
import { LIMBS } from '@/api/vocabulary'
import { fraction } from '@/score/place'
import { SIDE, laneY, layout, middleY, placeX, rowHeight } from './rowLayout'

const props = defineProps<{ bar: Bar; width: number; shade?: Shade | null }>()

const STRONGEST = 9
const beats = computed(() => props.bar.beats.map((_, index) => index / props.bar.beats.length))

/** Cells that sounded, one rectangle each: its darkness says how strongly. */
const sounded = computed(() => {
  const { shade, bar } = props
  if (!shade) return []
  const spaces = bar.cells.map((cell, index) => {
    const next = bar.cells[index + 1]
    return (next ? fraction(next.position) : 1) - fraction(cell.position)
  })
  const found: { limb: Limb; index: number; x: number; wide: number; strength: number }[] = []
  for (const limb of LIMBS)
    for (let index = 0; index < bar.cells.length; index++) {
      const strength = Number(shade[limb][index] ?? 0) / STRONGEST
      if (strength < 0.15) continue
      const wide = Math.min(24, Math.max(8, spaces[index]! * (props.width - SIDE) - 2))
      found.push({ limb, index, x: placeX(bar.cells[index]!.position, props.width) - wide / 2, wide, strength })
    }
  return found
})
</script>

<template>
  <g class="ground">
    <rect
      v-for="cell in sounded"
      :key="`${cell.limb} ${cell.index}`"
      class="sounded"
      :x="cell.x"
      :y="laneY(cell.limb) - layout.lane / 2 + 1"
      :width="cell.wide"
      :height="layout.lane - 2"
      rx="3"
      :fill-opacity="cell.strength"
    />
    <line
      v-for="limb in LIMBS"
      :key="limb"
      class="lane"
      :x1="0"
      :x2="width"
      :y1="laneY(limb)"
      :y2="laneY(limb)"
    />
    <line
      v-for="place in beats"
      :key="place"
      class="beat"
      :class="{ one: place === 0 }"
      :x1="placeX(place, width)"
      :x2="placeX(place, width)"
      :y1="layout.padding"
      :y2="rowHeight - layout.padding"
    />
    <line class="middle" :x1="0" :x2="width" :y1="middleY" :y2="middleY" />
  </g>
</template>

<style scoped>
.sounded {
  fill: var(--heard);
}
.lane,
.beat {
  stroke: var(--line);
}
.one {
  stroke: var(--line-strong);
}
.middle {
  stroke: var(--line-strong);
  stroke-width: 1.6;
}
</style>
