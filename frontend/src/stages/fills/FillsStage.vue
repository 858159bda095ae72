<script setup lang="ts">
/** Fills: a list in the order of the song or by family, and the one that is chosen in full. */
import Message from 'primevue/message'
import { computed, ref } from 'vue'
import ChoiceField from '@/base/ChoiceField.vue'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import FillDetail from './FillDetail.vue'
import FillList from './FillList.vue'
import KitDialog from './KitDialog.vue'

const { fills: stage, stack } = useOpenSong()
const score = useOpenScore()
const showKits = ref(false)
const ORDERS = [
  { value: 'song' as const, label: 'in the order of the song' },
  { value: 'family' as const, label: 'by family' },
]
const NONE = 0
const kits = computed(() => stage.kits.value.map((kit) => ({ value: kit.id ?? NONE, label: kit.name })))
const kit = computed({
  get: () => stage.kit.value ?? NONE,
  set: (id) => void stage.chooseKit(id === NONE ? null : id),
})
const sounding = computed(() => stack.cursor.value.bar)
</script>

<template>
  <main class="body fills">
    <header class="title">
      <h2>Fills</h2>
      <p class="quiet">
        {{ score.fills.length || 'No' }} {{ score.fills.length === 1 ? 'fill' : 'fills'
        }}<template v-if="score.fills.length">, {{ stage.families.value.length }} {{ stage.families.value.length === 1 ? 'kind' : 'kinds' }}</template>
      </p>
      <ChoiceField v-model="stage.order.value" label="Order of the fills" :options="ORDERS" />
      <div class="acts">
        <span class="quiet">Played on</span>
        <ChoiceField v-model="kit" label="Kit of this song" :options="kits" />
        <button type="button" class="act" @click="showKits = true">Kits …</button>
      </div>
    </header>
    <Message v-if="stage.problem.value" severity="error">
      {{ stage.problem.value }} <button type="button" @click="stage.fetchFills()">Try again</button>
    </Message>
    <p v-else-if="stage.isLoading.value" class="quiet" role="status">Looking at the fills …</p>
    <div v-else-if="!stage.fills.value.length" class="nothing">
      <p>No fill was found in this song: its drums keep time to the end of each phrase.</p>
      <p class="quiet">
        Where you hear one, add it. The last two beats of bar {{ sounding }}, where the cursor is, would be a start.
      </p>
      <button type="button" class="act" @click="stage.add(sounding)">A fill in bar {{ sounding }}</button>
    </div>
    <div v-else class="halves">
      <FillList />
      <FillDetail v-if="stage.fill.value" :key="stage.fill.value.bar" :fill="stage.fill.value" />
    </div>
    <KitDialog v-model:visible="showKits" />
  </main>
</template>

<style scoped>
.fills {
  display: flex;
  flex-direction: column;
  padding: 0.5rem var(--frame-edge) 0;
}
.title {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1rem;
  align-items: baseline;
}
h2 {
  margin: 0;
  font: 500 var(--size-title) var(--serif);
}
p {
  margin: 0;
}
.quiet {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: baseline;
  margin-left: auto;
}
.nothing {
  display: grid;
  gap: var(--gap-3);
  justify-items: start;
  max-width: 40rem;
  padding: var(--gap-8) 0;
}
.halves {
  display: grid;
  grid-template-columns: minmax(15rem, 19rem) minmax(0, 1fr);
  flex: 1;
  gap: var(--gap-6);
  min-height: 0;
  margin-top: var(--gap-2);
}
/* One below the other, the page scrolls as a whole. */
@media (max-width: 1000px) {
  .fills {
    display: block;
  }
  .halves {
    display: block;
  }
  .halves :deep(.side) {
    max-height: 20rem;
    margin-bottom: var(--gap-4);
  }
  .halves :deep(.detail) {
    overflow-y: visible;
  }
}
</style>
