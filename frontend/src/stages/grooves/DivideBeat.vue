<script setup lang="ts">
/** The division of the beat at the cursor, or of all beats of the selected bars. */
import { computed } from 'vue'
import ChoiceField from '@/base/ChoiceField.vue'
import { useOpenSong } from '@/song/openSong'
import { DIVISIONS, type Parts } from './divisions'

const { notes, stack, part } = useOpenSong()
const parts = computed<Parts>({
  get: () => notes.division.value as Parts,
  set: (value) => void notes.divide(value),
})
const where = computed(() => (stack.selection.value ? 'Beats of the selected bars' : 'This beat'))
</script>

<template>
  <div class="divide" role="group" aria-label="Division of the beat">
    <span class="label">{{ where }} in <kbd>.</kbd></span>
    <ChoiceField v-model="parts" :options="DIVISIONS" label="Division of the beat" :disabled="part.isChanging.value" />
    <button type="button" class="act" :disabled="part.isChanging.value" @click="notes.divide(parts, true)">
      In like bars too
    </button>
  </div>
</template>

<style scoped>
.divide {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-2);
  align-items: center;
}
.label {
  flex-basis: 100%;
}
.act {
  font-size: var(--size-small);
  padding: 0.1rem 0.5rem;
}
</style>
