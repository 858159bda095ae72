<script setup lang="ts">
/** A practice mix as a file, rendered in the background: loops at one tempo, or the whole ladder. */
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import ProgressBar from 'primevue/progressbar'
import { computed, onScopeDispose, ref } from 'vue'
import { api, type MixAsked, type MixState, taken } from '@/api/client'
import { fileAt, handOver } from '@/api/download'
import { problemWords } from '@/api/words'
import ChoiceField from '@/base/ChoiceField.vue'
import FoldedPart from '@/base/FoldedPart.vue'
import { useOpenSong } from '@/song/openSong'

const { id, song, practice } = useOpenSong()
const ASK_AGAIN_MS = 700
const LADDER_LOOPS = 4
const speed = ref<string>('0.7')
const speeds = computed(() => [
  ...['0.5', '0.6', '0.7', '0.8', '0.9', '1'].map((value) => ({ value, label: `10 loops at ${Math.round(100 * Number(value))} %` })),
  { value: 'ladder', label: `the whole ladder, ${LADDER_LOOPS} loops each` },
])
const withVoice = ref(false)
const withRecord = ref(false)
const withKit = ref(true)
const sides = ref(true)
const state = ref<MixState | null>(null)
const problem = ref('')
const isAsking = ref(false)

function asked(): MixAsked {
  const own = practice.step.value!
  const isLadder = speed.value === 'ladder'
  return {
    target: practice.target.value,
    step: own.key,
    shares: isLadder ? own.rungs.map((item) => item.share) : [Number(speed.value)],
    loops: isLadder ? LADDER_LOOPS : 10,
    click: 'quarters',
    voice: withVoice.value,
    record: withRecord.value,
    kit: withKit.value,
    sides: sides.value,
    school: practice.school.value,
  }
}

const of = { params: { path: { song_id: id } } }
let wish: MixAsked | null = null

async function render(): Promise<void> {
  wish = asked()
  isAsking.value = true
  problem.value = ''
  try {
    while (wish) {
      state.value = await taken(api.POST('/api/songs/{song_id}/practice/mixes', { ...of, body: wish }))
      if (!['queued', 'running'].includes(state.value.state)) break
      await new Promise((done) => setTimeout(done, ASK_AGAIN_MS))
    }
    // Not gone to as a page: where it cannot be had, that is said here.
    if (state.value?.name) handOver(await fileAt(`/api/songs/${id}/practice/mixes/${state.value.name}`), `${song.value?.title ?? 'Mix'} practice.mp3`)
    else problem.value = state.value?.message ?? ''
  } catch (failure) {
    problem.value = problemWords(failure)
  } finally {
    isAsking.value = false
    state.value = null
  }
}

async function cancel(): Promise<void> {
  const stopped = wish
  wish = null
  if (stopped) await api.POST('/api/songs/{song_id}/practice/mixes/cancel', { ...of, body: stopped })
}
onScopeDispose(() => (wish = null))
</script>

<template>
  <FoldedPart heading="A mix to take along">
    <div class="mix">
      <ChoiceField v-model="speed" :options="speeds" label="How fast" />
      <label><Checkbox v-model="withKit" binary /> the kit plays the step</label>
      <label><Checkbox v-model="sides" binary /> click left, kit right</label>
      <label><Checkbox v-model="withVoice" binary /> a voice counts</label>
      <label v-if="song?.has_recording"><Checkbox v-model="withRecord" binary /> the record, its drums down</label>
      <div v-if="isAsking" class="doing">
        <ProgressBar :value="Math.round(100 * (state?.progress ?? 0))" aria-label="Rendering" />
        <Button label="Cancel" size="small" severity="secondary" variant="text" @click="cancel" />
      </div>
      <Button v-else label="Render as MP3" size="small" variant="outlined" data-test="mix" @click="render" />
      <p v-if="problem" role="alert">{{ problem }}</p>
    </div>
  </FoldedPart>
</template>

<style scoped>
.mix {
  display: grid;
  gap: var(--gap-2);
  justify-items: start;
}
.doing {
  display: grid;
  width: 100%;
}
label {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
}
</style>
