<script setup lang="ts">
/** What a new listening run heard otherwise: looked at before anything of the song changes. */
import { useQuery } from '@tanstack/vue-query'
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import Message from 'primevue/message'
import { computed, ref, watch } from 'vue'
import { api, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import ChangedBars from '@/stages/grooves/ChangedBars.vue'
import { useOpenSong } from './openSong'

const { id, part, showHeard } = useOpenSong()
const query = useQuery({
  queryKey: ['heard-again', id],
  queryFn: () => taken(api.GET('/api/songs/{song_id}/heard-again', { params: { path: { song_id: id } } })),
  enabled: showHeard,
  gcTime: 0,
  retry: false,
})
const facts = computed(() => query.data.value?.facts ?? [])
const bars = computed(() => query.data.value?.bars ?? [])
const chosen = ref<number[]>([])
watch(bars, (found) => (chosen.value = found.map((item) => item.bar)), { immediate: true })
/** Where the grid or the form would be others it is taken whole: bars of another grid do not fit this one. */
const isWhole = computed(() => facts.value.length > 0 || chosen.value.length === bars.value.length)

async function leave(): Promise<void> {
  showHeard.value = false
  await part.leaveHeard()
}

async function take(): Promise<void> {
  const [some, count] = [bars.value.filter((item) => chosen.value.includes(item.bar)), chosen.value.length]
  showHeard.value = false
  if (isWhole.value) {
    await part.takeHeard()
    return
  }
  part.make(some.flatMap((item) => item.edits), `Heard again: ${count} ${count === 1 ? 'bar' : 'bars'} changed`)
  await part.leaveHeard()
}
</script>

<template>
  <Dialog
    v-model:visible="showHeard"
    modal
    header="New transcription: changes"
    :style="{ width: '64rem', maxWidth: '96vw' }"
  >
    <Message v-if="query.error.value" severity="error">{{ problemWords(query.error.value) }}</Message>
    <p v-else-if="query.isLoading.value" class="quiet">Comparing …</p>
    <template v-else>
      <ul v-if="facts.length" class="facts">
        <li v-for="fact in facts" :key="fact">{{ fact }}</li>
      </ul>
      <p>What you confirmed or changed stays as it is; Undo takes the rest back.</p>
      <p v-if="facts.length && bars.length">Taken with the rest: {{ bars.length }} bars that would be played otherwise.</p>
      <ChangedBars v-else v-model="chosen" :bars="bars" />
    </template>
    <template #footer>
      <Button label="Leave the song as it is" severity="secondary" data-test="leave-heard" @click="leave" />
      <Button
        v-if="facts.length || bars.length"
        :label="isWhole ? 'Take it' : `Take ${chosen.length} of ${bars.length} bars`"
        :disabled="!facts.length && chosen.length === 0"
        data-test="take-heard"
        @click="take"
      />
    </template>
  </Dialog>
</template>

<style scoped>
.facts {
  margin: 0 0 var(--gap-2);
  padding-left: 1.25rem;
}
.facts li::first-letter {
  text-transform: uppercase;
}
</style>
