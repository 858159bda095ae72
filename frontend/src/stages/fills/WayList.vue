<script setup lang="ts">
/** The ways to stick a fill: hands, what each costs, and whether it comes out when it is repeated. */
import Button from 'primevue/button'
import { computed } from 'vue'
import type { FillWay, ToldFill } from '@/api/client'
import { useOpenSong } from '@/song/openSong'

const props = defineProps<{ fill: ToldFill }>()
const { fills: stage } = useOpenSong()
/** Whether the same fill comes again in this song. */
const hasKin = computed(() => stage.fills.value.some((other) => other.family === props.fill.family && other.kinship === 'same'))
const letters = (way: FillWay) => way.hands.map((item) => item.letter).join(' ')
const capital = (text: string) => text[0]!.toUpperCase() + text.slice(1)
</script>

<template>
  <section class="ways" aria-label="Stickings">
    <h4>Stickings <small>→ ←</small></h4>
    <p v-if="!fill.ways.length" class="quiet">
      {{ fill.problems.length ? 'No two hands play it as it is written.' : 'There is nothing here for two hands to share.' }}
    </p>
    <div v-else role="radiogroup" aria-label="Sticking">
      <template v-for="(way, index) in fill.ways" :key="way.name">
        <label class="way" :class="{ chosen: index === stage.wayIndex.value }">
          <input v-model="stage.wayIndex.value" type="radio" name="way" :value="index" @keydown.enter.prevent="stage.useWay()" />
          <span class="name">
            {{ capital(way.name) }}<template v-if="way.rudiment"> · {{ way.rudiment }}</template>
            <small v-if="way.is_current" data-test="in-chart">&nbsp;· in the chart</small>
            <small v-else-if="index === stage.recommended(fill)">&nbsp;· recommended</small>
          </span>
          <span class="letters">{{ letters(way) }}</span>
          <span class="quiet">{{ capital(way.reason || way.costs) }}.</span>
          <span class="quiet closing">
            {{ way.closing }}
            <template v-if="way.changed"> <b>{{ way.changed }}</b></template>
          </span>
        </label>
        <p v-if="index === stage.wayIndex.value && index !== stage.currentWay.value" class="use">
          <Button size="small" data-test="use-way" @click="stage.useWay()">Use this sticking <kbd>↵</kbd></Button>
          <button v-if="fill.kinship !== 'first' || hasKin" type="button" class="act" data-test="use-way-kin" @click="stage.useWay(true)">Use it in all fills like this</button>
        </p>
      </template>
    </div>
  </section>
</template>

<style scoped>
.ways {
  display: grid;
  gap: var(--gap-2);
}
h4 {
  margin: 0;
  font-size: 1rem;
}
small {
  color: var(--ink-soft);
  font-size: var(--size-small);
  font-weight: 400;
}
.way {
  display: grid;
  grid-template-columns: 1.5rem minmax(13rem, 1fr) 2fr;
  gap: 0 var(--gap-3);
  align-items: baseline;
  padding: var(--gap-2);
  border-top: 1px solid var(--line);
  cursor: pointer;
}
.way.chosen {
  background: var(--paper-raised);
}
input {
  accent-color: var(--accent);
}
.use {
  display: flex;
  gap: var(--gap-4);
  align-items: center;
  padding: 0 var(--gap-2) var(--gap-2) calc(1.5rem + var(--gap-3) + var(--gap-2));
  background: var(--paper-raised);
}
.letters {
  font-weight: 700;
  letter-spacing: 0.08em;
  overflow-wrap: anywhere;
}
.quiet {
  color: var(--ink-soft);
  font-size: var(--size-small);
  line-height: 1.35;
}
.way .quiet {
  grid-column: 2;
}
.way .closing {
  grid-column: 3;
}
p {
  margin: 0;
}
@media (max-width: 700px) {
  .way {
    grid-template-columns: 1.5rem 1fr;
  }
  .way .closing,
  .letters {
    grid-column: 2;
  }
}
</style>
