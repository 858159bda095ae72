<script setup lang="ts">
/** The fills of the song: where each is, how long, to which family it belongs. */
import { computed, nextTick, ref, watch } from 'vue'
import type { ToldFill } from '@/api/client'
import { useOpenSong } from '@/song/openSong'

const { fills: stage, player, stack, go, part } = useOpenSong()
const list = ref<HTMLElement>()
const chosen = computed(() => stage.fill.value?.bar)
watch(chosen, async () => {
  await nextTick()
  list.value?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' })
})

const MOST = 30
const places = computed(() => {
  const count = stage.onThisKit.value.problems.length
  return count === 1 ? 'One place that' : `${count} places that`
})
/** To where it is written, in the bar stack. */
function goTo(bar: number, position: string): void {
  stack.place({ bar, position })
  go('grooves')
}

const sounds = (fill: ToldFill) => player.position.value >= fill.start && player.position.value < fill.end
/** The heading above a fill, where the list goes by families and another one begins. */
function family(index: number): string {
  const fills = stage.fills.value
  if (stage.order.value !== 'family' || fills[index - 1]?.family === fills[index]!.family) return ''
  return stage.families.value.find((item) => item.name === fills[index]!.family)?.words ?? ''
}
const kin = (fill: ToldFill) => (fill.kinship === 'first' ? '' : fill.kinship_words)
/** Both schools are one click away; Undo goes back. */
const SIXTEENTHS = [
  { value: 'one hand', label: 'one hand' },
  { value: 'two hands', label: 'two hands' },
  { value: 'by tempo', label: 'by tempo' },
] as const
</script>

<template>
  <div class="side">
  <div ref="list" class="list" role="listbox" aria-label="Fills" tabindex="0" :aria-activedescendant="`fill-${chosen}`">
    <template v-for="(fill, index) in stage.fills.value" :key="fill.bar">
      <p v-if="family(index)" class="family" role="presentation">{{ family(index) }}</p>
      <div
        :id="`fill-${fill.bar}`"
        role="option"
        class="fill"
        :aria-selected="fill.bar === chosen"
        :class="{ sounds: sounds(fill) }"
        @click="stage.choose(fill.bar)"
      >
        <span class="sign" :title="`Family ${fill.family}`">{{ fill.family }}</span>
        <span class="where">
          <b>Bar {{ fill.bar }}</b> {{ fill.form }}
        </span>
        <span class="what">
          {{ fill.where }}{{ fill.settled ? ' · as you said' : '' }}<template v-if="kin(fill)"> · {{ kin(fill) }}</template>
        </span>
        <span v-if="fill.problems.length" class="warn" :title="fill.problems[0]!.words">!</span>
      </div>
    </template>
  </div>
  <section class="whole" aria-label="The whole song on this kit">
    <h4>The whole song on this kit</h4>
    <p v-if="!stage.onThisKit.value.problems.length">One player can play all of it.</p>
    <p v-for="words in stage.onThisKit.value.words" :key="words">{{ words }}</p>
    <button type="button" class="hands" :disabled="part.isChanging.value" @click="part.giveHands()">
      Recalculate sticking for this kit
    </button>
    <p class="school">
      Sixteenths on a cymbal:
      <button v-for="item in SIXTEENTHS" :key="item.value" type="button" class="hands" :disabled="part.isChanging.value" @click="part.giveHands(item.value)">
        {{ item.label }}
      </button>
    </p>
    <details v-if="stage.onThisKit.value.problems.length">
      <summary>{{ places }} one player cannot play as written</summary>
      <button
        v-for="problem in stage.onThisKit.value.problems.slice(0, MOST)"
        :key="`${problem.bar} ${problem.position} ${problem.kind}`"
        type="button"
        :title="problem.remedy"
        @click="goTo(problem.bar, problem.position)"
      >
        <b>Bar {{ problem.bar }}</b> {{ problem.words }}
      </button>
      <p v-if="stage.onThisKit.value.problems.length > MOST">and {{ stage.onThisKit.value.problems.length - MOST }} more</p>
    </details>
  </section>
  </div>
</template>

<style scoped>
.side {
  display: flex;
  flex-direction: column;
  gap: var(--gap-4);
  min-height: 0;
  padding-bottom: var(--gap-4);
  overflow-y: auto;
}
.whole {
  display: grid;
  gap: var(--gap-2);
  padding-top: var(--gap-3);
  border-top: 1px solid var(--line);
  color: var(--ink-soft);
  font-size: var(--size-small);
  line-height: 1.35;
}
.whole h4 {
  margin: 0;
  color: var(--ink);
  font-size: 1rem;
}
.whole p {
  margin: 0;
}
summary {
  color: var(--accent);
  cursor: pointer;
}
.whole .hands {
  justify-self: start;
  width: auto;
  padding: 0.1rem 0.7rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  color: var(--ink);
}
.whole button {
  display: block;
  width: 100%;
  padding: var(--gap-1) 0;
  border: 0;
  background: none;
  color: inherit;
  font-size: inherit;
  text-align: left;
  cursor: pointer;
}
.whole button:hover {
  color: var(--accent);
}
.list {
  align-content: start;
  display: grid;
  gap: 2px;
  padding: 2px;
}
.family {
  margin: var(--gap-3) 0 var(--gap-1);
  color: var(--ink-soft);
  font-size: var(--size-small);
  line-height: 1.35;
}
.fill {
  display: grid;
  grid-template-columns: 2rem 1fr auto;
  gap: 0 var(--gap-2);
  align-items: baseline;
  padding: var(--gap-2);
  border: 1.5px solid transparent;
  border-radius: var(--round);
  cursor: pointer;
}
.fill:hover {
  border-color: var(--line-strong);
}
.fill[aria-selected='true'] {
  border-color: var(--accent);
  background: var(--paper-raised);
}
.fill.sounds .where b {
  color: var(--accent);
}
.sign {
  grid-row: span 2;
  font: 500 1.375rem var(--serif);
  text-align: center;
}
.what {
  grid-column: 2;
  color: var(--ink-soft);
  font-size: var(--size-small);
  line-height: 1.3;
}
.warn {
  grid-row: 1;
  grid-column: 3;
  padding: 0 0.5rem;
  border: 1.5px solid var(--accent);
  border-radius: var(--round-full);
  color: var(--accent);
  font-weight: 700;
}
.school {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-2);
  align-items: baseline;
}
</style>
