<script setup lang="ts">
/** What stands before a row: its name, and which lane is which limb: hands above the line, feet below. */
import { computed } from 'vue'
import { LIMB_NAMES, LIMBS } from '@/api/vocabulary'
import { isDense, layout } from './rowLayout'

/** A label a lane; in dense rows, where no letter has room, one for hands and one for feet. */
const lanes = computed(() => {
  const { lane, gap, padding } = layout.value
  const rows = isDense.value ? [2 * lane, 2 * lane + gap] : [lane, lane, lane + gap, lane]
  return {
    gridTemplateRows: rows.map((row) => `${row}px`).join(' '),
    paddingTop: `${padding}px`,
    lineHeight: `${isDense.value ? 2 * lane : lane}px`,
  }
})
</script>

<template>
  <div class="name" :class="{ dense: isDense }">
    <div><slot /></div>
    <span class="limbs" :style="lanes" aria-hidden="true">
      <template v-if="isDense"><i>hands</i><i class="foot">feet</i></template>
      <template v-else>
        <i v-for="limb in LIMBS" :key="limb" :class="{ foot: limb === 'RF' }" :title="LIMB_NAMES[limb]">{{ limb }}</i>
      </template>
    </span>
  </div>
</template>

<style scoped>
.name {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  padding: 0 var(--gap-2) 0 var(--gap-2);
}
.name > div {
  display: grid;
}
.limbs {
  display: grid;
  align-self: start;
  color: var(--ink-soft);
  font-size: 0.72rem;
}
.dense .limbs {
  font-size: 0.75rem;
}
/* What a row is said to be stands in its title there; the number alone has room. */
.dense :slotted(.label) {
  display: none;
}
.dense > div {
  grid-auto-flow: column;
  align-items: baseline;
  justify-content: start;
}
.dense :slotted(strong) {
  font-size: 0.9rem;
}
.dense :slotted(.settled) {
  display: block;
  width: 1em;
  overflow: hidden;
  white-space: nowrap;
}
.limbs i {
  font-style: normal;
}
.limbs .foot {
  align-self: end;
}
@media (max-width: 700px) {
  .name {
    padding: 0 2px 0 0;
  }
  .limbs {
    font-size: 0.6rem;
  }
  .name :slotted(strong),
  .name :slotted(.label) {
    font-size: 0.7rem;
  }
}
</style>
