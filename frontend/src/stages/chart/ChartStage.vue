<script setup lang="ts">
/** Chart: what leaves the house. Choices beside the pages; on a stand, the pages alone. */
import { onKeyStroke, useMediaQuery } from '@vueuse/core'
import Button from 'primevue/button'
import Message from 'primevue/message'
import Toast from 'primevue/toast'
import { computed } from 'vue'
import FoldedPart from '@/base/FoldedPart.vue'
import { useOpenSong } from '@/song/openSong'
import BarWords from './BarWords.vue'
import ChartChoices from './ChartChoices.vue'
import ChartFiles from './ChartFiles.vue'
import ChartSheets from './ChartSheets.vue'
import { READINGS } from './options'
import OtherPart from './OtherPart.vue'
import PartList from './PartList.vue'

const { chart: stage, player, mayEdit } = useOpenSong()
const pages = computed(() => stage.chart.value?.pages.length ?? 0)
const reading = computed(() => READINGS.find((item) => item.value === stage.choice.value.reading)!)
const isNarrow = useMediaQuery('(max-width: 900px)')
onKeyStroke('Escape', () => (stage.isBig.value = false))
</script>

<template>
  <main class="body chart" :class="{ big: stage.isBig.value, 'stage-theme': stage.isBig.value }">
    <component :is="isNarrow ? FoldedPart : 'aside'" v-if="!stage.isBig.value" heading="What the chart shows" class="beside">
      <div class="stacked">
        <ChartChoices />
        <PartList v-if="stage.choice.value.reading === 'parts'" />
        <BarWords v-if="mayEdit" />
        <ChartFiles />
        <OtherPart v-if="mayEdit" />
      </div>
    </component>
    <Toast position="bottom-right" />
    <section class="paper" aria-label="Chart" tabindex="-1">
      <header>
        <h2>{{ reading.label }}</h2>
        <p class="quiet">{{ pages ? `${reading.hint}, ${pages} ${pages === 1 ? 'page' : 'pages'}` : reading.hint }}</p>
        <div class="acts">
          <button v-if="stage.isBig.value" type="button" class="act" @click="player.toggle()">
            {{ player.isPlaying.value ? 'Pause' : 'Play' }}
          </button>
          <button type="button" class="act" @click="stage.isBig.value = !stage.isBig.value">
            {{ stage.isBig.value ? 'Back to the choices' : 'On the stand' }}
          </button>
        </div>
      </header>
      <Message v-if="stage.problem.value" severity="error">
        {{ stage.problem.value }} <Button label="Try again" variant="text" size="small" @click="stage.fetchChart()" />
      </Message>
      <p v-else-if="!stage.chart.value" class="quiet" role="status">Engraving the chart …</p>
      <ChartSheets v-if="stage.chart.value" />
    </section>
  </main>
</template>

<style scoped>
.chart {
  display: grid;
  grid-template-columns: 19rem minmax(0, 1fr);
}
.beside {
  overflow-y: auto;
  padding: var(--gap-4) var(--gap-4) var(--gap-8) var(--frame-edge);
  border-right: 1px solid var(--line);
}
.stacked {
  display: grid;
  gap: var(--gap-6);
}
.paper {
  min-width: 0;
  overflow-y: auto;
  padding: var(--gap-3) var(--frame-edge) 3rem;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2) var(--gap-4);
  align-items: baseline;
  margin-bottom: var(--gap-3);
}
.acts {
  display: flex;
  gap: var(--gap-2);
  margin-left: auto;
}
.big {
  position: fixed !important;
  inset: 0;
  z-index: 20;
  display: block;
  background: var(--paper);
  color: var(--ink);
}
.big .paper {
  padding: var(--gap-2) var(--gap-2) 3rem;
}
.big :deep(.sheet) {
  width: 100%;
  border-color: var(--line);
  background: var(--paper-raised);
  --page: var(--paper-raised);
  --page-ink: var(--ink);
}
.big .paper header {
  padding: 0 var(--gap-4);
}
@media (max-width: 900px) {
  .chart {
    display: block;
  }
  .beside {
    padding: 0 var(--gap-4);
    border: 0;
  }
  .paper {
    overflow-y: visible;
    padding: var(--gap-2) var(--gap-2) 3rem;
  }
}
</style>
