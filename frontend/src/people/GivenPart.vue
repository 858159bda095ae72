<script setup lang="ts">
/** What was given, and how far each is: who is stuck stands first. */
import { computed, ref } from 'vue'
import type { Group } from '@/api/client'
import { LEVELS } from '@/stages/chart/options'
import GiveForm from './GiveForm.vue'
import StandingList from './StandingList.vue'
import { byStanding, type Given, type GroupActs, useGiven } from './useGroups'

const props = defineProps<{ group: Group; acts: GroupActs }>()
const { given, isLoading } = useGiven(
  computed(() => props.group.id),
  () => props.group.leads,
)
const isGiving = ref(false)
const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })

/** In one line: how fast, by when, and how many are how far. */
function facts(one: Given): string {
  const isLate = one.due && one.due < new Date().toLocaleDateString('sv')
  const level = one.level !== 'all' && LEVELS.find((item) => item.value === one.level)?.label.toLowerCase()
  const counts = byStanding(one).map(({ standing, students }) => `${students.length} ${standing}`)
  return [`${Math.round(one.bpm)} bpm`, one.due && `${isLate ? 'was due' : 'by'} ${day(one.due)}`, level, one.student && `for ${one.student}`, counts.join(', ')]
    .filter(Boolean)
    .join(' · ')
}
</script>

<template>
  <section aria-labelledby="given">
    <header>
      <h3 id="given">Assignments</h3>
      <button type="button" class="act" :aria-expanded="isGiving" data-test="give" @click="isGiving = !isGiving">New assignment</button>
    </header>
    <GiveForm v-if="isGiving" :group="group" :acts="acts" @given="isGiving = false" />
    <p v-if="isLoading" class="quiet">Fetching …</p>
    <p v-else-if="!given.length && !isGiving" class="quiet">Nothing yet: give a groove, a tempo and a day, and how far each is stands here.</p>
    <article v-for="one in given" :key="one.id">
      <header>
        <p>
          <strong>{{ one.title }}: {{ one.name }}</strong>
          <span class="quiet beside">{{ facts(one) }}</span>
        </p>
        <button type="button" class="act" :aria-label="`Withdraw ${one.title}: ${one.name}`" @click="acts.withdraw(one.id)">Withdraw</button>
      </header>
      <p v-if="one.words" class="quiet">{{ one.words }}</p>
      <p v-if="!one.students.length" class="quiet">Nobody is in this {{ group.kind }} yet: invite your students below.</p>
      <StandingList v-else :given="one" />
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
.beside {
  margin-left: var(--gap-2);
}
</style>
