<script setup lang="ts">
/** Form: sections as rows, bars as cells; what repeats is plain, what differs is framed. */
import { computed, nextTick, ref, watch } from 'vue'
import { clock } from '@/shelf/words'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import SectionRow from './SectionRow.vue'

const { form: cursor, part } = useOpenSong()
const score = useOpenScore()
const busy = part.isChanging
const drumsFrom = computed(() => score.value.bars.find((bar) => bar.hits.length)?.number)

const grid = ref<HTMLElement>()
// The grid has one place in the order of Tab, the cell at the cursor; the focus goes with the cursor.
watch(cursor.at, async ({ row }) => {
  const hasFocus = document.activeElement?.classList.contains('cell')
  await nextTick()
  grid.value?.querySelector(`[data-row="${row}"]`)?.scrollIntoView({ block: 'nearest' })
  if (hasFocus) grid.value?.querySelector<HTMLElement>('.cell[tabindex="0"]')?.focus()
})
</script>

<template>
  <main class="body form">
    <header class="title">
      <h2>Form</h2>
      <p class="quiet">
        {{ score.bars.length }} bars, {{ clock(score.duration)
        }}<template v-if="drumsFrom && drumsFrom > 1">, drums from bar {{ drumsFrom }}</template>
      </p>
      <div class="acts">
        <button type="button" class="act" :disabled="busy" @click="cursor.split()">Split here <kbd>S</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.merge()">Merge with previous <kbd>J</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.move(-1)">Start one bar earlier <kbd>,</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.move(1)">one bar later <kbd>.</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.name()">Rename <kbd>R</kbd></button>
      </div>
    </header>
    <div ref="grid" class="rows" role="grid" aria-label="Sections and their bars">
      <SectionRow v-for="(section, row) in score.sections" :key="section.first_bar" :section="section" :row="row" />
    </div>
    <p class="quiet key">
      One cell is one bar, darker where more is played. A dash: as in the section it repeats; a frame: something
      differs. Slash: fill. Cross: crash on the one. A gap opens each phrase.
    </p>
  </main>
</template>

<style scoped>
.form {
  padding: 0.5rem var(--frame-edge) 2rem;
}
.title {
  display: flex;
  gap: 1rem;
  align-items: baseline;
  flex-wrap: wrap;
}
h2 {
  margin: 0;
  font: 500 var(--size-title) var(--serif);
}
p {
  margin: 0;
}
.quiet {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin-left: auto;
}
.rows {
  margin-top: 0.6rem;
}
.key {
  margin-top: 0.8rem;
}
</style>
