<script setup lang="ts">
/**
 * One row of the stack: a bar, or the bars of a phrase side by side, with its name. Redrawn only when
 * something of its own changes: of the cursor, the selection and the loop it gets what lies in it.
 */
import { ref } from 'vue'
import type { Bar, Limb, Shade } from '@/api/client'
import BarRow from './BarRow.vue'
import PlayLine from './PlayLine.vue'
import RowName from './RowName.vue'
import SoundPicture from './SoundPicture.vue'
import { isDense, rowHeight } from './rowLayout'
import type { StackRow } from './stackRows'
import type { Cursor, Selection } from './useCursor'
import type { BarPhrase } from './useGrooves'
import type { Nearness } from './useNear'

const props = defineProps<{
  row: StackRow
  songId: string
  /** Of each of its bars, in pixels. */
  width: number
  phrases: ReadonlyMap<number, BarPhrase>
  shades: ReadonlyMap<number, Shade>
  /** These three are null where they lie in other rows. */
  cursor: Cursor | null
  target: Cursor | null
  selection: Selection | null
  /** The bar that sounds, when it is one of these. */
  sounding: number | null
  now: () => number
  loop: 'none' | 'touched' | 'whole'
  showPicture: boolean
  nearness: Nearness
}>()
const emit = defineEmits<{
  pick: [bar: Bar, position: string, limb: Limb, extend: boolean]
  loop: [bars: Bar[], extend: boolean]
}>()

const element = ref<HTMLElement | null>(null)
const isNear = props.nearness.isNear(element)
/** As it is written in the row, too. */
const numbers = (bars: Bar[]) => bars.map((bar) => bar.number).join('–')
const name = (bars: Bar[]) => `Loop bar${bars.length > 1 ? 's' : ''} ${numbers(bars)}`
const within = (place: Cursor | null, bar: Bar) => (place?.bar === bar.number ? place : null)
</script>

<template>
  <li ref="element" class="row" :class="{ looped: loop !== 'none' }">
    <RowName>
      <button
        type="button"
        class="number"
        :aria-label="name(row.bars)"
        :aria-pressed="loop === 'whole'"
        :title="isDense && row.words ? `${row.words} · loop` : 'Loop; with Shift, extend the loop to here'"
        @click="emit('loop', row.bars, $event.shiftKey)"
      >
        {{ numbers(row.bars) }}
      </button>
      <span class="label words">{{ row.words }}</span>
      <span v-if="row.isSettled" class="label words settled">✓ confirmed</span>
    </RowName>
    <div class="bars">
      <div
        v-for="bar in row.bars"
        :key="bar.number"
        class="bar"
        :class="{ now: sounding === bar.number }"
        :data-bar="bar.number"
        :style="{ minHeight: `${rowHeight}px` }"
      >
        <template v-if="isNear">
          <BarRow
            :bar="bar"
            :typical="phrases.get(bar.number)?.notes ?? []"
            :width="width"
            :shade="shades.get(bar.number)"
            :cursor="within(cursor, bar)"
            :target="within(target, bar)"
            :selection="selection"
            @pick="(place, limb, extend) => emit('pick', bar, place, limb, extend)"
          />
          <SoundPicture v-if="showPicture && within(cursor, bar)" :song-id="songId" :bar="bar.number" :width="width" />
          <PlayLine v-if="sounding === bar.number" :bar="bar" :width="width" :now="now" />
        </template>
      </div>
    </div>
  </li>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: var(--names) minmax(0, 1fr);
  border-bottom: 1px solid var(--line);
  content-visibility: auto;
  contain-intrinsic-size: auto v-bind('`${rowHeight + 1}px`');
}
.row.looped .name {
  box-shadow: inset 4px 0 0 var(--accent);
}
.bars {
  display: flex;
}
.bar {
  position: relative;
}
.bar.now {
  background: var(--paper-raised);
}
.number {
  justify-self: start;
  min-width: 2.5rem;
  padding: 0.1rem 0.3rem;
  border: 0;
  border-radius: 6px;
  background: none;
  font-weight: 700;
  font-size: 1.0625rem;
  text-align: left;
  cursor: pointer;
}
.number:hover {
  background: var(--accent-soft);
}
.words {
  padding-left: 0.3rem;
  font-size: 0.8125rem;
  line-height: 1.2;
}
@media (max-width: 700px) {
  /* The bar has the room: all of its beats are in sight. */
  .number {
    min-width: 0;
    padding-inline: 0;
  }
  .words {
    display: none;
  }
}
</style>
