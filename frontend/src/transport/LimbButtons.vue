<script setup lang="ts">
/** Which limbs of the chart the kit plays. */
import { LIMB_NAMES, LIMBS } from '@/api/vocabulary'
import { useOpenSong } from '@/song/openSong'

const { player } = useOpenSong()
const settings = player.settings
</script>

<template>
  <div class="part limbs" role="group" aria-label="Limbs that the kit plays">
    <span class="label">Limbs</span>
    <span class="value">
      <button
        v-for="limb in LIMBS"
        :key="limb"
        type="button"
        :aria-pressed="settings.limbs[limb]"
        :aria-label="LIMB_NAMES[limb]"
        v-tooltip.top="`${LIMB_NAMES[limb]}: click to mute, Shift-click for it alone`"
        @click="player.toggleLimb(limb, $event.shiftKey)"
      >
        {{ limb }}
      </button>
    </span>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 0.1rem;
  min-width: 0;
}
.value {
  display: flex;
  align-items: center;
  min-height: 1.9rem;
  font-weight: 700;
  white-space: nowrap;
}
button {
  padding: 0.15rem 0.35rem;
  border: 1px solid transparent;
  border-radius: var(--round-full);
  background: none;
  cursor: pointer;
  color: var(--ink-soft);
  text-decoration: line-through;
}
button[aria-pressed='true'] {
  color: var(--ink);
  font-weight: 700;
  text-decoration: none;
}
</style>
