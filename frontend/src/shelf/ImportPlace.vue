<script setup lang="ts">
import { useDropZone, useFileDialog } from '@vueuse/core'
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { reactive, ref, type Ref } from 'vue'
import { RouterLink } from 'vue-router'
import { importRecording, Problem } from '@/api/client'
import { BUNDLE_SUFFIX, LARGEST_BYTES, LIMITS_TEXT, PART_SUFFIXES, SUFFIXES } from '@/api/vocabulary'

const emit = defineEmits<{ imported: [] }>()

interface Upload {
  key: number
  name: string
  share: number
  problem: string
  /** The song that has this recording already. */
  known: string
  file: File
  stop: AbortController
}

const uploads = reactive<Upload[]>([])
let nextKey = 1

async function take(files: readonly File[]): Promise<void> {
  for (const file of files) {
    const stop = new AbortController()
    uploads.push({ key: nextKey++, name: file.name, share: 0, problem: '', known: '', file, stop })
    const upload = uploads[uploads.length - 1]!
    if (file.size > LARGEST_BYTES) {
      upload.problem = `It has ${Math.ceil(file.size / 1024 ** 2)} MB; at most ${LARGEST_BYTES / 1024 ** 2} MB are taken. Shorten it, or export it as FLAC or MP3.`
      continue
    }
    await send(upload, false)
  }
}

async function send(upload: Upload, again: boolean): Promise<void> {
  upload.problem = upload.known = ''
  try {
    await importRecording(upload.file, (share) => (upload.share = share), upload.stop.signal, '', again)
    dismiss(upload)
    emit('imported')
  } catch (error) {
    if (error instanceof Problem && error.code === 'cancelled') return dismiss(upload)
    upload.problem = error instanceof Problem ? error.message : String(error)
    if (error instanceof Problem) upload.known = error.song
  }
}

function dismiss(upload: Upload): void {
  uploads.splice(uploads.indexOf(upload), 1)
}

/** Files may be dropped anywhere: beside the place the browser would leave the page for them. */
const { isOverDropZone: isOver } = useDropZone(document.documentElement, {
  onDrop: (files) => void take(files ?? []),
  // What is dragged is a file; of which kind, the server says better than the browser.
  checkValidity: (items) => Array.from(items).some((item) => item.kind === 'file'),
})
const field = ref<HTMLInputElement | null>(null)
const files = useFileDialog({ input: field as Ref<HTMLInputElement>, accept: `${[...SUFFIXES, ...PART_SUFFIXES, BUNDLE_SUFFIX].join(',')},audio/*`, multiple: true, reset: true })
files.onChange((chosen) => void take(Array.from(chosen ?? [])))
</script>

<template>
  <section class="place" :class="{ over: isOver }" aria-label="Import a recording">
    <p class="call">Drop a recording here</p>
    <input ref="field" type="file" class="visually-hidden" tabindex="-1" aria-label="Recordings to import" data-test="file" />
    <Button label="Choose a file" variant="outlined" @click="files.open()" />
    <p class="label limits">{{ LIMITS_TEXT }}</p>
    <p class="label others">Or a drum part of another program (MusicXML, MIDI), or a bundle of a song (.zip).</p>
    <ul v-if="uploads.length" class="uploads">
      <li v-for="upload in uploads" :key="upload.key" :class="{ trouble: upload.problem }">
        <span class="file">{{ upload.name }}</span>
        <template v-if="upload.problem">
          <span role="alert">{{ upload.problem }}</span>
          <span v-if="upload.known" class="choices">
            <RouterLink :to="`/songs/${upload.known}`" data-test="open-known">Open that song</RouterLink>
            <Button label="Add it again" variant="text" size="small" data-test="again" @click="send(upload, true)" />
            <Button label="Close" variant="text" size="small" @click="dismiss(upload)" />
          </span>
          <Button v-else label="Close" variant="text" size="small" @click="dismiss(upload)" />
        </template>
        <template v-else>
          <ProgressBar :value="Math.round(upload.share * 100)" :show-value="false" />
          <Button
            label="Cancel"
            variant="text"
            severity="secondary"
            size="small"
            @click="upload.stop.abort()"
          />
        </template>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.place {
  display: grid;
  grid-template-columns: auto auto minmax(0, 1fr);
  gap: var(--gap-2) var(--gap-4);
  align-items: center;
  padding: 1.25rem 1.5rem;
  border: 2px dashed var(--line-strong);
  border-radius: 14px;
  background: var(--paper-raised);
}
.place.over {
  border-color: var(--accent);
  background: var(--accent-soft);
}
.call {
  font: 500 1.375rem/1.2 var(--serif);
}
.others {
  grid-column: 1 / -1;
}
.uploads {
  grid-column: 1 / -1;
  display: grid;
  gap: var(--gap-2);
  margin: var(--gap-2) 0 0;
  padding: 0;
  list-style: none;
}
.uploads li {
  display: grid;
  grid-template-columns: minmax(0, 16rem) minmax(0, 1fr) auto;
  gap: var(--gap-4);
  align-items: center;
}
.uploads .file {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.choices {
  display: flex;
  gap: var(--gap-3);
  align-items: center;
}
.uploads :deep(.p-progressbar) {
  height: 6px;
}
.trouble {
  color: var(--accent);
}
@media (max-width: 760px) {
  .place {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .limits {
    grid-column: 1 / -1;
  }
}
</style>
