<script setup lang="ts">
/** Grooves and Chart: the bar stack, and under it the chart that is written from it, on one page that scrolls. */
import { onMounted, watch } from 'vue'
import { useOpenSong } from '@/song/openSong'
import ChartPages from './chart/ChartPages.vue'
import BarStack from './grooves/BarStack.vue'

const { page, stage, go, scrolled, engraving } = useOpenSong()

/** What scrolls is known to whoever goes from one stage to the other. */
function hold(element: unknown): void {
  page.value = element as HTMLElement | null
}

onMounted(() => {
  // Before its pages are there the chart is too low to be scrolled to.
  watch(
    () => engraving.pages.value.length > 0,
    (ready) => ready && stage.value === 'chart' && go('chart'),
    { immediate: true },
  )
})
</script>

<template>
  <main :ref="hold" class="body" @scroll.passive="scrolled">
    <BarStack class="bars" />
    <ChartPages />
  </main>
</template>

<style scoped>
.bars {
  height: 100%;
}
@media (max-width: 700px) {
  .bars {
    height: 72%;
  }
}
</style>
