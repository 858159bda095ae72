<script setup lang="ts">
/** What the chart shows, and the signs and words of one's school. Each choice redraws it at once. */
import Checkbox from 'primevue/checkbox'
import SelectButton from 'primevue/selectbutton'
import { computed } from 'vue'
import type { Limb } from '@/api/client'
import { LIMB_NAMES, LIMBS } from '@/api/vocabulary'
import ChoiceField from '@/base/ChoiceField.vue'
import FoldedPart from '@/base/FoldedPart.vue'
import { useOpenSong } from '@/song/openSong'
import {
  type ChartChoice,
  CROSS_STICKS,
  DOUBTS,
  FRESH,
  GHOSTS,
  HAT_FEET,
  LEVELS,
  NOTATIONS,
  PAPERS,
  READINGS,
  SCHOOL_CHOICES,
  STICKINGS,
  SWINGS,
  VOICES,
} from './options'

const { chart: stage } = useOpenSong()
const choice = stage.choice

function field<K extends keyof ChartChoice>(name: K) {
  return computed({
    get: () => choice.value[name],
    set: (value: ChartChoice[K]) => stage.choose({ [name]: value }),
  })
}
const reading = field('reading')
const notation = field('notation')
const level = field('level')
const doubts = field('doubts')
const voices = field('voices')
const sticking = field('sticking')
const ghosts = field('ghosts')
const crossStick = field('cross_stick')
const hatFoot = field('hat_foot')
const swing = field('swing')
const school = field('school')
const size = field('size')
const count = field('count')
const times = field('times')
const facts = field('facts')
const forKit = field('for_kit')
const remarks = computed(() => stage.chart.value?.remarks ?? [])
const closing = field('closing_sign')

/** No limb by name: all of them. */
const limbs = computed({
  get: () => (choice.value.limbs ? (choice.value.limbs.split(',') as Limb[]) : [...LIMBS]),
  set: (chosen) =>
    stage.choose({
      limbs: chosen.length === 0 || chosen.length === LIMBS.length ? '' : LIMBS.filter((limb) => chosen.includes(limb)).join(','),
    }),
})
const isStaff = computed(() => choice.value.notation === 'staff')
const isChanged = computed(() => Object.entries(choice.value).some(([name, value]) => value !== FRESH[name as keyof ChartChoice]))
</script>

<template>
  <div class="choices">
    <div class="line"><span>Reading</span><ChoiceField v-model="reading" label="Reading" :options="READINGS" /></div>
    <SelectButton v-model="notation" :options="[...NOTATIONS]" option-label="label" option-value="value" :allow-empty="false" aria-label="Written as" size="small" fluid />
    <div class="line"><span>Level</span><ChoiceField v-model="level" label="Level" :options="LEVELS" /></div>
    <fieldset class="limbs">
      <legend>Limbs</legend>
      <label v-for="limb in LIMBS" :key="limb"><Checkbox v-model="limbs" :value="limb" /> {{ LIMB_NAMES[limb] }}</label>
    </fieldset>
    <div class="line"><span>Doubts</span><ChoiceField v-model="doubts" label="Doubtful notes" :options="DOUBTS" /></div>
    <template v-if="isStaff">
      <div class="line"><span>R and L</span><ChoiceField v-model="sticking" label="Hands, R and L" :options="STICKINGS" /></div>
      <label class="tick"><Checkbox v-model="count" binary /> the count below</label>
    </template>
    <label class="tick"><Checkbox v-model="times" binary /> times in the recording</label>
    <label v-if="choice.reading === 'essence'" class="tick"><Checkbox v-model="facts" binary /> say what falls where</label>
    <label class="tick"><Checkbox v-model="forKit" binary /> fit to this kit</label>
    <ul v-if="remarks.length" class="remarks" data-test="remarks"><li v-for="remark in remarks" :key="remark">{{ remark }}</li></ul>
    <FoldedPart heading="Signs and words of your school">
      <div class="signs">
        <div class="line"><span>Paper</span><ChoiceField v-model="size" label="Paper" :options="PAPERS" /></div>
        <div class="line"><span>Count</span><ChoiceField v-model="school" label="Words of the count" :options="SCHOOL_CHOICES" /></div>
        <template v-if="isStaff">
          <div class="line"><span>Stems</span><ChoiceField v-model="voices" label="Stems" :options="VOICES" /></div>
          <div class="line"><span>Ghosts</span><ChoiceField v-model="ghosts" label="Ghosts" :options="GHOSTS" /></div>
          <div class="line"><span>Cross-stick</span><ChoiceField v-model="crossStick" label="Cross-stick" :options="CROSS_STICKS" /></div>
          <div class="line"><span>Hat foot</span><ChoiceField v-model="hatFoot" label="Hat foot" :options="HAT_FEET" /></div>
          <div class="line"><span>Swing</span><ChoiceField v-model="swing" label="Swing" :options="SWINGS" /></div>
          <label class="tick"><Checkbox v-model="closing" binary /> + where an open hat closes</label>
        </template>
        <button v-if="isChanged" type="button" class="act" @click="stage.choose({ ...FRESH })">Reset</button>
      </div>
    </FoldedPart>
  </div>
</template>

<style scoped>
.choices,
.signs {
  display: grid;
  gap: var(--gap-2);
}
.line {
  display: grid;
  grid-template-columns: 5.25rem minmax(0, 1fr);
  gap: var(--gap-2);
  align-items: center;
}
.line span,
legend {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.limbs {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-4);
  margin: 0;
  padding: var(--gap-1) 0;
  border: 0;
}
.limbs label,
.tick {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
}
.remarks {
  margin: 0;
  padding-left: 1.2rem;
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.signs {
  padding: var(--gap-2) 0;
}
.act {
  justify-self: start;
}
</style>
