<script setup lang="ts">
/** What is known of the section at the cursor: its phrase, what changes, what is still open, what is offered. */
import ProgressBar from 'primevue/progressbar'
import Message from 'primevue/message'
import { computed } from 'vue'
import ChoiceField from '@/base/ChoiceField.vue'
import FoldedPart from '@/base/FoldedPart.vue'
import { barsWords } from '@/score/place'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import NameRhythm from './NameRhythm.vue'
import { inferring, type Offer } from './offers'

const { part, stack, notes, found, doubt, doubts: allDoubts, isAlone, relisten, review, go } = useOpenSong()
const score = useOpenScore()
const bar = computed(() => stack.cursor.value.bar)

const section = computed(() =>
  score.value.sections.find((item) => item.first_bar <= bar.value && bar.value < item.first_bar + item.bars),
)
const mine = computed(() =>
  found.grooves.value?.sections.find((item) => item.first_bar === section.value?.first_bar),
)
/** The longest phrase of the section, of which its facts are told. */
const mainPhrase = computed(() => {
  const all = mine.value?.phrases ?? []
  return all.reduce((best, item) => (best && best.bars >= item.bars ? best : item), all[0])
})
const phrase = computed(() => found.phrases.value.get(bar.value)?.phrase)
const count = (standing: string) => phrase.value?.notes.filter((note) => note.standing === standing).length ?? 0
const bars = computed(() => {
  const home = section.value
  return home
    ? score.value.bars.filter((bar) => bar.number >= home.first_bar && bar.number < home.first_bar + home.bars)
    : []
})
const played = computed(() => bars.value.filter((bar) => bar.hits.length > 0))
const settled = computed(() => played.value.filter((bar) => found.settled.value.has(bar.number)).length)
const doubts = computed(() => bars.value.reduce((sum, item) => sum + item.hits.filter(isAlone).length, 0))
const anySettled = computed(() => found.settled.value.size)
const plural = (many: number, one: string) => `${many} ${one}${many === 1 ? '' : 's'}`
/** How sure the length is, as a share: from the log odds against the next likely length. */
const sureness = computed(() => Math.round(100 / (1 + Math.exp(-(phrase.value?.odds ?? 0)))))
/** One list of sections: where one is, and a way to go to another. */
const choices = computed(() => score.value.sections.map((item) => ({ value: item.first_bar, label: item.label })))
const here = computed({
  get: () => section.value?.first_bar ?? 1,
  set: (first) => stack.place({ bar: first, position: '0' }),
})
const offer = ({ edits, words }: Offer) => part.make(edits, words)

function confirmSection(): void {
  const numbers = played.value.map((item) => item.number)
  stack.place({ bar: numbers[0]!, position: '0' })
  stack.anchor.value = { bar: numbers.at(-1)!, position: '0', limb: stack.cursor.value.limb }
  void notes.confirmBars(true).then(() => (stack.anchor.value = null))
}
</script>

<template>
  <aside class="facts" aria-label="The section">
    <ChoiceField v-model="here" class="name" label="Section" :options="choices" />
    <p v-if="section" class="label">
      {{ barsWords(section.first_bar, section.first_bar + section.bars - 1) }} ·
      {{ played.length ? `${settled} of ${played.length} confirmed` : 'no drums here' }}
    </p>
    <ProgressBar
      v-if="played.length"
      :value="Math.round((100 * settled) / played.length)"
      :show-value="false"
      aria-label="Bars confirmed"
    />
    <div class="acts">
      <button v-if="review.open.value.length" type="button" class="main" @click="go('review')">
        Review: {{ plural(review.open.value.length, 'question') }}
      </button>
      <button v-if="allDoubts" type="button" @click="doubt(1)">Next uncertain note <kbd>D</kbd></button>
      <button v-if="settled < played.length" type="button" @click="confirmSection">Confirm section</button>
      <button type="button" :disabled="!anySettled || found.isRelistening.value" @click="relisten">
        {{ found.isRelistening.value ? 'Listening …' : 'Listen again' }} <kbd>⇧ R</kbd>
      </button>
    </div>
    <p v-if="allDoubts" class="label">
      {{ doubts }} here, {{ plural(allDoubts, 'uncertain note') }} in the song.
      <template v-if="doubts && settled < played.length">Confirming the section takes {{ doubts === 1 ? 'it' : 'them' }} as heard.</template>
    </p>
    <dl v-if="phrase">
      <template v-if="played.length">
        <dt>Phrase</dt>
        <dd :title="`${sureness} % sure of its length`">{{ phrase.words }}</dd>
        <dt>Always · usually · sometimes</dt>
        <dd>{{ count('core') }} · {{ count('usual') }} · {{ count('occasional') }} notes</dd>
      </template>
      <template v-if="section?.words">
        <dt>Compared</dt>
        <dd class="sentence">{{ section.words }}</dd>
      </template>
      <template v-if="mine?.names.length">
        <dt>Contains</dt>
        <dd v-for="name in mine.names" :key="name.words" class="sentence" :title="name.tradition">{{ name.words }}</dd>
      </template>
      <dd v-if="mainPhrase && section" class="sentence"><NameRhythm :first-bar="section.first_bar" /></dd>
      <template v-if="mine?.facts.length">
        <dt>Limbs together</dt>
        <dd v-for="fact in mine.facts" :key="fact.words" class="sentence">
          <button
            type="button"
            class="fact"
            :aria-pressed="found.lit.value?.words === fact.words"
            @click="mainPhrase && found.light(fact.words, mainPhrase, fact.notes)"
          >
            {{ fact.words }}
          </button>
        </dd>
      </template>
      <template v-if="mine?.difficulty">
        <dt>How hard</dt>
        <dd class="sentence">{{ mine.difficulty.value }} of 10: {{ mine.difficulty.words }}.</dd>
        <dd v-for="spot in mine.difficulty.spots" :key="spot.words" class="sentence">
          <button type="button" class="fact" @click="stack.place({ bar: spot.bar, position: spot.position })">{{ spot.words }}</button>
        </dd>
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
    <Message v-else-if="found.problem.value" severity="error">
      {{ found.problem.value }}
      <button type="button" @click="found.fetchGrooves()">Try again</button>
    </Message>
    <p v-else-if="!found.grooves.value" class="label">Looking for phrases …</p>
    <section v-for="proposal in mine?.proposals ?? []" :key="proposal.words" class="offer">
      <p>{{ proposal.words }}</p>
      <button type="button" @click="offer(inferring(proposal))">
        Write {{ proposal.hits.length === 1 ? 'it' : `all ${proposal.hits.length}` }} as inferred
      </button>
    </section>
    <section class="offer">
      <p v-if="anySettled">
        {{ plural(anySettled, 'bar') }} confirmed: Orchesis can listen to the rest again with what they teach.
      </p>
      <p v-else class="label">Confirm some bars, and Orchesis can listen again with what they teach.</p>
      <p v-if="found.grooves.value?.lessons.length" class="lessons">
        Bars worth checking first:
        <button
          v-for="number in found.grooves.value.lessons"
          :key="number"
          type="button"
          :aria-label="`Go to bar ${number}`"
          @click="here = number"
        >
          {{ number }}
        </button>
      </p>
    </section>
    <FoldedPart heading="Why">
      <p v-for="finding in score.findings" :key="finding" class="label">{{ finding }}</p>
    </FoldedPart>
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
  margin-left: -0.5rem;
  border-color: transparent;
  background: none;
  box-shadow: none;
}
.name :deep(.p-select-label) {
  padding-block: 0;
  font: 500 1.625rem var(--serif);
}
.facts :deep(.p-progressbar) {
  height: 6px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
}
.acts button,
.offer button {
  justify-self: start;
  padding: 0.2rem 0.75rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round-full);
  background: var(--paper-raised);
  cursor: pointer;
}
.acts button:hover,
.offer button:hover:not(:disabled) {
  border-color: var(--accent);
}
.offer button:disabled {
  color: var(--ink-soft);
  cursor: default;
}
.acts .main {
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
.fact {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font-size: inherit;
  line-height: inherit;
  text-align: left;
  text-decoration: underline;
  text-decoration-color: var(--line-strong);
  text-underline-offset: 0.2em;
  cursor: pointer;
}
.fact:hover,
.fact[aria-pressed='true'] {
  color: var(--accent);
  text-decoration-color: var(--accent);
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
</style>
