<script setup lang="ts">
/** What can be practised: today's first, then the grooves and the fills of the song. */
import { computed } from 'vue'
import ChoiceField from '@/base/ChoiceField.vue'
import { LEVELS } from '@/stages/chart/options'
import { useOpenSong } from '@/song/openSong'
import { wholeOf } from './usePractice'

const { practice } = useOpenSong()
const due = computed(() => {
  const found = new Map<string, number>()
  for (const { target } of practice.overview.value?.session ?? []) {
    const whole = wholeOf(target)
    found.set(whole, (found.get(whole) ?? 0) + 1)
  }
  return found
})
const groups = computed(() => [
  { name: 'Grooves', items: practice.targets.value.filter((item) => item.kind === 'section') },
  { name: 'From the list', items: practice.targets.value.filter((item) => item.kind === 'exercise') },
  { name: 'Fills', items: practice.targets.value.filter((item) => item.kind === 'fill') },
])
</script>

<template>
  <nav aria-label="What to practise">
    <template v-if="practice.given.value.length">
      <h3>Given to you</h3>
      <ul>
        <li v-for="one in practice.given.value" :key="one.id">
          <button
            type="button"
            :aria-current="practice.asked.value.includes(one) ? 'true' : undefined"
            :data-given="one.id"
            @click="practice.take(one)"
          >
            {{ one.name }} <small>{{ Math.round(one.bpm) }} bpm</small>
          </button>
        </li>
      </ul>
    </template>
    <div class="notes">
      <span class="label">Notes</span>
      <ChoiceField v-model="practice.level.value" :options="LEVELS" label="Which notes are practised" />
    </div>
    <template v-for="group in groups" :key="group.name">
      <template v-if="group.items.length">
        <h3>{{ group.name }}</h3>
        <ul>
          <li v-for="item in group.items" :key="item.key">
            <button
              type="button"
              :aria-current="item.key === practice.whole.value ? 'true' : undefined"
              :data-target="item.key"
              @click="practice.choose(item.key)"
            >
              {{ item.name }}
              <small v-if="due.get(item.key)">{{ due.get(item.key) }} due</small>
            </button>
          </li>
        </ul>
      </template>
    </template>
  </nav>
</template>

<style scoped>
ul {
  margin: 0.25rem 0 var(--gap-4);
  padding: 0;
  list-style: none;
}
button {
  display: flex;
  justify-content: space-between;
  width: 100%;
  padding: 0.35rem 0.6rem;
  border: 0;
  border-radius: var(--round);
  background: none;
  text-align: left;
  cursor: pointer;
}
.notes {
  display: grid;
  gap: var(--gap-1);
  margin-bottom: var(--gap-4);
}
button[aria-current] {
  background: var(--accent-soft);
  font-weight: 700;
}
small {
  color: var(--ink-soft);
  font-weight: 400;
}
@media (max-width: 900px) {
  ul {
    display: flex;
    gap: var(--gap-2);
    overflow-x: auto;
  }
  button {
    white-space: nowrap;
    gap: var(--gap-2);
  }
}
</style>
