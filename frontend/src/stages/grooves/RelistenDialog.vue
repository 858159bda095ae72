<script setup lang="ts">
/** What the tool would write otherwise after listening again, bar by bar: take all, some, or none. */
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import Dialog from 'primevue/dialog'
import { computed, ref, watch } from 'vue'
import { changedBars, type EditValue } from '@/score/edits'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import { placeWords } from '@/score/place'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import BarRow from './BarRow.vue'
import { useRowWidth } from './useRowWidth'

const { found: findings, part } = useOpenSong()
const score = useOpenScore()
const found = findings.relisten

const width = useRowWidth(470)
/** The bars that are taken: all, to begin with. */
const chosen = ref<number[]>([])
watch(found, (value) => (chosen.value = value?.bars.map((item) => item.bar) ?? []), { immediate: true })
const close = () => (found.value = null)

const rows = computed(() =>
  (found.value?.bars ?? []).flatMap(({ bar: number, edits }) => {
    const before = score.value.bars.find((item) => item.number === number)
    const after = before && changedBars([before], edits)?.[0]
    if (!before || !after) return []
    const words = edits.map((edit) => wordsOf(edit)).join('; ')
    const now = { label: 'now', bar: before, marked: edits.flatMap((edit) => edit.before ?? []) }
    const afterwards = { label: 'then', bar: after, marked: edits.flatMap((edit) => edit.after ?? []) }
    return [{ number, edits, words, sides: [now, afterwards] }]
  }),
)

function wordsOf({ before, after }: EditValue): string {
  const bar = score.value.bars.find((item) => item.number === (after ?? before)!.bar)!
  const at = (after ?? before)!
  const where = `${INSTRUMENT_NAMES[at.instrument]} on ${placeWords(bar, at.position).replace('beat ', '')}`
  if (!before) return `${where} comes`
  if (!after) return `${where} goes`
  if (before.instrument !== after.instrument) return `${where} instead of ${INSTRUMENT_NAMES[before.instrument]}`
  return `${where} is no longer in doubt`
}

const many = (count: number, one: string, more: string) => `${count} ${count === 1 ? one : more}`

/** What comes, goes and is surer, without what there is none of; the first says that notes are meant. */
const summary = computed(() => {
  if (!found.value) return ''
  const { added, removed, surer } = found.value
  return [
    { count: added, one: 'comes', more: 'come' },
    { count: removed, one: 'goes', more: 'go' },
    { count: surer, one: 'is no longer in doubt', more: 'are no longer in doubt' },
  ]
    .filter(({ count }) => count > 0)
    .map(({ count, one, more }, place) =>
      place === 0 ? many(count, `note ${one}`, `notes ${more}`) : many(count, one, more),
    )
    .join(', ')
})

function take(): void {
  const edits = rows.value.filter((row) => chosen.value.includes(row.number)).flatMap((row) => row.edits)
  const count = chosen.value.length
  close()
  part.make(edits, `Listened again: ${count} ${count === 1 ? 'bar' : 'bars'} changed`)
}
</script>

<template>
  <Dialog
    :visible="found !== null"
    modal
    header="What would change"
    :style="{ width: '64rem', maxWidth: '96vw' }"
    @update:visible="close"
  >
    <template v-if="found">
      <p v-if="rows.length === 0">
        Nothing: with {{ found.settled }} confirmed {{ found.settled === 1 ? 'bar' : 'bars' }} Orchesis hears the rest as
        it is written.
      </p>
      <p v-else>
        {{ summary }}. What you confirmed or changed stays as it is.
      </p>
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
    <template #footer>
      <Button :label="rows.length ? 'Take none' : 'Close'" severity="secondary" @click="close" />
      <Button
        v-if="rows.length"
        :label="chosen.length === rows.length ? 'Take all' : `Take ${chosen.length} of ${rows.length}`"
        :disabled="chosen.length === 0"
        data-test="take"
        @click="take"
      />
    </template>
  </Dialog>
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
