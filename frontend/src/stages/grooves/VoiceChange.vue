<script setup lang="ts">
/** The drum of the note at the cursor, changed for a whole section, for all like it, or for the song. */
import { computed, ref, watch } from 'vue'
import type { GestureWish, Instrument } from '@/api/client'
import { INSTRUMENT_NAMES } from '@/api/vocabulary'
import ChoiceField from '@/base/ChoiceField.vue'
import { useOpenSong } from '@/song/openSong'
import { isFoot } from './useNotes'

const props = defineProps<{ instrument: Instrument; bar: number }>()
const { part } = useOpenSong()
type Where = NonNullable<GestureWish['scope']>
const WHERE: { value: Where; label: string }[] = [
  { value: 'section', label: 'in this section' },
  { value: 'like', label: 'in sections like it' },
  { value: 'song', label: 'in the whole song' },
]
const NOT_PLAYED = 'none'
type Other = { value: Instrument | typeof NOT_PLAYED; label: string }
const where = ref<Where>('section')
const others = computed(() => [
  ...(Object.keys(INSTRUMENT_NAMES) as Instrument[])
    .filter((one) => one !== props.instrument && isFoot(one) === isFoot(props.instrument))
    .map((one): Other => ({ value: one, label: `is ${INSTRUMENT_NAMES[one]}` })),
  { value: NOT_PLAYED, label: 'is not played' } as Other,
])
/** The likeliest is another cymbal for a cymbal, another drum for a drum: whoever asks says so. */
const likeliest = () => others.value.find((one) => one.value === 'ride')?.value ?? others.value[0]!.value
const to = ref<Other['value']>(likeliest())
watch(() => props.instrument, () => (to.value = likeliest()))

function change(): void {
  void part.gesture({
    kind: 'voice',
    bars: [props.bar],
    instrument: props.instrument,
    scope: where.value,
    to: to.value === NOT_PLAYED ? null : to.value,
  })
}
</script>

<template>
  <form class="voice" aria-label="Change a drum everywhere" data-test="voice" @submit.prevent="change">
    <span class="label">Every {{ INSTRUMENT_NAMES[instrument] }}</span>
    <ChoiceField v-model="where" :options="WHERE" label="Where" />
    <ChoiceField v-model="to" :options="others" label="What it is" />
    <button type="submit" class="act">Change all</button>
  </form>
</template>

<style scoped>
.voice {
  display: grid;
  gap: var(--gap-1);
}
button {
  justify-self: start;
}
</style>
