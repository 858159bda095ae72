<script setup lang="ts">
/** One bar of a section: how full it is, and what it has of its own. */
import { computed } from 'vue'
import type { Section } from '@/api/client'
import { isPlain, opensPhrase } from './sections'

const props = defineProps<{
  section: Section
  /** Which of its bars, from 0. */
  index: number
  isCursor: boolean
  isSounding: boolean
}>()
const emit = defineEmits<{ place: []; go: [] }>()

const cell = computed(() => props.section.cells[props.index]!)
const plain = computed(() => isPlain(props.section, props.index))
const words = computed(() => {
  const { number, fill, crash, meter } = cell.value
  return `Bar ${number}${fill ? ', fill' : ''}${crash ? ', crash on the one' : ''}${meter ? `, in ${meter}` : ''}`
})
</script>

<template>
  <button
    type="button"
    class="cell"
    :class="{
      plain,
      differs: section.differing.includes(index + 1),
      gap: opensPhrase(section, index),
      cursor: isCursor,
      sounding: isSounding,
      odd: cell.meter !== null,
    }"
    :style="{ '--full': plain ? 0 : cell.density }"
    :aria-label="words"
    :aria-current="isCursor ? 'true' : undefined"
    :tabindex="isCursor ? 0 : -1"
    @click="emit('place')"
    @dblclick="emit('go')"
  >
    <svg viewBox="0 0 30 30" aria-hidden="true">
      <path v-if="cell.crash" class="ink" d="M4 4l6 6M10 4l-6 6" />
      <path v-if="plain" class="same" d="M8 15h14" />
      <path v-if="cell.fill" class="fill" d="M19 26l7-7" />
    </svg>
    <span v-if="cell.meter" class="meter">{{ cell.meter }}</span>
  </button>
</template>

<style scoped>
.cell {
  position: relative;
  width: 30px;
  height: 34px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: 4px;
  background: color-mix(in srgb, var(--shade) calc(var(--full) * 90%), var(--paper-raised));
  cursor: pointer;
}
.cell.gap {
  margin-left: 9px;
}
.cell.plain {
  border-color: var(--line);
  background: none;
}
.cell.differs {
  border: 2px solid var(--accent);
}
.cell.odd {
  width: 22px;
}
.cell.cursor {
  outline: 2px solid var(--ink);
  outline-offset: 1px;
}
.cell.sounding {
  box-shadow: 0 0 0 3px var(--accent-soft);
}
.cell svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.ink {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
.same {
  stroke: var(--line-strong);
  stroke-width: 2;
}
.fill {
  fill: none;
  stroke: var(--accent);
  stroke-width: 2.4;
}
.meter {
  position: absolute;
  inset: auto 0 -1.1rem;
  color: var(--accent);
  font-size: 0.75rem;
}
</style>
