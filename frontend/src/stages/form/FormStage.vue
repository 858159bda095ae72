<script setup lang="ts">
/** Form: sections as rows, bars as cells; what repeats is plain, what differs is framed. */
import { computed, nextTick, ref, watch } from 'vue'
import type { Score, Section } from '@/api/client'
import { clock } from '@/shelf/words'
import type { FormCursor } from './useFormCursor'

const props = defineProps<{ score: Score; cursor: FormCursor; sounding: number | null; busy: boolean }>()
const emit = defineEmits<{ seek: [time: number]; loop: [first: number, last: number] }>()

const nameField = ref<HTMLInputElement[]>([])
const draft = ref('')
const widest = computed(() => Math.max(...props.score.sections.map((section) => section.bars), 1))
const drumsFrom = computed(() => props.score.bars.find((bar) => bar.hits.length)?.number)

watch(
  () => props.cursor.naming.value,
  async (open) => {
    if (!open) return
    draft.value = props.cursor.section.value?.label ?? ''
    await nextTick()
    nameField.value[0]?.select()
  },
)
watch(
  () => props.cursor.at.value.row,
  async (row) => {
    await nextTick()
    document.querySelector(`[data-row="${row}"]`)?.scrollIntoView({ block: 'nearest' })
  },
)

const isOdd = (section: Section) => section.notes.some((note) => note.kind.startsWith('odd'))
const isPlain = (section: Section, index: number) => section.like !== null && !section.differing.includes(index + 1)
/** A gap opens before each phrase. */
function opensPhrase(section: Section, index: number): boolean {
  let end = 0
  for (const length of section.phrases) {
    end += length
    if (index === end) return true
  }
  return false
}
function said(section: Section): string {
  const parts = section.notes.map((note) => note.words)
  if (section.words) parts.unshift(section.words)
  if (!parts.length && section.phrases.length > 1) parts.push(`Phrases of ${[...new Set(section.phrases)].join(' and ')}.`)
  return parts.join(' ')
}
const others = computed(() => {
  const seen = new Set<string>()
  return props.score.sections.filter((section) => {
    if (!section.mark || seen.has(section.mark)) return false
    seen.add(section.mark)
    return true
  })
})
</script>

<template>
  <div class="form">
    <header class="title">
      <h2>Form</h2>
      <p class="quiet">
        {{ score.bars.length }} bars, {{ clock(score.duration)
        }}<template v-if="drumsFrom && drumsFrom > 1">, drums from bar {{ drumsFrom }}</template>
      </p>
      <div class="acts">
        <button type="button" class="act" :disabled="busy" @click="cursor.split()">Split here <kbd>S</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.merge()">Join to the one before <kbd>J</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.move(-1)">Begin a bar sooner <kbd>,</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.move(1)">a bar later <kbd>.</kbd></button>
        <button type="button" class="act" :disabled="busy" @click="cursor.name()">Rename <kbd>R</kbd></button>
      </div>
    </header>
    <div class="rows" role="grid" aria-label="Sections and their bars">
      <div
        v-for="(section, row) in score.sections"
        :key="section.first_bar"
        class="row"
        :class="{ here: cursor.at.value.row === row, odd: isOdd(section) }"
        role="row"
        :data-row="row"
        data-test="section"
      >
        <div class="name" role="rowheader">
          <form v-if="cursor.naming.value && cursor.at.value.row === row" @submit.prevent="cursor.rename(draft)">
            <input
              ref="nameField"
              v-model="draft"
              aria-label="Name of the section"
              maxlength="40"
              @keydown.esc.stop="cursor.naming.value = false"
              @keydown.stop
              @blur="cursor.rename(draft)"
            />
          </form>
          <button v-else type="button" class="label" @click="cursor.place(row)" @dblclick="cursor.name()">
            {{ section.label }}
          </button>
          <span class="quiet">{{ clock(section.start) }}</span>
        </div>
        <select
          class="mark"
          :value="section.mark"
          :aria-label="`${section.label} is the same music as`"
          :title="`${section.label} is the same music as …`"
          :disabled="busy || !section.mark"
          @change="
            (event) => {
              cursor.place(row)
              const mark = (event.target as HTMLSelectElement).value
              cursor.sameAs(mark ? (others.find((item) => item.mark === mark)?.first_bar ?? null) : null)
            }
          "
        >
          <option v-for="other in others" :key="other.mark" :value="other.mark">{{ other.mark }}</option>
          <option value="">none of these</option>
        </select>
        <p class="count">
          {{ section.bars }} {{ section.bars === 1 ? 'bar' : 'bars' }}
          <span v-if="isOdd(section)" class="small">{{ section.phrases.join(' + ') }}</span>
          <span v-else-if="section.like" class="small">as before</span>
        </p>
        <div class="cells" :style="{ '--widest': widest }">
          <button
            v-for="(cell, index) in section.cells"
            :key="cell.number"
            type="button"
            class="cell"
            role="gridcell"
            :class="{
              plain: isPlain(section, index),
              differs: section.differing.includes(index + 1),
              gap: opensPhrase(section, index),
              cursor: cursor.at.value.row === row && cursor.at.value.bar === index + 1,
              sounding: sounding === cell.number,
              odd: cell.meter !== null,
            }"
            :style="{ '--full': isPlain(section, index) ? 0 : cell.density }"
            :aria-label="`Bar ${cell.number}${cell.fill ? ', fill' : ''}${cell.crash ? ', crash on the one' : ''}${cell.meter ? `, in ${cell.meter}` : ''}`"
            tabindex="-1"
            @click="cursor.place(row, index + 1)"
            @dblclick="emit('seek', score.bars.find((bar) => bar.number === cell.number)?.start ?? 0)"
          >
            <svg viewBox="0 0 30 30" aria-hidden="true">
              <path v-if="cell.crash" class="ink" d="M4 4l6 6M10 4l-6 6" />
              <path v-if="isPlain(section, index)" class="same" d="M8 15h14" />
              <path v-if="cell.fill" class="fill" d="M19 26l7-7" />
            </svg>
            <span v-if="cell.meter" class="meter">{{ cell.meter }}</span>
          </button>
        </div>
        <p class="said">{{ said(section) }}</p>
        <p class="ends">
          <button type="button" class="link" @click="emit('loop', section.first_bar, section.first_bar + section.bars - 1)">
            loop
          </button>
          <button
            type="button"
            class="link"
            :aria-pressed="section.confirmed"
            :disabled="busy"
            :data-test="`confirm-section-${row}`"
            @click="cursor.confirm(row)"
          >
            {{ section.confirmed ? '✓ confirmed' : 'confirm' }}
          </button>
        </p>
      </div>
    </div>
    <p class="quiet key">
      One cell is one bar, darker where more is played. A dash: as in the section it repeats; a frame: something
      differs. Slash: fill. Cross: crash on the one. A gap opens each phrase.
    </p>
  </div>
</template>

<style scoped>
.form {
  padding: 0.5rem var(--frame-edge) 2rem;
}
.title {
  display: flex;
  gap: 1rem;
  align-items: baseline;
  flex-wrap: wrap;
}
h2 {
  margin: 0;
  font: 500 var(--size-title) var(--serif);
}
p {
  margin: 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin-left: auto;
}
.rows {
  margin-top: 0.6rem;
}
.row {
  display: grid;
  grid-template-columns: 8.5rem 4.2rem 5.5rem minmax(0, auto) minmax(9rem, 1fr) 5.5rem;
  gap: 0.9rem;
  align-items: center;
  padding: 0.45rem 0.6rem;
  border: 1px solid transparent;
  border-radius: var(--round);
}
.row.here {
  border-color: var(--line-strong);
  background: var(--paper-raised);
}
.name {
  display: grid;
}
.label {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  font-size: var(--size-lead);
  font-weight: 700;
  text-align: left;
  cursor: pointer;
}
.name input {
  width: 100%;
  font: 700 var(--size-lead) var(--sans);
}
.mark:disabled {
  visibility: hidden;
}
.mark {
  width: 3.6rem;
  border: 0;
  background: none;
  color: var(--ink);
  font: 500 1.35rem var(--serif);
  cursor: pointer;
}
.count .small,
.quiet {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.count .small {
  display: block;
}
.odd .count {
  color: var(--accent);
  font-weight: 700;
}
.cells {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
.cell {
  position: relative;
  width: 30px;
  height: 34px;
  padding: 0;
  border: 1px solid var(--line-strong);
  border-radius: 4px;
  background: color-mix(in srgb, var(--shade) calc(var(--full) * 90%), var(--paper-raised));
  cursor: pointer;
}
.cell.gap {
  margin-left: 9px;
}
.cell.plain {
  border-color: var(--line);
  background: none;
}
.cell.differs {
  border: 2px solid var(--accent);
}
.cell.odd {
  width: 22px;
}
.cell.cursor {
  outline: 2px solid var(--ink);
  outline-offset: 1px;
}
.cell.sounding {
  box-shadow: 0 0 0 3px var(--accent-soft);
}
.cell svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.ink {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
.same {
  stroke: var(--line-strong);
  stroke-width: 2;
}
.fill {
  fill: none;
  stroke: var(--accent);
  stroke-width: 2.4;
}
.meter {
  position: absolute;
  inset: auto 0 -1.1rem;
  color: var(--accent);
  font-size: 0.75rem;
}
.said {
  color: var(--ink);
  overflow-wrap: anywhere;
}
.ends {
  display: grid;
  justify-items: end;
}
.link {
  padding: 0.1rem 0.2rem;
  border: 0;
  background: none;
  color: var(--accent);
  cursor: pointer;
}
.link[aria-pressed='true'] {
  color: var(--ink-soft);
}
.key {
  margin-top: 0.8rem;
}
button:disabled {
  cursor: progress;
  opacity: 0.6;
}
@media (max-width: 900px) {
  .row {
    grid-template-columns: minmax(0, 1fr) auto auto;
  }
  .cells,
  .said {
    grid-column: 1 / -1;
  }
}
</style>
