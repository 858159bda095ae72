<script setup lang="ts">
/** The step on four lanes under its count, moving with the sound; where one's own notes fell is drawn beside. */
import { useMediaQuery } from '@vueuse/core'
import { computed } from 'vue'
import type { Comparison, Limb, PracticeNote, PracticePlan, Struck, Wanted } from '@/api/client'
import { INSTRUMENT_NAMES, LIMB_NAMES, LIMBS } from '@/api/vocabulary'
import PlayHead from './PlayHead.vue'
import NoteSign from '@/signs/NoteSign.vue'

const props = defineProps<{
  plan: PracticePlan
  notes: readonly PracticeNote[]
  /** Those of the step before; null where there was none. */
  known: readonly PracticeNote[] | null
  start: number
  end: number
  muted: ReadonlySet<Limb>
  share: number
  compared: { found: Comparison; wanted: Wanted[]; struck: Struck[] } | null
}>()
const emit = defineEmits<{ limb: [Limb] }>()

const narrow = useMediaQuery('(max-width: 700px) and (min-height: 501px)')
const WIDE = computed(() => (narrow.value ? 440 : 1000))
const LEFT = computed(() => (narrow.value ? 64 : 120))
const RULER = 34
const LANE = computed(() => (narrow.value ? 60 : 52))
const HIGH = computed(() => RULER + 4 * LANE.value + 8)
/** A head is not drawn across the line at which its loop begins. */
const INSET = 18
/** One's own strokes are drawn so many times farther from the written ones than they fell. */
const LENS = 3

const xOf = (time: number) => LEFT.value + INSET + ((time - props.start) / (props.end - props.start)) * (WIDE.value - LEFT.value - 2 * INSET)
const yOf = (limb: Limb | null) => RULER + LANE.value * (LIMBS.indexOf(limb ?? 'RH') + 0.5)
const nameOf = (note: PracticeNote) => `${note.bar} ${note.position} ${note.instrument}`
const old = computed(() => (props.known ? new Set(props.known.map(nameOf)) : null))
/** What is new in this step; where all of it is, nothing stands out. */
const fresh = computed(() => {
  const found = new Set(props.notes.map(nameOf).filter((name) => old.value && !old.value.has(name)))
  return found.size < props.notes.length ? found : new Set<string>()
})
/** What a limb plays; of many drums the first and how many more, so that it stays beside the lanes. */
function drumsOf(limb: Limb): string {
  const own = props.notes.filter((note) => (note.limb ?? 'RH') === limb)
  const [first, ...more] = [...new Set(own.map((note) => INSTRUMENT_NAMES[note.instrument]))]
  return more.length > 1 ? `${first}, ${more.length} more` : [first, ...more].join(', ')
}
/** On a telephone "R hand". */
function capital(words: string): string {
  const said = words.charAt(0).toUpperCase() + words.slice(1)
  return narrow.value ? said.replace(/^(.)\w+ /, '$1 ') : said
}
const places = computed(() =>
  props.plan.bars.flatMap((bar) => bar.places).filter((item) => item.time >= props.start - 1e-6 && item.time < props.end - 1e-6),
)
const bars = computed(() => props.plan.bars.filter((bar) => bar.start > props.start + 1e-3 && bar.start < props.end - 1e-3))
/** Scale of signs: few notes are drawn large. */
const scale = computed(() => Math.max(narrow.value ? 0.75 : 1, Math.min(1.9, (WIDE.value / Math.max(1, places.value.length)) / 28)))
const crowded = computed(() => places.value.length > (narrow.value ? 17 : 34))

/** Where the strokes fell against the written ones, all passes over each other; what was missed and too much. */
const fell = computed(() => {
  const found = props.compared
  if (!found) return { hits: [], missed: [], extra: [] }
  const turn = (props.end - props.start) / props.share
  const into = (time: number) => props.start + (((time % turn) + turn) % turn) * props.share
  return {
    hits: found.found.pairs.map(([one, other]) => {
      const asked = found.wanted[one!]!
      const late = found.struck[other!]!.time - asked.time
      return { x: xOf(into(asked.time)) + (late * props.share * LENS * (WIDE.value - LEFT.value)) / (props.end - props.start), y: yOf(asked.limb) }
    }),
    missed: found.found.missed.map((one) => ({ x: xOf(into(found.wanted[one]!.time)), y: yOf(found.wanted[one]!.limb) })),
    extra: found.found.extra.map((one) => {
      const own = found.struck[one]!
      const lane = props.notes.find((note) => note.instrument === own.instrument)?.limb ?? own.limb ?? 'RH'
      return { x: xOf(into(own.time)), y: yOf(lane) }
    }),
  }
})
</script>

<template>
  <div class="frame" :style="{ aspectRatio: `${WIDE} / ${HIGH}` }">
  <svg class="lanes" :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="`The step on its lanes: ${notes.length} notes`">
    <g v-for="(limb, index) in LIMBS" :key="limb" :class="{ muted: muted.has(limb) }">
      <text class="name" x="0" :y="yOf(limb)" @click="emit('limb', limb)">{{ capital(LIMB_NAMES[limb]) }}</text>
      <text class="drums" x="0" :y="yOf(limb) + 16">{{ drumsOf(limb) }}</text>
      <line :x1="LEFT" :x2="WIDE" :y1="yOf(limb)" :y2="yOf(limb)" class="lane" />
      <line v-if="index === 1" :x1="LEFT" :x2="WIDE" :y1="RULER + LANE * 2" :y2="RULER + LANE * 2" class="floor" />
    </g>
    <g v-for="(place, index) in places" :key="index">
      <line v-if="place.is_beat" :x1="xOf(place.time)" :x2="xOf(place.time)" :y1="RULER" :y2="HIGH - 8" class="beat" />
      <text
        v-if="place.is_beat || !crowded"
        :x="xOf(place.time)"
        :y="RULER - 12"
        text-anchor="middle"
        class="word"
        :class="{ number: place.is_beat }"
      >
        {{ place.word }}
      </text>
    </g>
    <line v-for="bar in bars" :key="bar.number" :x1="xOf(bar.start) - INSET / 2" :x2="xOf(bar.start) - INSET / 2" :y1="RULER - 4" :y2="HIGH - 8" class="bar" />
    <line :x1="LEFT" :x2="LEFT" :y1="RULER - 4" :y2="HIGH - 8" class="bar" />
    <line :x1="WIDE" :x2="WIDE" :y1="RULER - 4" :y2="HIGH - 8" class="bar" />
    <NoteSign
      v-for="note in notes"
      :key="nameOf(note)"
      :class="{ fresh: fresh.has(nameOf(note)) }"
      :instrument="note.instrument"
      :limb="note.limb"
      :x="xOf(note.time)"
      :y="yOf(note.limb)"
      :ghost="note.ghost"
      :accent="note.accent"
      :half="note.half"
      :scale="scale"
      :tone="note.limb && muted.has(note.limb) ? 'faint' : 'ink'"
    />
    <g class="fell">
      <line v-for="(item, index) in fell.hits" :key="index" :x1="item.x" :x2="item.x" :y1="item.y + 12" :y2="item.y + 24" />
      <circle v-for="(item, index) in fell.missed" :key="`m${index}`" :cx="item.x" :cy="item.y" r="15" class="missed" />
      <path v-for="(item, index) in fell.extra" :key="`e${index}`" :d="`M${item.x - 4} ${item.y + 14}l8 8m0 -8l-8 8`" />
    </g>
  </svg>
  <PlayHead :start="start" :end="end" :from="(LEFT + INSET) / WIDE" :to="(WIDE - INSET) / WIDE" />
  </div>
</template>

<style scoped>
.frame {
  position: relative;
  width: 100%;
  max-width: calc(52vh * 4);
  overflow: hidden;
}
.lanes {
  display: block;
  width: 100%;
}
.name {
  fill: var(--ink);
  font-size: 16px;
  font-weight: 700;
  cursor: pointer;
}
.drums {
  fill: var(--ink-soft);
  font-size: 13px;
}
.fresh {
  --note: var(--accent);
}
.muted .name {
  fill: var(--ink-faint);
  font-weight: 400;
  text-decoration: line-through;
}
.lane,
.beat {
  stroke: var(--line);
}
.floor,
.bar {
  stroke: var(--line-strong);
}
.word {
  fill: var(--ink-soft);
  font-size: 16px;
}
.number {
  fill: var(--ink);
  font-size: 21px;
  font-weight: 700;
}
.fell line,
.fell path {
  stroke: var(--accent);
  stroke-width: 2;
  opacity: 0.75;
}
.missed {
  fill: none;
  stroke: var(--accent);
  stroke-dasharray: 4 3;
  stroke-width: 2;
}
</style>
