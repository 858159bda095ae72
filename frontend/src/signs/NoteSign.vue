<script setup lang="ts">
/**
 * One note as we draw it: right limbs solid, left limbs hollow; size says dynamics; heads as on
 * the drum staff (x cymbal, round drum, ring open, slash cross-stick). Meaning never rests on
 * colour alone: what is doubtful has a dashed ring, a ghost has brackets, an accent a cap.
 */
import { computed } from 'vue'
import type { Hit, Instrument, Limb } from '@/api/client'

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
    tone?: 'ink' | 'same' | 'faint'
  }>(),
  { tone: 'ink', ornament: null },
)

const CROSSED = new Set<Instrument>([
  'hihat_closed',
  'hihat_open',
  'hihat_foot',
  'hihat_splash',
  'ride',
  'ride_bell',
  'crash',
  'splash',
  'china',
  'shaker',
  'tambourine',
])
const OPEN = new Set<Instrument>(['hihat_open', 'hihat_splash', 'china'])
const TOMS = new Set<Instrument>(['tom_high', 'tom_mid', 'tom_low', 'tom_floor'])

const hollow = computed(() => props.limb === 'LH' || props.limb === 'LF')
const size = computed(() => (props.ghost ? 0.62 : props.accent ? 1.12 : 1))
const crossed = computed(() => CROSSED.has(props.instrument))
const transform = computed(() => `translate(${props.x} ${props.y})`)
/** Toms carry a dot or two below, high to floor, so that they are told apart in one lane. */
const dots = computed(() =>
  props.instrument === 'tom_high' ? 1 : props.instrument === 'tom_mid' ? 2 : TOMS.has(props.instrument) ? 3 : 0,
)
</script>

<template>
  <g class="note" :class="[tone, { hollow, doubtful, inferred }]" :transform="transform">
    <g :transform="`scale(${size})`">
      <template v-if="crossed">
        <path v-if="instrument === 'crash' || instrument === 'splash'" class="burst" d="M0-8V8M-7 0H7" />
        <path v-if="instrument === 'ride_bell'" class="stroke" d="M0-6 6 0 0 6-6 0Z" />
        <template v-else>
          <path class="stroke" d="M-5-5 5 5M5-5-5 5" />
          <path v-if="hollow" class="core" d="M-5-5 5 5M5-5-5 5" />
        </template>
        <circle v-if="OPEN.has(instrument)" class="ring" r="8" />
        <path v-if="instrument === 'ride'" class="burst" d="M-6 7.5H6" />
      </template>
      <template v-else>
        <ellipse class="head" rx="6.2" ry="4.8" transform="rotate(-18)" />
        <path v-if="instrument === 'cross_stick'" class="slash" d="M-7 7 7-7" />
        <circle v-for="dot in dots" :key="dot" class="dot" r="1.3" :cx="(dot - (dots + 1) / 2) * 4" cy="8.4" />
      </template>
    </g>
    <path v-if="ghost" class="bracket" d="M-6.5-5.5Q-9.5 0-6.5 5.5M6.5-5.5Q9.5 0 6.5 5.5" />
    <path v-if="accent" class="cap" d="M-6.5-9.5H6.5" />
    <g v-if="ornament === 'flam' || ornament === 'drag'" class="graces">
      <ellipse v-for="index in ornament === 'drag' ? 2 : 1" :key="index" class="grace" rx="2.6" ry="2" :cx="-4.6 - 5 * index" cy="1.5" />
      <path class="bracket" :d="ornament === 'drag' ? 'M-16.5 1.5V-6.5H-7.5' : 'M-7.2 1V-6.5'" />
    </g>
    <path v-if="ornament === 'buzz'" class="bracket" d="M-3.5-11H3.5L-3.5-7H3.5" />
    <path v-if="out" class="bracket" d="M-7 6 7-6" />
    <circle v-if="doubtful" class="doubt" r="9.8" />
    <path v-if="inferred" class="bracket" d="M-8 10H8" stroke-dasharray="2 2" />
  </g>
</template>

<style scoped>
.note {
  --colour: var(--note);
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
  stroke-width: 2.4;
  stroke-linecap: round;
}
.hollow .stroke {
  stroke-width: 3.6;
}
.core {
  fill: none;
  stroke: var(--paper-raised);
  stroke-width: 1.3;
  stroke-linecap: round;
}
.burst,
.slash,
.bracket,
.ring {
  fill: none;
  stroke: var(--colour);
  stroke-width: 1.5;
  stroke-linecap: round;
}
.head {
  fill: var(--colour);
  stroke: var(--colour);
  stroke-width: 1.2;
}
.hollow .head {
  fill: var(--paper-raised);
  stroke-width: 2.1;
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
