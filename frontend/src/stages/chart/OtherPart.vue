<script setup lang="ts">
/** A drum part that somebody else wrote: lined up with the song, compared with it, taken over if wished. */
import { useFileDialog } from '@vueuse/core'
import { computed, ref, type Ref, shallowRef } from 'vue'
import type { Compared } from '@/api/client'
import { PART_SUFFIXES } from '@/api/vocabulary'
import { useOpenSong } from '@/song/openSong'

const { part, stack } = useOpenSong()
const field = ref<HTMLInputElement | null>(null)
const files = useFileDialog({ input: field as Ref<HTMLInputElement>, accept: PART_SUFFIXES.join(','), multiple: false, reset: true })
const chosen = shallowRef<File | null>(null)
const found = shallowRef<Compared | null>(null)
const isBusy = ref(false)

async function look(file: File, take: boolean): Promise<void> {
  isBusy.value = true
  const answer = await part.comparePart(file, take)
  isBusy.value = false
  if (take && answer) chosen.value = found.value = null
  else found.value = answer
}
files.onChange((list) => {
  chosen.value = list?.[0] ?? null
  found.value = null
  if (chosen.value) void look(chosen.value, false)
})
const words = computed(() => {
  const answer = found.value
  if (!answer) return ''
  const both = answer.same.length + answer.differing.length
  if (!both) return 'None of its bars could be lined up with this song.'
  const moved = answer.shift ? ` Its bar 1 is bar ${1 + answer.shift} here.` : ''
  const beyond = answer.beyond ? ` ${answer.beyond} of its bars are not in this song.` : ''
  return `${answer.same.length} of ${both} bars say the same, ${Math.round(100 * answer.agreement)} % of the strokes.${moved}${beyond}`
})
</script>

<template>
  <section class="other" aria-label="Compare with another part">
    <h3>Compare with another part</h3>
    <input ref="field" type="file" class="visually-hidden" tabindex="-1" aria-label="A MusicXML or MIDI part" data-test="part-file" />
    <p class="quiet">MusicXML or MIDI, lined up with this song and compared bar by bar.</p>
    <button type="button" class="act" :disabled="isBusy" @click="files.open()">{{ isBusy ? 'Reading …' : 'Compare a file …' }}</button>
    <template v-if="found">
      <p data-test="compared">{{ words }}</p>
      <ul v-if="found.remarks.length"><li v-for="remark in found.remarks" :key="remark">{{ remark }}</li></ul>
      <p v-if="found.differing.length" class="bars">
        Otherwise in bar
        <button v-for="bar in found.differing.slice(0, 24)" :key="bar" type="button" class="act" @click="stack.place({ bar, position: '0' })">{{ bar }}</button>
        <span v-if="found.differing.length > 24"> and {{ found.differing.length - 24 }} more</span>
      </p>
      <button v-if="found.differing.length && chosen" type="button" class="act" :disabled="isBusy" @click="look(chosen, true)">
        Use its notes (undo possible)
      </button>
    </template>
  </section>
</template>

<style scoped>
.other {
  display: grid;
  gap: var(--gap-2);
  justify-items: start;
}
ul {
  margin: 0;
  padding-left: 1.2rem;
}
.bars {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1);
  align-items: baseline;
}
.quiet {
  font-size: var(--size-small);
}
</style>
