<script setup lang="ts">
/** The chart to take away, as it is seen, in every format. */
import Message from 'primevue/message'
import { useToast } from 'primevue/usetoast'
import { computed } from 'vue'
import { useDownload } from '@/api/download'
import { useOpenSong } from '@/song/openSong'
import { FILES, MADE, queryOf } from './options'

const { id, chart: stage } = useOpenSong()
const query = computed(() => queryOf(stage.choice.value))
const download = useDownload()
const toast = useToast()
const TOLD_FOR_MS = 4000
/** A print is made by a worker: the click waits for it. All else is there at once. */
function take(event: Event, name: string): void {
  if (!MADE.includes(name)) return
  event.preventDefault()
  void made(name)
}
async function made(name: string): Promise<void> {
  await download.download(address(name), many(name) ? `${name}.zip` : name)
  if (!download.problem.value)
    toast.add({ severity: 'secondary', summary: `${name} is made`, detail: 'It is with your downloads.', life: TOLD_FOR_MS })
}
const address = (name: string) => `/api/songs/${id}/files/${name}${query.value}`
/** Pictures of several pages come together. */
const many = (name: string) => /png|svg/.test(name) && (stage.chart.value?.pages.length ?? 1) > 1
</script>

<template>
  <section aria-label="Files of this chart" class="files">
    <h3>Take it away</h3>
    <nav aria-label="Files of this chart">
      <a
        v-for="file in FILES"
        :key="file.name"
        :href="address(file.name)"
        :download="file.name"
        :data-test="file.name"
        :aria-busy="download.making.value === file.name"
        @click="take($event, file.name)"
        >{{ download.making.value.startsWith(file.name) ? 'being made …' : file.label }}</a
      >
      <a :href="`/api/songs/${id}/bundle`" download data-test="bundle">Complete song (.zip)</a>
    </nav>
    <Message v-if="download.problem.value" severity="error">{{ download.problem.value }}</Message>
  </section>
</template>

<style scoped>
.files,
nav {
  display: grid;
  gap: var(--gap-1);
}
nav {
  grid-template-columns: 1fr 1fr;
}
</style>
