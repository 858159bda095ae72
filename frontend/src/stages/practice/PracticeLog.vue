<script setup lang="ts">
/** What was practised: the tempo reached from entry to entry, the last ones in words, as a file. */
import { useConfirm } from 'primevue/useconfirm'
import { computed } from 'vue'
import { useOpenSong } from '@/song/openSong'

const { id, practice } = useOpenSong()
const confirm = useConfirm()
const SHOWN = 6
const MARKS = 40
const { log } = practice
const here = computed(() => log.value.filter((item) => item.target === practice.target.value).slice(-MARKS))
const last = computed(() => [...log.value].reverse().slice(0, SHOWN))
const SIZE = { wide: 260, high: 90 }
const points = computed(() =>
  here.value.map((item, index) => ({
    x: 8 + (index * (SIZE.wide - 16)) / Math.max(1, MARKS - 1),
    y: yOf(item.share),
    feeling: item.feeling,
    title: `${item.title}: ${Math.round(item.bpm)} bpm, ${item.feeling}`,
  })),
)
function yOf(share: number): number {
  return SIZE.high - 8 - ((Math.min(1.1, Math.max(0.4, share)) - 0.4) / 0.7) * (SIZE.high - 16)
}
const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })
const DAYS = 14
const DAY_MS = 86_400_000
/** Minutes of the last two weeks, day by day: short daily sessions are what carries. */
const days = computed(() => {
  const now = Date.now()
  return Array.from({ length: DAYS }, (_, index) => {
    const date = new Date(now - (DAYS - 1 - index) * DAY_MS)
    const own = log.value.filter((item) => new Date(item.played_at).toDateString() === date.toDateString())
    return { date, minutes: own.reduce((sum, item) => sum + item.minutes, 0) }
  })
})
const DAYS_HIGH = 44
const most = computed(() => Math.max(10, ...days.value.map((item) => item.minutes)))
const daysWords = computed(() => {
  const played = days.value.filter((item) => item.minutes > 0)
  const minutes = Math.round(played.reduce((sum, item) => sum + item.minutes, 0))
  return `${minutes} min on ${played.length} of the last ${DAYS} days`
})
const FEELING_WORDS = { easy: 'easy', work: 'work', tense: 'tense' } as const

function clear(): void {
  confirm.require({
    header: 'Clear the log of this song?',
    message: 'What you practised here is forgotten. Save it as a file first if you may want it.',
    acceptLabel: 'Clear it',
    rejectLabel: 'Keep it',
    accept: () => void practice.clearLog(),
  })
}
</script>

<template>
  <section aria-label="Log">
    <h3>Log</h3>
    <p v-if="practice.waiting.value" class="quiet" role="status">
      {{ practice.waiting.value }} {{ practice.waiting.value === 1 ? 'entry is' : 'entries are' }} kept here until Orchesis answers.
    </p>
    <p v-if="!log.length" class="quiet">No practice yet. Orchesis logs it automatically.</p>
    <template v-else>
      <svg v-if="points.length" :viewBox="`0 0 ${SIZE.wide} ${SIZE.high}`" role="img" aria-label="Tempo reached, as a share of the record's">
        <line x1="0" :x2="SIZE.wide" :y1="yOf(1)" :y2="yOf(1)" class="record" />
        <text :x="SIZE.wide" :y="yOf(1) - 4" text-anchor="end">the record's tempo</text>
        <g v-for="(point, index) in points" :key="index" :class="point.feeling">
          <title>{{ point.title }}</title>
          <circle v-if="point.feeling === 'easy'" :cx="point.x" :cy="point.y" r="4" />
          <rect v-else-if="point.feeling === 'work'" :x="point.x - 3.5" :y="point.y - 3.5" width="7" height="7" />
          <path v-else :d="`M${point.x} ${point.y - 5}l5 9h-10z`" />
        </g>
      </svg>
      <p v-if="points.length" class="quiet key">● easy ■ work ▲ tense</p>
      <svg :viewBox="`0 0 ${SIZE.wide} ${DAYS_HIGH}`" role="img" :aria-label="daysWords">
        <g v-for="(item, index) in days" :key="index">
          <title>{{ day(item.date.toISOString()) }}: {{ Math.round(item.minutes) }} min</title>
          <rect
            class="day"
            :x="8 + (index * (SIZE.wide - 16)) / DAYS"
            :width="(SIZE.wide - 16) / DAYS - 4"
            :y="DAYS_HIGH - 2 - (item.minutes / most) * (DAYS_HIGH - 6)"
            :height="2 + (item.minutes / most) * (DAYS_HIGH - 6)"
          />
        </g>
      </svg>
      <p class="quiet key">{{ daysWords }}</p>
      <ul>
        <li v-for="item in last" :key="item.client_id">
          <span class="quiet">{{ day(item.played_at) }}</span> {{ item.title }}
          <small>{{ Math.round(item.bpm) }} bpm, {{ item.loops }} passes, {{ FEELING_WORDS[item.feeling] }}</small>
          <small v-for="words in (item.told ?? []).slice(0, 2)" :key="words">{{ words }}</small>
        </li>
      </ul>
      <p class="acts">
        <a v-if="!practice.isGuest" :href="`/api/songs/${id}/practice/log.csv`" download>Save as CSV</a>
        <button type="button" class="act" @click="clear">Clear</button>
      </p>
    </template>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--gap-2);
}
svg {
  width: 100%;
  overflow: visible;
}
.record {
  stroke: var(--line-strong);
  stroke-dasharray: 3 3;
}
.day {
  fill: var(--ink-soft);
}
text,
.key {
  fill: var(--ink-soft);
  font-size: 12px;
}
.easy,
.work {
  fill: var(--ink);
}
.tense {
  fill: var(--accent);
}
ul {
  display: grid;
  gap: var(--gap-1);
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: var(--size-small);
}
li small {
  display: block;
  color: var(--ink-soft);
}
.acts {
  display: flex;
  gap: var(--gap-3);
  align-items: center;
}
</style>
