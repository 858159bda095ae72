<script setup lang="ts">
/**
 * The line that moves with the sound: a layer of its own, no wider than the line, so that nothing else is
 * drawn again for it and little is put together anew.
 */
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useOpenSong } from '@/song/openSong'

const props = defineProps<{ start: number; end: number; /** Shares of the width, where the loop begins and ends. */ from: number; to: number }>()
const { player } = useOpenSong()
/** Spans the lanes, to know how wide they are. */
const field = ref<HTMLElement>()
const { width } = useElementSize(field)
const place = computed(() => {
  const through = (player.position.value - props.start) / (props.end - props.start)
  return props.from + Math.min(1, Math.max(0, through)) * (props.to - props.from)
})
</script>

<template>
  <div ref="field" class="field" aria-hidden="true">
    <i
      v-if="player.isPlaying.value"
      data-test="head"
      :data-seconds="player.position.value.toFixed(4)"
      :style="{ transform: `translateX(${(width * place).toFixed(1)}px)` }"
    />
  </div>
</template>

<style scoped>
.field {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
i {
  position: absolute;
  inset: 0 auto 0 -3px;
  width: 6px;
  background: var(--accent);
  opacity: 0.55;
  will-change: transform;
}
</style>
