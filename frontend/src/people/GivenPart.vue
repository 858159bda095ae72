<script setup lang="ts">
/** What was given, and how far each is: who is stuck stands first. */
import { computed, ref } from 'vue'
import type { Group } from '@/api/client'
import { LEVELS } from '@/stages/chart/options'
import GiveForm from './GiveForm.vue'
import { type GroupActs, useGiven } from './useGroups'

const props = defineProps<{ group: Group; acts: GroupActs }>()
const { given, isLoading } = useGiven(
  computed(() => props.group.id),
  () => props.group.leads,
)
const isGiving = ref(false)
const SIGNS = { stuck: '!', 'not begun': '–', 'at it': '…', there: '✓' } as const
const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })

function counts(students: readonly { standing: keyof typeof SIGNS }[]): string {
  return (['stuck', 'not begun', 'at it', 'there'] as const)
    .map((name) => ({ name, count: students.filter((one) => one.standing === name).length }))
    .filter((one) => one.count)
    .map((one) => `${one.count} ${one.name}`)
    .join(', ')
}
</script>

<template>
  <section aria-labelledby="given">
    <header>
      <h3 id="given">Given to practise</h3>
      <button type="button" class="act" :aria-expanded="isGiving" data-test="give" @click="isGiving = !isGiving">Give something</button>
    </header>
    <GiveForm v-if="isGiving" :group="group" :acts="acts" @given="isGiving = false" />
    <p v-if="isLoading" class="quiet">Fetching …</p>
    <p v-else-if="!given.length && !isGiving" class="quiet">Nothing yet: give a groove, a tempo and a day, and how far each is stands here.</p>
    <article v-for="one in given" :key="one.id">
      <header>
        <p>
          <strong>{{ one.title }}: {{ one.name }}</strong>
          <span class="quiet beside">{{ [`${Math.round(one.bpm)} bpm`, one.due && `by ${day(one.due)}`, one.level !== 'all' && LEVELS.find((item) => item.value === one.level)?.label.toLowerCase(), one.student && `for ${one.student}`, counts(one.students)].filter(Boolean).join(' · ') }}</span>
        </p>
        <button type="button" class="act" :aria-label="`Withdraw ${one.title}: ${one.name}`" @click="acts.withdraw(one.id)">Withdraw</button>
      </header>
      <p v-if="one.words" class="quiet">{{ one.words }}</p>
      <p v-if="!one.students.length" class="quiet">Nobody is in this {{ group.kind }} yet: invite your students below.</p>
      <ul v-else>
        <li v-for="student in one.students" :key="student.user" :class="student.standing.replace(' ', '-')" data-test="student">
          <span class="sign" aria-hidden="true">{{ SIGNS[student.standing] }}</span>
          <strong>{{ student.name }}</strong>
          <span>{{ student.words }}</span>
          <span class="way" role="img" :aria-label="`${Math.round(student.best_bpm)} of ${Math.round(one.bpm)} bpm`">
            <i :style="{ width: `${Math.min(100, (100 * student.best_bpm) / one.bpm)}%` }" />
          </span>
          <small class="quiet">
            {{ student.last ? `${Math.round(student.minutes)} min on ${student.days} ${student.days === 1 ? 'day' : 'days'}, last ${day(student.last)}.` : '' }}
            {{ student.told[0] ?? '' }}
          </small>
        </li>
      </ul>
    </article>
  </section>
</template>

<style scoped>
section,
article {
  display: grid;
  gap: var(--gap-3);
}
article {
  padding-top: var(--gap-3);
  border-top: 1px solid var(--line);
}
header {
  display: flex;
  gap: var(--gap-4);
  justify-content: space-between;
  align-items: baseline;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 1.25rem 9rem minmax(10rem, 1.2fr) 8rem minmax(0, 1.4fr);
  gap: var(--gap-3);
  align-items: center;
  min-height: 2rem;
}
.beside {
  margin-left: var(--gap-2);
}
.sign {
  font-weight: 700;
  text-align: center;
}
.stuck {
  color: var(--accent);
}
.stuck .quiet {
  color: inherit;
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
  li {
    grid-template-columns: 1.25rem minmax(0, 1fr) 6rem;
    padding: var(--gap-2) 0;
  }
  li > span:nth-of-type(2),
  li small {
    grid-column: 2 / -1;
  }
}
</style>
