<script setup lang="ts">
/** The engraved pages, the bar that sounds lit; and the files to take away. */
import { useIntersectionObserver } from '@vueuse/core'
import Button from 'primevue/button'
import Message from 'primevue/message'
import { computed, nextTick, ref, watch } from 'vue'
import { useDownload } from '@/api/download'
import { useOpenSong } from '@/song/openSong'

const { id, engraving, soundingIndex, player, stage } = useOpenSong()
const { pages, isStale, problem } = engraving
/** Keep the sounding bar in sight: it plays, and the chart is what one looks at. */
const follows = computed(() => player.isPlaying.value && stage.value === 'chart')

const FILES = [
  { name: 'chart.pdf', label: 'PDF, A4' },
  { name: 'chart-letter.pdf', label: 'PDF, Letter' },
  { name: 'chart.musicxml', label: 'MusicXML' },
  { name: 'drums.mid', label: 'MIDI, as played' },
  { name: 'drums-quantised.mid', label: 'MIDI, on the grid' },
  { name: 'transcription.json', label: 'Transcription, JSON' },
]

const download = useDownload()
/** A print is made by a worker: the click waits for it. All else is there at once. */
function take(event: Event, file: { name: string }): void {
  if (!file.name.endsWith('.pdf')) return
  event.preventDefault()
  void download.download(`/api/songs/${id}/files/${file.name}`, file.name)
}

const sheets = ref<HTMLElement>()
/** Pages under the edge of the window are not drawn at all: their thousands of marks made the bar stack above scroll by jerks. */
const isAway = ref(false)
useIntersectionObserver(sheets, (entries) => (isAway.value = !entries.at(-1)!.isIntersecting), {
  rootMargin: '150px 0px',
})
let lit: Element | null = null

/** The SVG is ours, made by the engraver from our own MusicXML, whose texts it escapes. */
function drawn(page: string, index: number): HTMLElement {
  const sheet = document.createElement('div')
  sheet.className = 'sheet'
  const drawing = new DOMParser().parseFromString(page, 'image/svg+xml').documentElement
  drawing.setAttribute('role', 'img')
  drawing.setAttribute('aria-label', `Chart, page ${index + 1} of ${pages.value.length}`)
  sheet.append(document.importNode(drawing, true))
  return sheet
}

/** A page at a time, between which the screen answers: a long song has many, and they are large. */
async function put(): Promise<void> {
  const mine = pages.value
  for (const [index, page] of mine.entries()) {
    if (index) await new Promise((done) => setTimeout(done))
    if (mine !== pages.value || !sheets.value) return
    const old = sheets.value.children[index]
    if (old) old.replaceWith(drawn(page, index))
    else sheets.value.append(drawn(page, index))
  }
  while ((sheets.value?.children.length ?? 0) > mine.length) sheets.value!.lastElementChild!.remove()
  light()
}

function light(): void {
  lit?.classList.remove('sounding')
  lit = null
  if (soundingIndex.value === null || !sheets.value) return
  lit = sheets.value.querySelectorAll('g.measure')[soundingIndex.value] ?? null
  lit?.classList.add('sounding')
  if (follows.value) lit?.scrollIntoView({ block: 'nearest', behavior: 'smooth' })
}

watch(pages, () => void nextTick(() => void put()), { immediate: true })
watch(soundingIndex, light)
</script>

<template>
  <section id="chart" class="chart" aria-label="Chart">
    <header>
      <h2>Chart</h2>
      <span class="label" role="status">{{ isStale && pages.length ? 'being engraved again …' : '' }}</span>
      <nav class="files" aria-label="Files of this chart">
        <a
          v-for="file in FILES"
          :key="file.name"
          :href="`/api/songs/${id}/files/${file.name}`"
          :download="file.name"
          :data-test="file.name"
          :aria-busy="download.making.value === file.name"
          @click="take($event, file)"
          >{{ download.making.value === file.name ? 'being printed …' : file.label }}</a
        >
      </nav>
    </header>
    <Message v-if="download.problem.value" severity="error">{{ download.problem.value }}</Message>
    <Message v-if="problem" severity="error">
      {{ problem }} <Button label="Try again" variant="text" size="small" @click="engraving.fetchPages()" />
    </Message>
    <p v-else-if="pages.length === 0" class="quiet">Engraving the chart …</p>
    <div ref="sheets" class="sheets" :class="{ away: isAway }" />
  </section>
</template>

<style scoped>
.chart {
  contain: layout style;
  /* As tall as what it scrolls in, even before its pages are there: else one cannot go to it. */
  min-height: 100%;
  padding: var(--gap-6) var(--frame-edge) 3rem;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2) var(--gap-4);
  align-items: baseline;
  margin-bottom: var(--gap-4);
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2) var(--gap-4);
  margin-left: auto;
}
.sheets {
  display: grid;
  justify-items: center;
  gap: var(--gap-6);
}
.sheets.away {
  content-visibility: hidden;
  contain-intrinsic-size: auto 60rem auto 84rem;
}
.sheets :deep(.sheet) {
  /* Pages out of sight are not laid out: a long song has thousands of marks. */
  content-visibility: auto;
  contain-intrinsic-size: auto 60rem auto 84rem;
  width: min(100%, 60rem);
  border: 1px solid var(--line);
  background: var(--page);
  color: var(--page-ink);
  box-shadow: 0 2px 14px rgb(60 50 30 / 8%);
}
.sheets :deep(svg) {
  display: block;
  width: 100%;
  height: auto;
}
.sheets :deep(.measure) {
  /* Room below a bar that is brought into sight, so that the next line is seen too. */
  scroll-margin: 6rem;
}
.sheets :deep(.measure.sounding) {
  color: var(--accent);
  fill: var(--accent);
}
.sheets :deep(.measure.sounding path),
.sheets :deep(.measure.sounding ellipse),
.sheets :deep(.measure.sounding polygon) {
  stroke: var(--accent);
}
</style>
