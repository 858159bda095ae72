<script setup lang="ts">
/** Over the stack, always in sight: whose evidence is shaded, the count ruler, the typical phrase. */
import { computed } from 'vue'
import type { Bar } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import CountRuler from './CountRuler.vue'
import PhraseBar from './PhraseBar.vue'
import RowName from './RowName.vue'
import { sideBySide } from './stackRows'
import { notesByStep, OWN_RECORDING } from './useGrooves'

const props = defineProps<{
  /** Width of the lanes of a row, in pixels. */
  lanes: number
  isNarrow: boolean
}>()

const { stack, found, sources } = useOpenSong()
const score = useOpenScore()

const here = computed(() => found.phrases.value.get(stack.cursor.value.bar))
const perRow = computed(() => sideBySide(here.value, props.isNarrow))
const barWidth = computed(() => Math.floor(props.lanes / perRow.value))
/** The bars of the phrase at the cursor, in rows as wide as the stack's. */
const phraseRows = computed(() => {
  const phrase = here.value?.phrase
  if (!phrase) return []
  const steps = notesByStep(phrase)
  return Array.from({ length: Math.ceil(steps.length / perRow.value) }, (_, row) =>
    steps.slice(row * perRow.value, (row + 1) * perRow.value).map((notes, index) => ({
      notes,
      step: row * perRow.value + index,
      bar: score.value.bars.find((bar) => bar.number === phrase.first_bar + row * perRow.value + index),
    })),
  )
})
/** The bar whose counts head the stack: of the commonest division, so that most notes have their word. */
const ruler = computed(() => {
  const counts = new Map<string, { bar: Bar; count: number }>()
  for (const bar of score.value.bars) {
    if (bar.hits.length === 0) continue
    const shape = bar.cells.map((cell) => cell.position).join(' ')
    const known = counts.get(shape)
    if (known) known.count += 1
    else counts.set(shape, { bar, count: 1 })
  }
  return [...counts.values()].sort((one, other) => other.count - one.count)[0]?.bar ?? score.value.bars[0]
})

/** Whose evidence can be shaded: the record's own, and that of each recording that is lined up. */
const recordings = computed(() => [
  { value: OWN_RECORDING, label: 'record' },
  ...sources.sources.value
    .filter((source) => source.state === 'ready')
    .map((source) => ({ value: source.id, label: source.title })),
])
const shaded = computed({ get: () => found.shadeSource.value, set: (source) => found.showShadesOf(source) })
</script>

<template>
  <div class="head">
    <ChoiceField
      v-if="recordings.length > 1"
      v-model="shaded"
      v-tooltip.bottom="'Whose evidence is shaded under the cells'"
      class="shade"
      label="Whose evidence is shaded"
      :options="recordings"
    />
    <span v-else />
    <div>
      <slot />
      <div class="side-by-side">
        <template v-if="ruler">
          <CountRuler
            v-for="side in perRow"
            :key="side"
            :bar="ruler"
            :width="barWidth"
            :cursor="(here?.step ?? 0) % perRow === side - 1 ? stack.cursor.value.position : null"
          />
        </template>
      </div>
    </div>
    <template v-for="(row, index) in phraseRows" :key="index">
      <RowName class="phrase">
        <strong>{{ index === 0 ? 'Phrase' : '' }}</strong>
        <span v-if="index === 0" class="label">typical</span>
      </RowName>
      <div class="sheet side-by-side">
        <PhraseBar v-for="item in row" :key="item.step" :bar="item.bar ?? ruler!" :notes="item.notes" :width="barWidth" />
      </div>
    </template>
  </div>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: var(--names) minmax(0, 1fr);
  overflow-y: scroll;
  scrollbar-color: transparent transparent;
  flex: none;
}
.side-by-side {
  display: flex;
}
.sheet,
.phrase {
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  background: var(--paper-raised);
}
.shade {
  min-width: 0;
  margin: 0.1rem var(--gap-2) 0.1rem 0;
}
.shade :deep(.p-select-label) {
  padding: 0 0.4rem;
}
.shade :deep(.p-select-dropdown) {
  width: 1.25rem;
}
</style>
