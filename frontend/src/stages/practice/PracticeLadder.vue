<script setup lang="ts">
/** The tempo ladder: from the start, below, to the record's tempo and a little beyond. */
import { computed, onMounted, ref, watch } from 'vue'
import type { PracticeStep } from '@/api/client'

const props = defineProps<{ step: PracticeStep; rung: number }>()
const list = ref<HTMLElement>()
watch(
  () => props.rung,
  () => list.value?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest' }),
  { flush: 'post' },
)
onMounted(() => list.value?.querySelector('[aria-current]')?.scrollIntoView({ block: 'nearest' }))
const rungs = computed(() =>
  props.step.rungs.map((item, index) => ({ ...item, index })).reverse(),
)
const words = (item: { share: number; index: number; is_asked: boolean }) =>
  [
    item.index === props.rung ? 'now' : item.index < props.rung ? 'done' : '',
    item.is_asked ? 'asked' : '',
    item.share === 1 ? 'record' : '',
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <div class="ladder">
    <p class="label">Ladder</p>
    <ol ref="list" reversed>
      <li v-for="item in rungs" :key="item.index" :aria-current="item.index === rung ? 'step' : undefined" :class="{ done: item.index < rung, asked: item.is_asked }">
        {{ item.bpm }} <small>{{ words(item) }}</small>
      </li>
    </ol>
  </div>
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: var(--size-lead);
}
ol {
  max-height: 46vh;
  overflow-y: auto;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  padding: 0.1rem 0.75rem;
  border-radius: var(--round-full);
}
li[aria-current] {
  background: var(--accent-soft);
  color: var(--accent);
  font-size: 1.4rem;
  font-weight: 700;
}
.asked {
  box-shadow: inset 0 0 0 2px var(--accent);
}
.done,
small {
  color: var(--ink-soft);
}
</style>
