<script setup lang="ts">
/** Which parts the chart shows: those that were proposed, and what somebody added or dropped. */
import { computed, ref } from 'vue'
import InputNumber from 'primevue/inputnumber'
import { useOpenSong } from '@/song/openSong'

const { chart: stage, part, stack, mayEdit } = useOpenSong()
const parts = computed(() => stage.chart.value?.parts ?? [])
const covered = computed(() => Math.round(100 * parts.value.reduce((sum, item) => sum + (item.kept ? item.share : 0), 0)))
const length = ref(2)
const from = computed(() => stack.cursor.value.bar)

function title(item: { first_bar: number; bars: number }): string {
  return item.bars === 1 ? `Bar ${item.first_bar}` : `Bars ${item.first_bar}–${item.first_bar + item.bars - 1}`
}
function add(): void {
  void part.decidePart({ first_bar: from.value, bars: length.value, wanted: true })
}
</script>

<template>
  <section class="parts" aria-label="Parts">
    <h3>Parts</h3>
    <p class="quiet">From these, {{ Math.min(100, covered) }} % of the bars can be played.</p>
    <ul>
      <li v-for="item in parts" :key="`${item.first_bar} ${item.bars}`" :class="{ dropped: !item.kept }">
        <span>
          <strong>{{ title(item) }}</strong>
          <small>{{ item.words }} · {{ Math.round(100 * item.share) }} %</small>
        </span>
        <button v-if="mayEdit && item.kept" type="button" class="act" @click="part.decidePart({ first_bar: item.first_bar, bars: item.bars, wanted: item.wanted ? null : false })">
          Drop
        </button>
        <button v-else-if="mayEdit" type="button" class="act" @click="part.decidePart({ first_bar: item.first_bar, bars: item.bars, wanted: null })">
          Take back
        </button>
      </li>
    </ul>
    <div v-if="mayEdit" class="new">
      <label>Bar {{ from }} and on, <InputNumber v-model="length" :min="1" :max="8" show-buttons size="small" aria-label="Bars of the new part" /> bars</label>
      <button type="button" class="act" @click="add">Add as a part</button>
    </div>
  </section>
</template>

<style scoped>
.parts {
  display: grid;
  gap: var(--gap-2);
}
ul {
  display: grid;
  gap: var(--gap-2);
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
  justify-content: space-between;
}
li.dropped strong {
  color: var(--ink-soft);
  text-decoration: line-through;
}
small {
  display: block;
  color: var(--ink-soft);
}
.new {
  display: grid;
  gap: var(--gap-2);
  justify-items: start;
}
.new :deep(input) {
  width: 4rem;
}
</style>
