<script setup lang="ts">
/** Bars as they are and as they would be, to be taken one by one. */
import Checkbox from 'primevue/checkbox'
import { computed } from 'vue'
import type { Relisten } from '@/api/client'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import { changedBars, type EditValue } from '@/score/edits'
import { placeWords } from '@/score/place'
import { useOpenScore } from '@/song/openSong'
import BarRow from './BarRow.vue'
import { useRowWidth } from './useRowWidth'

const props = defineProps<{ bars: Relisten['bars'] }>()
/** The numbers of the bars that are taken. */
const chosen = defineModel<number[]>({ required: true })

const score = useOpenScore()
const width = useRowWidth(470)

const rows = computed(() =>
  props.bars.flatMap(({ bar: number, edits }) => {
    const before = score.value.bars.find((item) => item.number === number)
    const after = before && changedBars([before], edits)?.[0]
    if (!before || !after) return []
    const now = { label: 'now', bar: before, marked: edits.flatMap((edit) => edit.before ?? []) }
    const then = { label: 'then', bar: after, marked: edits.flatMap((edit) => edit.after ?? []) }
    return [{ number, words: edits.map((edit) => wordsOf(edit)).join('; '), sides: [now, then] }]
  }),
)

function wordsOf({ before, after }: EditValue): string {
  const bar = score.value.bars.find((item) => item.number === (after ?? before)!.bar)!
  const at = (after ?? before)!
  const where = `${INSTRUMENT_NAMES[at.instrument]} on ${placeWords(bar, at.position).replace('beat ', '')}`
  if (!before) return `${where} comes`
  if (!after) return `${where} goes`
  if (before.instrument !== after.instrument) return `${where} instead of ${INSTRUMENT_NAMES[before.instrument]}`
  if (before.status === 'doubtful' && after.status === 'heard') return `${where} is no longer in doubt`
  if (after.status === 'doubtful' && before.status !== 'doubtful') return `${where} is in doubt`
  if (before.ghost !== after.ghost) return `${where} ${after.ghost ? 'is a ghost' : 'is no ghost'}`
  return `${where} is played otherwise`
}
</script>

<template>
  <ul class="bars">
    <li v-for="row in rows" :key="row.number">
      <label>
        <Checkbox v-model="chosen" :value="row.number" />
        Bar {{ row.number }}
      </label>
      <span class="label">{{ row.words }}</span>
      <div class="pair">
        <div v-for="side in row.sides" :key="side.label">
          <span class="label">{{ side.label }}</span>
          <BarRow :bar="side.bar" :typical="[]" :width="width" :cursor="null" :marked="side.marked" />
        </div>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.bars {
  display: grid;
  gap: var(--gap-3);
  margin: var(--gap-3) 0 0;
  padding: 0;
  list-style: none;
}
.bars li {
  display: grid;
  grid-template-columns: 6rem minmax(0, 1fr);
  gap: var(--gap-1) var(--gap-3);
  align-items: baseline;
  content-visibility: auto;
  contain-intrinsic-size: auto 140px;
}
.pair {
  display: flex;
  flex-wrap: wrap;
  grid-column: 1 / -1;
  gap: var(--gap-4);
  pointer-events: none;
}
</style>
