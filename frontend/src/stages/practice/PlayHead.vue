<script setup lang="ts">
/** The line that moves with the sound: a layer of its own, so that nothing else is drawn again for it. */
import { computed } from 'vue'
import { useOpenSong } from '@/song/openSong'

const props = defineProps<{ start: number; end: number; /** Shares of the width, where the loop begins and ends. */ from: number; to: number }>()
const { player } = useOpenSong()
const place = computed(() => {
  const through = (player.position.value - props.start) / (props.end - props.start)
  return props.from + Math.min(1, Math.max(0, through)) * (props.to - props.from)
})
</script>

<template>
  <div
    v-if="player.isPlaying.value"
    class="head"
    data-test="head"
    :data-seconds="player.position.value.toFixed(4)"
    :style="{ transform: `translateX(${(100 * place).toFixed(3)}%)` }"
    aria-hidden="true"
  >
    <i />
  </div>
</template>

<style scoped>
.head {
  position: absolute;
  inset: 0;
  will-change: transform;
  pointer-events: none;
}
i {
  position: absolute;
  inset: 0 auto 0 -3px;
  width: 6px;
  background: var(--accent);
  opacity: 0.55;
}
</style>
