<script setup lang="ts">
/** One section: its name, what music it is, its bars, what is said of it. */
import { computed, nextTick, ref, watch } from 'vue'
import type { Section } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { clock } from '@/shelf/words'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import BarCell from './BarCell.vue'
import { firstOfEach, isOdd, wordsOf } from './sections'

const props = defineProps<{ section: Section; row: number }>()

const { form: cursor, part, player, loopBars } = useOpenSong()
const score = useOpenScore()
const busy = part.isChanging
const isHere = computed(() => cursor.at.value.row === props.row)
const sounding = computed(() => (player.isPlaying.value ? player.currentBar.value?.number : undefined))
const startOf = (number: number) => score.value.bars.find((bar) => bar.number === number)?.start ?? 0

/** The kinds of music that there are; another letter says that this is the same. */
const kinds = computed(() => firstOfEach(score.value.sections))
const marks = computed(() => [
  ...kinds.value.map((kind) => ({ value: kind.mark, label: kind.mark, hint: kind.label })),
  { value: '', label: 'none of these' },
])
const mark = computed({
  get: () => props.section.mark,
  set: (value) => {
    cursor.place(props.row)
    cursor.sameAs(value ? (kinds.value.find((kind) => kind.mark === value)?.first_bar ?? null) : null)
  },
})

/** Once: whether the others of this letter are called so too. */
const asksTwins = computed(
  () => cursor.renamed.value?.first_bar === props.section.first_bar && cursor.twins.value.length > 0 && !busy.value,
)

/** Bars of other lengths than the song's. */
const strays = computed(() => props.section.cells.filter((cell) => cell.meter))

const nameField = ref<HTMLInputElement>()
const draft = ref('')
watch(
  () => cursor.naming.value && isHere.value,
  async (isNaming) => {
    if (!isNaming) return
    draft.value = props.section.label
    await nextTick()
    nameField.value?.select()
  },
)
</script>

<template>
  <div class="row" :class="{ here: isHere, odd: isOdd(section) }" role="row" :data-row="row" data-test="section">
    <div class="name" role="rowheader">
      <form v-if="cursor.naming.value && isHere" @submit.prevent="cursor.rename(draft)">
        <input
          ref="nameField"
          v-model="draft"
          aria-label="Name of the section"
          maxlength="40"
          @keydown.esc.stop="cursor.naming.value = false"
          @keydown.stop
          @blur="cursor.rename(draft)"
        />
      </form>
      <button v-else type="button" class="label" tabindex="-1" @click="cursor.place(row)" @dblclick="cursor.name()">
        {{ section.label }}
      </button>
      <span class="quiet">{{ clock(section.start) }}</span>
    </div>
    <span role="gridcell">
      <ChoiceField
        v-if="section.mark"
        v-model="mark"
        v-tooltip.bottom="`${section.label} is the same music as …`"
        class="mark"
        :label="`${section.label} is the same music as`"
        :options="marks"
        :disabled="busy"
      />
    </span>
    <p class="count" role="gridcell">
      {{ section.bars }} {{ section.bars === 1 ? 'bar' : 'bars' }}
      <span v-if="isOdd(section)" class="small">{{ section.phrases.join(' + ') }}</span>
      <span v-else-if="section.like" class="small">as before</span>
    </p>
    <div class="cells" role="gridcell">
      <BarCell
        v-for="(cell, index) in section.cells"
        :key="cell.number"
        :section="section"
        :index="index"
        :is-cursor="isHere && cursor.at.value.bar === index + 1"
        :is-sounding="sounding === cell.number"
        @place="cursor.place(row, index + 1)"
        @go="player.seek(startOf(cell.number))"
      />
    </div>
    <p v-if="asksTwins" class="words twins" role="gridcell" data-test="twins">
      Rename
      {{ cursor.twins.value.length === 1 ? `the other ${section.mark} section` : `the ${cursor.twins.value.length} other ${section.mark} sections` }}
      to {{ cursor.renamed.value?.label }} too?
      <button type="button" class="act" @click="cursor.renameTwins(true)">Rename all</button>
      <button type="button" class="act" @click="cursor.renameTwins(false)">Only this</button>
    </p>
    <p v-else class="words" role="gridcell">
      {{ wordsOf(section) }}
      <button
        v-for="cell in strays"
        :key="cell.number"
        v-tooltip.bottom="'Give it as many beats as the others have; Undo brings it back'"
        type="button"
        class="act"
        :disabled="busy"
        :data-test="`even-out-${cell.number}`"
        @click="part.evenOutBar(cell.number)"
      >
        Even out bar {{ cell.number }}
      </button>
    </p>
    <p class="ends" role="gridcell">
      <button type="button" class="link" @click="loopBars(section.first_bar, section.first_bar + section.bars - 1)">
        loop
      </button>
      <button
        type="button"
        class="link"
        :aria-pressed="section.confirmed"
        :disabled="busy"
        :data-test="`confirm-section-${row}`"
        @click="cursor.confirm(row)"
      >
        {{ section.confirmed ? '✓ confirmed' : 'confirm' }}
      </button>
    </p>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 8.5rem 4.2rem 5.5rem minmax(0, auto) minmax(9rem, 1fr) 5.5rem;
  gap: 0.9rem;
  align-items: center;
  padding: 0.45rem 0.6rem;
  border: 1px solid transparent;
  border-radius: var(--round);
}
.row.here {
  border-color: var(--line-strong);
  background: var(--paper-raised);
}
.name {
  display: grid;
}
.label {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font-size: var(--size-lead);
  font-weight: 700;
  text-align: left;
  cursor: pointer;
}
.name input {
  width: 100%;
  font: 700 var(--size-lead) var(--sans);
}
.twins {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-2);
  align-items: center;
}
.words .act {
  padding: 0.1rem 0.6rem;
}
.mark {
  border-color: transparent;
  background: none;
  box-shadow: none;
}
.mark :deep(.p-select-label) {
  padding: 0 0.1rem 0 0.4rem;
  font: 500 1.35rem var(--serif);
}
.odd .count {
  color: var(--accent);
  font-weight: 700;
}
.words {
  color: var(--ink);
  overflow-wrap: anywhere;
}
.ends {
  display: grid;
  justify-items: end;
}
.link {
  padding: 0.1rem 0.2rem;
  white-space: nowrap;
  border: 0;
  background: none;
  color: var(--accent);
  cursor: pointer;
}
.link[aria-pressed='true'] {
  color: var(--ink-soft);
}
.cells {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
.count .small,
.quiet {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.count .small {
  display: block;
}
p {
  margin: 0;
}
button:disabled {
  cursor: progress;
  opacity: 0.6;
}
@media (max-width: 900px) {
  .row {
    grid-template-columns: minmax(0, 1fr) auto auto;
  }
  .cells,
  .words {
    grid-column: 1 / -1;
  }
}
</style>
