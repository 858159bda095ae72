<script setup lang="ts">
/** Bars that two people changed at once: shown side by side, settled by choice. */
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed } from 'vue'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import BarRow from './BarRow.vue'
import { useRowWidth } from './useRowWidth'

const { part } = useOpenSong()
const score = useOpenScore()

const width = useRowWidth(520)
const rows = computed(() =>
  part.conflicts.value.flatMap((conflict) => {
    const bar = score.value.bars.find((item) => item.number === conflict.bar)
    return bar
      ? [{ number: conflict.bar, mine: { ...bar, hits: conflict.mine }, theirs: { ...bar, hits: conflict.theirs } }]
      : []
  }),
)
</script>

<template>
  <Dialog
    :visible="rows.length > 0"
    modal
    :closable="false"
    :close-on-escape="false"
    header="Somebody else changed this meanwhile"
    :style="{ width: '40rem', maxWidth: '96vw' }"
  >
    <p>Both versions are kept until you choose. Nothing else is held up.</p>
    <section v-for="row in rows" :key="row.number" class="bar">
      <h3>Bar {{ row.number }}</h3>
      <div class="version">
        <span class="label">Their version</span>
        <BarRow :bar="row.theirs" :typical="[]" :width="width" :cursor="null" />
        <Button
          :label="`Use theirs`"
          severity="secondary"
          :data-test="`theirs-${row.number}`"
          @click="part.resolve(row.number, 'theirs')"
        />
      </div>
      <div class="version">
        <span class="label">Yours</span>
        <BarRow :bar="row.mine" :typical="[]" :width="width" :cursor="null" />
        <Button label="Use mine" :data-test="`mine-${row.number}`" @click="part.resolve(row.number, 'mine')" />
      </div>
    </section>
  </Dialog>
</template>

<style scoped>
.bar {
  display: grid;
  gap: var(--gap-3);
  margin-top: var(--gap-3);
}
.version {
  display: grid;
  justify-items: start;
  gap: var(--gap-1);
}
</style>
