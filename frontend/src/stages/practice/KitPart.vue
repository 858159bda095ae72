<script setup lang="ts">
/** The kit that answers: where it is, how late it is, what it said; and what a foot can do. */
import Button from 'primevue/button'
import InputNumber from 'primevue/inputnumber'
import { computed } from 'vue'
import { LIMB_NAMES, LIMBS } from '@/api/vocabulary'
import ChoiceField from '@/base/ChoiceField.vue'
import { ACTS, type useControls } from './useControls'
import { PAD_KEYS, type PracticePads } from './usePads'

defineProps<{ pads: PracticePads; controls: ReturnType<typeof useControls> }>()
const SOURCES = [
  { value: 'none' as const, label: 'nobody listens' },
  { value: 'midi' as const, label: 'an electronic kit (MIDI)' },
  { value: 'keys' as const, label: 'the keys of this computer' },
  { value: 'stand-in' as const, label: 'a stand-in plays for you' },
]
const keyWords = computed(() =>
  Object.values(PAD_KEYS)
    .map((pad) => `${pad.name} ${pad.instrument.replaceAll('_', ' ')}`)
    .join(', '),
)
const shownName = (name: string | undefined) => (name ? name.replace(/^key /, '').replace(/^midi (\d+) (\d+)$/, 'pedal $2') : '')
</script>

<template>
  <div class="kit">
    <div class="row">
      <span class="label">Who listens</span>
      <ChoiceField v-model="pads.source.value" :options="SOURCES" label="Who listens" />
      <template v-if="pads.source.value === 'midi' && pads.kits.value.length">{{ pads.kits.value.join(', ') }}</template>
      <template v-if="pads.source.value === 'keys'"><span class="quiet">{{ keyWords }}</span></template>
      <template v-if="pads.source.value === 'midi' || pads.source.value === 'keys'">
        <Button
          :label="pads.isClapping.value ? 'Strike with each click …' : 'Measure latency Strike with eight clicks'"
          size="small"
          variant="outlined"
          :disabled="pads.isClapping.value"
          @click="pads.clapTest()"
        />
        <span v-if="pads.latencyNow.value" class="quiet">{{ Math.round(pads.latencyNow.value) }} ms, taken off</span>
      </template>
    </div>
    <div v-if="pads.source.value === 'stand-in'" class="row">
      <label v-for="limb in LIMBS" :key="limb">
        {{ LIMB_NAMES[limb] }} late by
        <InputNumber v-model="pads.standIn.value.late[limb]" :min="-60" :max="60" suffix=" ms" size="small" :input-style="{ width: '5rem' }" />
      </label>
      <label>
        left out
        <InputNumber
          :model-value="Math.round(100 * pads.standIn.value.missed)"
          :min="0"
          :max="50"
          suffix=" %"
          size="small"
          :input-style="{ width: '4.5rem' }"
          @update:model-value="(value: number) => (pads.standIn.value.missed = value / 100)"
        />
      </label>
    </div>
    <p v-if="pads.problem.value" role="alert" class="problem">{{ pads.problem.value }}</p>
    <div class="row">
      <span class="label">Pedals</span>
      <template v-for="act in ACTS" :key="act.id">
        <button type="button" class="act" :aria-pressed="controls.learning.value === act.id" @click="controls.learn(act.id)">
          {{ controls.learning.value === act.id ? 'press a key or a pedal …' : act.name }}
          <kbd v-if="controls.learnt.value[act.id]">{{ shownName(controls.learnt.value[act.id]) }}</kbd>
        </button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.kit {
  display: grid;
  gap: var(--gap-2);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2) var(--gap-3);
  align-items: center;
}
label {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
}
.problem {
  color: var(--accent);
}
[aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
}
</style>
