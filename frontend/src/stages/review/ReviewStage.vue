<script setup lang="ts">
/** One question at a time: what is asked, the bar that it is about, what each answer sounds like. */
import { useElementSize } from '@vueuse/core'
import Message from 'primevue/message'
import ProgressBar from 'primevue/progressbar'
import { computed, onUnmounted, ref } from 'vue'
import { useOpenScore, useOpenSong } from '@/song/openSong'
import BarRow from '@/stages/grooves/BarRow.vue'
import CountRuler from '@/stages/grooves/CountRuler.vue'
import RowName from '@/stages/grooves/RowName.vue'

const { id, review, found, player, go, part, doubtsOneByOne } = useOpenSong()
const score = useOpenScore()
const { question, bar } = review

const sheet = ref<HTMLElement>()
const { width } = useElementSize(sheet)
const lanes = computed(() => Math.max(240, Math.floor(width.value)))
const typical = computed(() => (bar.value && found.phrases.value.get(bar.value.number)?.notes) || [])
const staff = computed(() => (bar.value ? `/api/songs/${id}/bars/${bar.value.number}/staff?of=${score.value.revision}` : ''))
const share = computed(() => {
  const all = review.done.value + review.open.value.length
  return all ? Math.round((100 * review.done.value) / all) : 100
})
const left = computed(() => {
  const many = review.open.value.length
  return `${many} question${many === 1 ? '' : 's'}, about ${review.minutes.value} minute${review.minutes.value === 1 ? '' : 's'}`
})
const where = computed(() => {
  const item = question.value
  const home = bar.value
  if (!item || !home) return ''
  const section = score.value.sections.find((one) => one.first_bar <= home.number && home.number < one.first_bar + one.bars)
  const many = item.bars.length
  return `Bar ${home.number}${section ? `, ${section.label}` : ''}${many > 1 ? ` · one of ${many} bars` : ''}`
})
const isCounting = computed(() => question.value?.kind === 'counting')
const hearing = computed(() => player.settings.value.hearing)

/** One by one, in the stack. */
function oneByOne(): void {
  if (!question.value) return
  doubtsOneByOne(question.value)
  go('grooves')
}
onUnmounted(review.leave)
</script>

<template>
  <section class="review body" aria-label="Review">
    <div class="column">
      <Message v-if="found.problem.value" severity="error">
        {{ found.problem.value }}
        <button type="button" class="act" @click="found.fetchGrooves()">Try again</button>
      </Message>
      <p v-else-if="!found.grooves.value" class="quiet">Looking for what is uncertain …</p>
      <template v-else-if="question">
        <div class="progress">
          <ProgressBar :value="share" :show-value="false" aria-label="Questions answered" />
          <span class="label" data-test="left">{{ left }}</span>
        </div>
        <h2 class="words" aria-live="polite">{{ question.words }}</h2>
        <div class="where">
          <span class="quiet">{{ where }}</span>
          <template v-if="review.shownBars.value.length > 1">
            <button type="button" class="act" @click="review.show(-1)">Bar before <kbd>↑</kbd></button>
            <button type="button" class="act" @click="review.show(1)">Next bar <kbd>↓</kbd></button>
          </template>
          <span class="hear" role="group" aria-label="Listen">
            <button type="button" class="act" :aria-pressed="player.isPlaying.value && hearing !== 'kit'" @click="review.hearRecord()">
              Record
            </button>
            <button
              type="button"
              class="act"
              :aria-pressed="player.isPlaying.value && hearing === 'kit' && !player.preview.value"
              @click="((player.preview.value = null), (player.settings.value.hearing = 'kit'), review.listen())"
            >
              As written
            </button>
          </span>
        </div>
        <div v-if="bar" class="sheet">
          <div />
          <CountRuler :bar="bar" :width="lanes" />
          <RowName><strong>{{ bar.number }}</strong></RowName>
          <div ref="sheet" class="lanes">
            <BarRow :bar="bar" :typical="typical" :width="lanes" :cursor="null" :marked="review.marked.value" :shade="found.shades.value.get(bar.number)" />
          </div>
        </div>
        <img v-if="bar && !isCounting" class="staff" :src="staff" :alt="`Bar ${bar.number} on the staff`" />
        <ol class="answers" :class="{ few: question.answers.length < 3, many: isCounting }">
          <li v-for="(item, index) in question.answers" :key="item.value">
            <button type="button" class="answer" :disabled="review.isAnswering.value" data-test="answer" @click="review.answer(item.value)">
              <kbd>{{ index + 1 }}</kbd> {{ item.words }}
            </button>
            <button
              v-if="!isCounting"
              type="button"
              v-tooltip.top="'Hear it so'"
              class="act so"
              :aria-label="`Hear it so: ${item.words}`"
              @click="review.hear(item.value)"
            >
              <span aria-hidden="true">♪</span>
            </button>
          </li>
        </ol>
        <footer class="foot">
          <button type="button" class="act" @click="review.back()">Back <kbd>←</kbd></button>
          <button type="button" class="act" @click="review.skip()">Skip <kbd>→</kbd></button>
          <button v-if="question.kind === 'alike'" type="button" class="act" @click="oneByOne">One at a time in Grooves</button>
          <button v-else type="button" class="act" @click="go('grooves')">Show in Grooves</button>
          <button v-if="isCounting" type="button" class="act" @click="go('listen')">Tap it myself</button>
        </footer>
      </template>
      <div v-else-if="review.skipped.value.length && review.open.value.length" class="end">
        <h2 class="words">{{ review.open.value.length }} skipped</h2>
        <p class="quiet">They stay as Orchesis heard them until you answer.</p>
        <div class="where">
          <button type="button" class="act main" @click="review.again()">Go through them</button>
          <button type="button" class="act" @click="go('chart')">Open the chart</button>
          <button type="button" class="act" @click="review.back()">Back <kbd>←</kbd></button>
        </div>
      </div>
      <div v-else class="end">
        <h2 class="words">Nothing left to ask</h2>
        <p class="quiet">The chart is ready. Grooves has every bar, if you want to look further.</p>
        <div class="where">
          <button type="button" class="act main" @click="go('chart')">Open the chart</button>
          <button type="button" class="act" @click="go('grooves')">All bars in Grooves</button>
          <button v-if="review.done.value" type="button" class="act" :disabled="part.isChanging.value" @click="review.back()">
            Back <kbd>←</kbd>
          </button>
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.review {
  --names: 6.1rem;
  padding: var(--gap-4) var(--frame-edge);
}
.column {
  display: grid;
  gap: var(--gap-3);
  max-width: 56rem;
  margin: 0 auto;
}
.progress {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: var(--gap-4);
  align-items: center;
}
.progress :deep(.p-progressbar) {
  height: 6px;
}
.words {
  margin: 0;
  font: 500 1.625rem/1.3 var(--serif);
}
.where,
.foot,
.hear {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  align-items: center;
}
.hear {
  margin-left: auto;
}
.sheet {
  display: grid;
  grid-template-columns: var(--names) minmax(0, 1fr);
}
.lanes {
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  background: var(--paper-raised);
}
.staff {
  justify-self: start;
  max-width: 100%;
  height: 6.5rem;
  padding: 0 var(--gap-2);
  border-radius: var(--round);
  background: var(--page);
}
.answers {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(12rem, 1fr));
  gap: var(--gap-3);
  margin: 0;
  padding: 0;
  list-style: none;
}
.answers.few {
  grid-template-columns: repeat(auto-fit, minmax(16rem, 1fr));
}
.answers.many {
  grid-template-columns: repeat(auto-fit, minmax(20rem, 1fr));
}
.answers li {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
}
.answer {
  flex: 1;
  min-height: 2.75rem;
  padding: 0.3rem 0.9rem;
  border: 1.5px solid var(--line-strong);
  border-radius: var(--round);
  background: var(--paper-raised);
  color: var(--ink);
  font: inherit;
  font-weight: 700;
  text-align: left;
  cursor: pointer;
}
.answer:hover:not(:disabled) {
  border-color: var(--accent);
}
.so {
  min-width: 2.75rem;
  min-height: 2.75rem;
}
.main {
  border-color: var(--accent);
  color: var(--accent);
  font-weight: 700;
}
.end {
  display: grid;
  gap: var(--gap-3);
  padding-top: var(--gap-8);
}
@media (max-width: 700px) {
  .review {
    --names: 3.25rem;
  }
  .words {
    font-size: 1.25rem;
  }
  .hear {
    margin-left: 0;
  }
}
</style>
