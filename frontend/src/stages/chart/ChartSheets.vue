<script setup lang="ts">
/** The pages themselves: what sounds is lit and kept in sight, a click on a note goes there. */
import { computed, onMounted, ref, watch } from 'vue'
import { barAt, laneOf, timeAt, fraction } from '@/score/place'
import { useOpenSong } from '@/song/openSong'
import { drawSheets, measureOf, noteOf } from './useSheets'

const { chart: stage, player, stack, part, bars } = useOpenSong()
const sheets = ref<HTMLElement>()
const chart = stage.chart

/** So long after a stroke its head is lit, in seconds. */
const LIT_FOR = 0.14

let litMeasure: Element[] = []
let litNotes: Element[] = []

function draw(): void {
  if (sheets.value && chart.value) drawSheets(sheets.value, chart.value)
  // What is drawn anew is where it was: only another bar is brought into sight.
  mark()
  litNotes = []
}

const barNow = computed(() => (player.isPlaying.value ? player.currentBar.value?.number : stack.cursor.value.bar))
const measureNow = computed(() => (chart.value && barNow.value ? measureOf(chart.value, barNow.value) : undefined))

function found(name: string): Element[] {
  return sheets.value ? [...sheets.value.querySelectorAll(`[id="${name}"]`)] : []
}

function mark(): void {
  for (const element of litMeasure) element.classList.remove('sounding')
  litMeasure = measureNow.value ? found(measureNow.value.name) : []
  for (const element of litMeasure) element.classList.add('sounding')
}

/** Light the bar, and bring it into sight before it is played through: its line, and the one after it. */
function light(): void {
  mark()
  litMeasure[0]?.scrollIntoView({ block: 'nearest', behavior: 'smooth' })
}

function lightNotes(): void {
  for (const element of litNotes) element.classList.remove('lit')
  litNotes = []
  const now = player.position.value
  const bar = part.score.value && barAt(part.score.value.bars, now)
  if (!bar || !player.isPlaying.value) return
  const places = new Set(
    bar.hits
      .filter((hit) => hit.time <= now && now < hit.time + LIT_FOR)
      .map((hit) => fraction(hit.position).toFixed(4)),
  )
  for (const measure of litMeasure)
    for (const place of places) litNotes.push(...measure.querySelectorAll(`.note[data-at="${place}"]`))
  for (const element of litNotes) element.classList.add('lit')
}

/** Where in the song a click on the pages is: the pass that is nearest to what sounds. */
function nearestPass(name: string): number | null {
  const measure = chart.value?.measures.find((item) => item.name === name)
  if (!measure) return null
  const now = player.currentBar.value?.number ?? stack.cursor.value.bar
  return measure.bars.reduce((best, bar) => (Math.abs(bar - now) < Math.abs(best - now) ? bar : best))
}

function clicked(event: MouseEvent): void {
  const target = event.target as Element
  const measure = target.closest('.measure')
  const first = measure && nearestPass(measure.id)
  if (!measure || first === null) return
  const note = noteOf(target.closest('.note')?.id ?? '')
  const bar = bars.value.find((item) => item.number === first)
  if (!bar) return
  const position = note?.position ?? '0'
  const hit = bar.hits.find((item) => item.position === position && item.instrument === note?.instrument)
  stack.place({ bar: bar.number, position, ...(hit ? { limb: laneOf(hit.limb) } : {}) })
  player.seek(timeAt(bar, fraction(position)))
}

onMounted(() => {
  draw()
  light()
})
watch(chart, draw)
watch(() => measureNow.value?.name, light)
watch(() => player.position.value, lightNotes)
</script>

<template>
  <div ref="sheets" class="sheets" :class="{ stale: stage.isStale.value }" @click="clicked" />
</template>

<style scoped>
.sheets {
  display: grid;
  /* Never as wide as a page that is not laid out yet says that it is. */
  grid-template-columns: minmax(0, 1fr);
  justify-items: center;
  gap: var(--gap-6);
}
.sheets :deep(.outlines) {
  position: absolute;
  width: 0;
  height: 0;
}
.sheets :deep(.sheet) {
  /* Pages out of sight are not laid out: a long song has thousands of marks. */
  content-visibility: auto;
  contain-intrinsic-size: auto 60rem auto 84rem;
  width: min(100%, 62rem);
  border: 1px solid var(--line);
  background: var(--page);
  color: var(--page-ink);
  box-shadow: 0 2px 14px rgb(60 50 30 / 8%);
}
.sheets :deep(.sheet > svg) {
  display: block;
  width: 100%;
  height: auto;
  font-family: var(--serif);
}
.sheets :deep(.ink) {
  fill: currentcolor;
  stroke: currentcolor;
  stroke-width: 0;
}
.sheets :deep(.hollow) {
  fill: var(--page);
}
.sheets :deep(.measure) {
  /* Room around a bar that is brought into sight: what comes next is seen too. */
  scroll-margin: 7rem 0 11rem;
  cursor: pointer;
  pointer-events: bounding-box;
}
.sheets :deep(.measure.sounding) {
  color: var(--accent);
  fill: var(--accent);
  stroke: var(--accent);
}
.sheets :deep(.note.lit) {
  color: var(--page-ink);
  fill: var(--page-ink);
  stroke: var(--accent);
  stroke-width: 45px;
}
</style>
