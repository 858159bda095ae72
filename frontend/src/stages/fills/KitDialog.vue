<script setup lang="ts">
/** Kits and players: which toms there are, which hand leads, how fast a hand and a foot go. */
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import Dialog from 'primevue/dialog'
import InputNumber from 'primevue/inputnumber'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import { computed, ref, watch } from 'vue'
import type { Kit, KitWish } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { useOpenSong } from '@/song/openSong'

const visible = defineModel<boolean>('visible', { required: true })
const { fills: stage } = useOpenSong()

const NEW = -1
const known = ref<number>(NEW)
const draft = ref<KitWish>(fresh())
const problem = ref('')

function fresh(): KitWish {
  return {
    name: '',
    left_handed: false,
    open_handed: false,
    toms: 3,
    double_pedal: false,
    pads: [],
    brushes: false,
    sixteenths: 'by tempo',
    comfortable_hz: 7.5,
    pedal_hz: 6.5,
  }
}
const own = computed(() => stage.kits.value.filter((kit): kit is Kit & { id: number } => kit.id !== null))
const choices = computed(() => [
  { value: NEW, label: 'A new kit' },
  ...own.value.map((kit) => ({ value: kit.id, label: kit.name })),
])
watch([known, visible], () => {
  problem.value = ''
  const kit = own.value.find((item) => item.id === known.value)
  if (kit) {
    const { id: _, ...values } = kit
    draft.value = { ...values, pads: [...(values.pads ?? [])] }
  } else draft.value = fresh()
})
watch(visible, (isShown) => {
  if (isShown) known.value = stage.kit.value ?? NEW
})

const TOMS = [1, 2, 3, 4].map((value) => ({ value, label: value === 1 ? 'one tom' : `${value} toms` }))
const SIXTEENTHS = [
  { value: 'by tempo' as const, label: 'with one hand or two, by tempo' },
  { value: 'one hand' as const, label: 'with one hand' },
  { value: 'two hands' as const, label: 'with two hands' },
]
const PADS = [
  { value: 'clap' as const, label: 'claps' },
  { value: 'shaker' as const, label: 'shaker' },
  { value: 'tambourine' as const, label: 'tambourine' },
]

async function save(): Promise<void> {
  problem.value = await stage.saveKit(draft.value, known.value === NEW ? null : known.value)
  if (!problem.value) visible.value = false
}
async function remove(): Promise<void> {
  await stage.removeKit(known.value)
  known.value = NEW
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Kits and players" class="kits" :style="{ width: 'min(36rem, 94vw)' }">
    <form @submit.prevent="save">
      <ChoiceField v-model="known" label="Which kit" :options="choices" />
      <label class="line"><span>Name</span><InputText v-model="draft.name" maxlength="60" placeholder="Rehearsal room" /></label>
      <div class="line">
        <span>Toms</span><ChoiceField v-model="draft.toms!" label="How many toms" :options="TOMS" />
      </div>
      <div class="line">
        <span>Sixteenths on a cymbal</span>
        <ChoiceField v-model="draft.sixteenths!" label="Sixteenths on a cymbal" :options="SIXTEENTHS" />
      </div>
      <label class="line">
        <span>One hand keeps up, strokes a second</span>
        <InputNumber v-model="draft.comfortable_hz" :min="3" :max="15" :step="0.5" :max-fraction-digits="1" show-buttons />
      </label>
      <label class="line">
        <span>One foot keeps up, strokes a second</span>
        <InputNumber v-model="draft.pedal_hz" :min="2" :max="15" :step="0.5" :max-fraction-digits="1" show-buttons />
      </label>
      <fieldset>
        <legend>Player</legend>
        <label><Checkbox v-model="draft.left_handed" binary /> left-handed: the kit is the other way round</label>
        <label><Checkbox v-model="draft.open_handed" binary /> open-handed: the hat is played by the hand beside it</label>
        <label><Checkbox v-model="draft.double_pedal" binary /> two pedals for the kick</label>
        <label><Checkbox v-model="draft.brushes" binary /> brushes</label>
      </fieldset>
      <fieldset>
        <legend>Pads for what is beside the kit on records</legend>
        <label v-for="pad in PADS" :key="pad.value"><Checkbox v-model="draft.pads" :value="pad.value" /> {{ pad.label }}</label>
      </fieldset>
      <Message v-if="problem" severity="error">{{ problem }}</Message>
      <div class="acts">
        <Button v-if="known !== NEW" type="button" label="Remove this kit" variant="text" @click="remove" />
        <Button type="submit" :label="known === NEW ? 'Create kit and use it here' : 'Save kit and use it here'" />
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--gap-3);
}
.line {
  display: flex;
  gap: var(--gap-4);
  align-items: baseline;
  justify-content: space-between;
}
fieldset {
  display: grid;
  gap: var(--gap-2);
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  margin-bottom: var(--gap-2);
  padding: 0;
  color: var(--ink-soft);
}
fieldset label {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
}
.acts {
  display: flex;
  gap: var(--gap-3);
  justify-content: flex-end;
}
</style>
