<script setup lang="ts">
/**
 * One note as we draw it: right limbs solid, left limbs hollow; size says dynamics; heads as on
 * the drum staff (x cymbal, round drum, ring open, half a ring half open, slash cross-stick). Meaning never rests on
 * colour alone: what is doubtful has a dashed ring, a ghost has brackets, an accent a cap.
 */
import { CROSSED, TOMS } from '@/api/vocabulary'
import { computed } from 'vue'
import type { Hit, Instrument, Limb } from '@/api/client'
import { halfRing, head, placed, SHAPES } from './shapes'

const props = withDefaults(
  defineProps<{
    instrument: Instrument
    limb: Limb | null
    x: number
    y: number
    ghost?: boolean
    accent?: boolean
    doubtful?: boolean
    inferred?: boolean
    out?: boolean
    ornament?: Hit['ornament']
    /** Of an open hat: struck half open. */
    half?: boolean
    tone?: 'ink' | 'same' | 'faint'
    /** Of everything: rows may be dense. */
    scale?: number
  }>(),
  { tone: 'ink', ornament: null, scale: 1 },
)

const crossedOnes = new Set<Instrument>(CROSSED)
const OPEN = new Set<Instrument>(['hihat_open', 'hihat_splash', 'china'])
const toms = new Set<Instrument>(TOMS)

const hollow = computed(() => props.limb === 'LH' || props.limb === 'LF')
const size = computed(() => props.scale * (props.ghost ? 0.62 : props.accent ? 1.12 : 1))
const crossed = computed(() => crossedOnes.has(props.instrument))
/** Toms carry a dot or two below, high to floor, so that they are told apart in one lane. */
const dots = computed(() =>
  props.instrument === 'tom_high' ? 1 : props.instrument === 'tom_mid' ? 2 : toms.has(props.instrument) ? 3 : 0,
)
const GRACES = { flam: [9.6], drag: [9.6, 14.6] } as const
const graces = computed(() => (props.ornament === 'flam' || props.ornament === 'drag' ? GRACES[props.ornament] : []))
/** Of the head, which grows and shrinks with the stroke; what stands about it does not. */
const sized = (shape: keyof typeof SHAPES) => placed(SHAPES[shape], props.x, props.y, size.value)
const whole = (shape: keyof typeof SHAPES) => placed(SHAPES[shape], props.x, props.y, props.scale)
</script>

<template>
  <g class="note" :class="[tone, { hollow, doubtful, inferred }]" :style="size === 1 ? undefined : `--size: ${size}`">
    <template v-if="crossed">
      <path v-if="instrument === 'crash' || instrument === 'splash'" class="burst" :d="sized('burst')" />
      <path v-if="instrument === 'ride_bell'" class="stroke" :d="sized('diamond')" />
      <template v-else>
        <path class="stroke" :d="sized('cross')" />
        <path v-if="hollow" class="core" :d="sized('cross')" />
      </template>
      <path v-if="half" class="ring" :d="halfRing(x, y, size)" />
      <circle v-else-if="OPEN.has(instrument)" class="ring" :r="8 * size" :cx="x" :cy="y" />
      <path v-if="instrument === 'ride'" class="burst" :d="sized('bow')" />
    </template>
    <template v-else>
      <path class="head" :d="head(x, y, size)" />
      <path v-if="instrument === 'cross_stick'" class="slash" :d="sized('slash')" />
      <circle
        v-for="dot in dots"
        :key="dot"
        class="dot"
        :r="1.3 * size"
        :cx="x + (dot - (dots + 1) / 2) * 4 * size"
        :cy="y + 8.4 * size"
      />
    </template>
    <path v-if="ghost" class="bracket whole" :d="whole('brackets')" />
    <path v-if="accent" class="cap" :d="whole('cap')" />
    <template v-if="graces.length">
      <ellipse v-for="before in graces" :key="before" class="grace" :rx="2.6 * scale" :ry="2 * scale" :cx="x - before * scale" :cy="y + 1.5 * scale" />
      <path class="bracket whole" :d="whole(ornament === 'drag' ? 'dragStem' : 'flamStem')" />
    </template>
    <path v-if="ornament === 'buzz'" class="bracket whole" :d="whole('buzz')" />
    <path v-if="out" class="bracket whole" :d="whole('out')" />
    <circle v-if="doubtful" class="doubt" :r="9.8 * scale" :cx="x" :cy="y" />
    <path v-if="inferred" class="bracket whole" :d="whole('line')" stroke-dasharray="2 2" />
  </g>
</template>

<style scoped>
.note {
  --colour: var(--note);
  --size: 1;
  pointer-events: none;
}
.same {
  --colour: var(--note-same);
}
.faint {
  --colour: var(--line-strong);
}
.stroke {
  fill: none;
  stroke: var(--colour);
  stroke-width: calc(2.4px * var(--size));
  stroke-linecap: round;
}
.hollow .stroke {
  stroke-width: calc(3.6px * var(--size));
}
.core {
  fill: none;
  stroke: var(--paper-raised);
  stroke-width: calc(1.3px * var(--size));
  stroke-linecap: round;
}
.burst,
.slash,
.bracket,
.ring {
  fill: none;
  stroke: var(--colour);
  stroke-width: calc(1.5px * var(--size));
  stroke-linecap: round;
}
.whole {
  stroke-width: 1.5;
}
.head {
  fill: var(--colour);
  stroke: var(--colour);
  stroke-width: calc(1.2px * var(--size));
}
.hollow .head {
  fill: var(--paper-raised);
  stroke-width: calc(2.1px * var(--size));
}
.grace {
  fill: var(--colour);
}
.dot {
  fill: var(--colour);
}
.cap {
  fill: none;
  stroke: var(--colour);
  stroke-width: 2.4;
  stroke-linecap: round;
}
.doubt {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.5;
  stroke-dasharray: 3 2.5;
}
</style>
