<script setup lang="ts">
/** What the tool would write otherwise after listening again, bar by bar: take all, some, or none. */
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed, ref, watch } from 'vue'
import { useOpenSong } from '@/song/openSong'
import ChangedBars from './ChangedBars.vue'

const { found: findings, part, loopBars } = useOpenSong()
const found = findings.relisten

/** The bars that are taken: all, to begin with. */
const chosen = ref<number[]>([])
watch(found, (value) => (chosen.value = value?.bars.map((item) => item.bar) ?? []), { immediate: true })
const close = () => (found.value = null)

const bars = computed(() => found.value?.bars ?? [])

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

/** Close, and play the bar that contradicts the others. */
function check(bar: number): void {
  close()
  loopBars(bar, bar)
}

function take(): void {
  const edits = bars.value.filter((item) => chosen.value.includes(item.bar)).flatMap((item) => item.edits)
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
      <p v-if="bars.length === 0">
        Nothing: with {{ found.settled }} confirmed {{ found.settled === 1 ? 'bar' : 'bars' }} Orchesis hears the rest as
        it is written.
      </p>
      <p v-else>
        {{ summary }}. What you confirmed or changed stays as it is.
      </p>
      <ul v-if="found.contradictions.length" class="contradictions" data-test="contradictions">
        <li v-for="one in found.contradictions" :key="one.words">
          {{ one.words }}
          <Button :label="`Listen to bar ${one.bar}`" size="small" severity="secondary" @click="check(one.bar)" />
        </li>
      </ul>
      <ChangedBars v-model="chosen" :bars="bars" />
    </template>
    <template #footer>
      <Button :label="bars.length ? 'Take none' : 'Close'" severity="secondary" @click="close" />
      <Button
        v-if="bars.length"
        :label="chosen.length === bars.length ? 'Take all' : `Take ${chosen.length} of ${bars.length}`"
        :disabled="chosen.length === 0"
        data-test="take"
        @click="take"
      />
    </template>
  </Dialog>
</template>

<style scoped>
.contradictions {
  margin: 0 0 var(--gap-3);
  padding: var(--gap-2) var(--gap-3);
  background: var(--paper-sunk);
  list-style: none;
}
.contradictions li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: var(--gap-2);
}
</style>
