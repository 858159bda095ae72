<script setup lang="ts">
/** How far each student is with what was given: a line for who is at it, names alone where there is no more to say. */
import { computed } from 'vue'
import { byStanding, type Given, type Student } from './useGroups'

const props = defineProps<{ given: Given }>()

type Standing = Student['standing']

/** With more at it than this, two stand in a line: a class of thirty is read without scrolling. */
const MOST_IN_ROWS = 8
const SIGNS = { stuck: '!', 'not begun': '–', 'at it': '…', there: '✓' } as const

const standings = computed(() => byStanding(props.given))
const nameOf = (standing: Standing) => `${standing.replace(' ', '-')}-${props.given.id}`
const isInRows = (standing: Standing) => standing === 'stuck' || standing === 'at it'
const isDense = (standing: Standing, students: readonly Student[]) => standing === 'at it' && students.length > MOST_IN_ROWS

const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })
const bpm = (tempo: number) => Math.round(tempo)
const percent = (one: Student) => Math.min(100, (100 * one.best_bpm) / props.given.bpm)

function played(one: Student, isBrief: boolean): string {
  if (!one.last) return ''
  const minutes = `${Math.round(one.minutes)} min`
  const days = `${one.days} ${one.days === 1 ? 'day' : 'days'}`
  return isBrief ? `${minutes}, ${days}, ${day(one.last)}.` : `${minutes} on ${days}, last ${day(one.last)}.`
}
</script>

<template>
  <template v-for="{ standing, students } in standings" :key="standing">
    <ul v-if="isInRows(standing)" :class="[standing.replace(' ', '-'), { dense: isDense(standing, students) }]">
      <li v-for="one in students" :key="one.user" data-test="student">
        <span class="sign" aria-hidden="true">{{ SIGNS[standing] }}</span>
        <strong>{{ one.name }}</strong>
        <span v-if="isDense(standing, students)">{{ one.best_bpm ? `at ${bpm(one.best_bpm)}` : 'begun' }}</span>
        <span v-else class="words">{{ one.words }}</span>
        <span class="way" role="img" :aria-label="`${bpm(one.best_bpm)} of ${bpm(given.bpm)} bpm`"><i :style="{ width: `${percent(one)}%` }" /></span>
        <small class="quiet">{{ played(one, isDense(standing, students)) }} {{ one.told[0] ?? '' }}</small>
      </li>
    </ul>
    <div v-else class="names">
      <span class="sign" aria-hidden="true">{{ SIGNS[standing] }}</span>
      <span :id="nameOf(standing)">{{ standing === 'there' ? 'Reached' : 'Not begun' }}</span>
      <ul :aria-labelledby="nameOf(standing)">
        <li v-for="one in students" :key="one.user" data-test="student">
          <strong>{{ one.name }}</strong><small v-if="one.best_bpm" class="quiet"> at {{ bpm(one.best_bpm) }}</small>
        </li>
      </ul>
    </div>
  </template>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
ul > li,
.names {
  display: grid;
  grid-template-columns: 1.25rem 9rem minmax(10rem, 1.5fr) 8rem minmax(0, 1fr);
  gap: var(--gap-3);
  align-items: center;
  min-height: 2rem;
}
.dense {
  columns: 24rem 2;
  column-gap: var(--gap-8);
}
.dense > li {
  grid-template-columns: 1.25rem minmax(5rem, 1fr) 3rem 5rem minmax(0, 12.5rem);
  break-inside: avoid;
}
.names {
  grid-template-columns: 1.25rem 9rem minmax(0, 1fr);
  align-items: baseline;
  padding: var(--gap-1) 0;
}
.names ul {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-4);
}
.names li {
  display: inline;
  min-height: 0;
}
.sign {
  font-weight: 700;
  text-align: center;
}
.stuck,
.stuck .quiet {
  color: var(--accent);
}
.way {
  height: 8px;
  border-radius: 4px;
  background: var(--line);
}
.way i {
  display: block;
  height: 100%;
  border-radius: 4px;
  background: currentcolor;
}
@media (max-width: 900px) {
  ul > li {
    grid-template-columns: 1.25rem minmax(0, 1fr) 6rem;
    padding: var(--gap-2) 0;
  }
  li > .words,
  li > small {
    grid-column: 2 / -1;
  }
  .names {
    grid-template-columns: 1.25rem minmax(0, 1fr);
  }
  .names ul {
    grid-column: 2;
  }
}
</style>
