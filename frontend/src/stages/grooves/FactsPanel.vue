<script setup lang="ts">
/** What is known of the section at the cursor: its phrase, what changes, what is still open, what is offered. */
import { computed } from 'vue'
import type { Echo, Proposal, Score } from '@/api/client'
import type { GrooveFindings } from './useGrooves'

const props = defineProps<{ score: Score; found: GrooveFindings; bar: number }>()
const emit = defineEmits<{
  doubt: [step: -1 | 1]
  section: [firstBar: number]
  take: [proposal: Proposal]
  echo: [echo: Echo]
  relisten: []
  confirm: [bars: number[]]
}>()

const section = computed(() =>
  props.score.sections.find((item) => item.first_bar <= props.bar && props.bar < item.first_bar + item.bars),
)
const mine = computed(() =>
  props.found.grooves.value?.sections.find((item) => item.first_bar === section.value?.first_bar),
)
const phrase = computed(() => props.found.phrases.value.get(props.bar)?.phrase)
const count = (standing: string) => phrase.value?.notes.filter((note) => note.standing === standing).length ?? 0
const bars = computed(() => {
  const home = section.value
  return home
    ? props.score.bars.filter((bar) => bar.number >= home.first_bar && bar.number < home.first_bar + home.bars)
    : []
})
const played = computed(() => bars.value.filter((bar) => bar.hits.length > 0))
const settled = computed(() => played.value.filter((bar) => props.found.settled.value.has(bar.number)).length)
const doubts = computed(() =>
  bars.value.reduce((sum, bar) => sum + bar.hits.filter((hit) => hit.status === 'doubtful').length, 0),
)
const allDoubts = computed(() =>
  props.score.bars.reduce((sum, bar) => sum + bar.hits.filter((hit) => hit.status === 'doubtful').length, 0),
)
const anySettled = computed(() => props.found.settled.value.size)
const plural = (many: number, one: string) => `${many} ${one}${many === 1 ? '' : 's'}`
/** How sure the length is, as a share: from the log odds against the next likely length. */
const sureness = computed(() => Math.round(100 / (1 + Math.exp(-(phrase.value?.odds ?? 0)))))
</script>

<template>
  <aside class="facts" aria-label="The section">
    <select
      class="name"
      aria-label="Section"
      :value="section?.first_bar"
      @change="emit('section', Number(($event.target as HTMLSelectElement).value))"
    >
      <option v-for="item in score.sections" :key="item.first_bar" :value="item.first_bar">{{ item.label }}</option>
    </select>
    <p v-if="section" class="label">
      bars {{ section.first_bar }}–{{ section.first_bar + section.bars - 1 }} ·
      {{ played.length ? `${settled} of ${played.length} confirmed` : 'no drums here' }}
    </p>
    <progress v-if="played.length" :value="settled" :max="played.length" aria-label="Bars confirmed" />
    <div class="acts">
      <button v-if="allDoubts" type="button" class="main" @click="emit('doubt', 1)">
        Next doubt <kbd>D</kbd>
      </button>
      <button v-if="settled < played.length" type="button" @click="emit('confirm', played.map((bar) => bar.number))">
        Confirm section{{ doubts ? `, ${plural(doubts, 'doubt')} too` : '' }}
      </button>
    </div>
    <p v-if="allDoubts" class="label">{{ doubts }} here, {{ plural(allDoubts, 'doubtful note') }} in the song</p>
    <dl v-if="phrase">
      <template v-if="played.length">
        <dt>Phrase</dt>
        <dd :title="`${sureness} % sure of its length`">{{ phrase.words }}</dd>
        <dt>Core · usual · occasional</dt>
        <dd>{{ count('core') }} · {{ count('usual') }} · {{ count('occasional') }} notes</dd>
      </template>
      <template v-if="section?.words">
        <dt>Compared</dt>
        <dd class="sentence">{{ section.words }}</dd>
      </template>
      <template v-for="change in mine?.changes ?? []" :key="change.bar">
        <dt>Change</dt>
        <dd class="sentence" :title="change.evidence">{{ change.words }}</dd>
      </template>
      <template v-for="variant in found.grooves.value?.variants ?? []" :key="variant.layer">
        <dt>{{ variant.layer }} in the song</dt>
        <dd class="sentence">{{ variant.words }}</dd>
      </template>
    </dl>
    <p v-else-if="found.problem.value" class="trouble" role="alert">
      {{ found.problem.value }}
      <button type="button" @click="found.fetchGrooves()">Try again</button>
    </p>
    <p v-else-if="!found.grooves.value" class="label">Looking for phrases …</p>
    <section v-for="proposal in mine?.proposals ?? []" :key="proposal.words" class="offer">
      <p>{{ proposal.words }}</p>
      <button type="button" @click="emit('take', proposal)">
        Write {{ proposal.hits.length === 1 ? 'it' : `all ${proposal.hits.length}` }} as inferred
      </button>
    </section>
    <section v-for="echo in found.grooves.value?.echoes ?? []" :key="echo.words" class="offer">
      <p>{{ echo.words }}</p>
      <button type="button" @click="emit('echo', echo)">Leave all {{ echo.places.length }} out</button>
    </section>
    <section class="offer">
      <p v-if="anySettled">
        {{ plural(anySettled, 'bar') }} confirmed: Orchesis can listen to the rest again with what they teach.
      </p>
      <p v-else class="label">Confirm some bars, and Orchesis can listen again with what they teach.</p>
      <p v-if="found.grooves.value?.lessons.length" class="lessons">
        Bars that would teach most:
        <button
          v-for="number in found.grooves.value.lessons"
          :key="number"
          type="button"
          :aria-label="`Go to bar ${number}`"
          @click="emit('section', number)"
        >
          {{ number }}
        </button>
      </p>
      <button type="button" :disabled="!anySettled || found.isRelistening.value" @click="emit('relisten')">
        {{ found.isRelistening.value ? 'Listening …' : 'Listen again' }} <kbd>⇧ R</kbd>
      </button>
    </section>
    <details>
      <summary>How it was found</summary>
      <p v-for="finding in score.findings" :key="finding" class="label">{{ finding }}</p>
    </details>
  </aside>
</template>

<style scoped>
.facts {
  display: grid;
  align-content: start;
  gap: var(--gap-2);
  min-height: 0;
  padding-bottom: var(--gap-4);
  overflow-y: auto;
}
.name {
  max-width: 100%;
  margin-left: -0.3rem;
  border: 0;
  background: none;
  color: var(--ink);
  font: 500 1.625rem var(--serif);
  cursor: pointer;
}
progress {
  width: 100%;
  height: 6px;
  appearance: none;
}
progress::-webkit-progress-bar {
  border-radius: 3px;
  background: var(--paper-sunk);
}
progress::-webkit-progress-value {
  border-radius: 3px;
  background: var(--ink-soft);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
}
button {
  justify-self: start;
  padding: 0.3rem 0.8rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  cursor: pointer;
}
button:hover:not(:disabled) {
  border-color: var(--accent);
}
button:disabled {
  color: var(--ink-soft);
  cursor: default;
}
.main {
  border-color: var(--accent);
  color: var(--accent);
  font-weight: 700;
}
dl {
  margin: var(--gap-1) 0;
}
dt {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
dt::first-letter {
  text-transform: uppercase;
}
dd {
  margin: 0 0 var(--gap-2);
}
.sentence {
  font-size: 0.9375rem;
  line-height: 1.35;
}
.offer {
  display: grid;
  gap: var(--gap-2);
  padding: var(--gap-2) 0 0;
  border-top: 1px solid var(--line);
  font-size: 0.9375rem;
}
.lessons {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1);
  align-items: center;
}
.lessons button {
  padding: 0.05rem 0.55rem;
}
.trouble {
  color: var(--accent);
}
summary {
  color: var(--ink-soft);
  cursor: pointer;
}
</style>
