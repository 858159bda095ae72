<script setup lang="ts">
/** The plan: one's own steps in order; others are added from any method, taken off, moved. */
import Button from 'primevue/button'
import { computed } from 'vue'
import { useOpenSong } from '@/song/openSong'

const { practice } = useOpenSong()
const plan = computed(() => practice.plan.value!)
const step = practice.step
const byKey = computed(() => new Map(plan.value.steps.map((item) => [item.key, item])))
const chosen = computed(() => new Set(practice.keys.value))
const session = computed(
  () => new Map((practice.overview.value?.session ?? []).filter((item) => item.target === plan.value.target).map((item) => [item.step, item])),
)
const minutes = computed(() => Math.round(practice.steps.value.reduce((sum, item) => sum + item.minutes, 0)))
/** The method whose steps are just those of the plan, in its order. */
const method = computed(() => plan.value.methods.find((item) => item.steps.join() === practice.keys.value.join())?.value ?? '')

const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { weekday: 'short', day: 'numeric', month: 'short' })

function move(index: number, by: -1 | 1): void {
  const next = [...practice.keys.value]
  const [key] = next.splice(index, 1)
  next.splice(index + by, 0, key!)
  practice.keep(next, index + by)
}

function drop(index: number): void {
  practice.keep(
    practice.keys.value.filter((_, at) => at !== index),
    Math.max(0, Math.min(practice.at.value, practice.keys.value.length - 2)),
  )
}
</script>

<template>
  <header>
    <div class="head">
      <h2>{{ plan.name }}</h2>
      <div class="begin">
        <span class="quiet">Enter</span>
        <Button :label="`Practise step ${practice.at.value + 1}`" data-test="practise" @click="practice.isOpen.value = true" />
      </div>
    </div>
    <p class="quiet">
      {{ Math.round(plan.bpm) }} bpm on the record · difficulty {{ plan.difficulty }} of 10<template v-if="plan.difficulty_words">, {{ plan.difficulty_words }}</template>
    </p>
    <p v-for="one in practice.asked.value" :key="one.id" class="asked">
      Asked for: <strong>{{ Math.round(one.bpm) }} bpm</strong>{{ one.due ? `, by ${day(one.due)}` : '' }}, from {{ one.group }}{{ one.words ? `: ${one.words}` : '' }}
    </p>
    <p v-for="words in plan.overdub_words" :key="words" class="quiet">{{ words }}.</p>
  </header>
  <div class="methods" role="group" aria-label="Method">
    <span class="label">By method</span>
    <button
      v-for="item in plan.methods"
      :key="item.value"
      type="button"
      class="act"
      :aria-pressed="item.value === method"
      :data-method="item.value"
      @click="practice.keep(item.steps, 0)"
    >
      {{ item.words }}
    </button>
  </div>
  <ol class="steps">
    <li v-for="(item, index) in practice.steps.value" :key="item.key" :class="{ now: index === practice.at.value }">
      <button type="button" class="choose" :aria-current="index === practice.at.value ? 'step' : undefined" @click="practice.goTo(index)">
        <span class="number">{{ index + 1 }}</span>
        <span>
          <strong>{{ item.title }}</strong>
          <small>{{ item.rungs[0]?.bpm }} to {{ item.rungs.at(-1)?.bpm }} bpm · about {{ item.minutes }} min<template v-if="session.get(item.key)"> · today: {{ session.get(item.key)?.words }}</template></small>
        </span>
      </button>
      <span v-if="index === practice.at.value" class="tools">
        <button type="button" class="act" :disabled="index === 0" aria-label="Earlier" @click="move(index, -1)">↑</button>
        <button type="button" class="act" :disabled="index === practice.steps.value.length - 1" aria-label="Later" @click="move(index, 1)">↓</button>
        <button type="button" class="act" :disabled="practice.steps.value.length < 2" @click="drop(index)">Take off</button>
      </span>
    </li>
  </ol>
  <section v-if="step" class="about">
    <p><span class="label">Count</span> {{ step.count }}</p>
    <p v-if="step.sticking"><span class="label">Hands</span> {{ step.sticking }}</p>
    <p v-if="step.trap"><span class="label">Watch for</span> {{ step.trap }}</p>
    <p><span class="label">Ladder</span> {{ step.ladder_words }}</p>
  </section>
  <p class="quiet">About {{ minutes }} minutes in all, in short sessions on many days.</p>
  <details class="more">
    <summary>Add steps of other methods</summary>
    <template v-for="item in plan.methods" :key="item.value">
      <p class="label">{{ item.words }}</p>
      <p class="adds">
        <button
          v-for="key in item.steps.filter((one) => !chosen.has(one))"
          :key="key"
          type="button"
          class="act"
          @click="practice.keep([...practice.keys.value, key])"
        >
          + {{ byKey.get(key)?.title }}
        </button>
      </p>
    </template>
  </details>
</template>

<style scoped>
.methods,
.adds {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  align-items: center;
  margin: var(--gap-3) 0;
}
.methods [aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
  font-weight: 700;
}
.steps {
  margin: 0 0 var(--gap-3);
  padding: 0;
  list-style: none;
}
.steps li {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
  border-bottom: 1px solid var(--line);
}
.steps li.now {
  background: var(--paper-raised);
}
.choose {
  display: flex;
  flex: 1;
  gap: var(--gap-3);
  padding: 0.4rem 0.5rem;
  border: 0;
  background: none;
  text-align: left;
  cursor: pointer;
}
.choose small {
  display: block;
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.number {
  min-width: 1.6rem;
  color: var(--ink-soft);
  font-family: var(--serif);
  font-size: var(--size-lead);
  text-align: right;
}
.now .number {
  color: var(--accent);
  font-weight: 700;
}
.tools {
  display: flex;
  gap: var(--gap-1);
  padding-right: var(--gap-2);
}
.about {
  display: grid;
  gap: 0.25rem;
  margin: var(--gap-3) 0;
}
.about .label {
  display: inline-block;
  min-width: 5.5rem;
}
.asked {
  color: var(--accent);
}
.head,
.begin {
  display: flex;
  gap: var(--gap-3);
  align-items: center;
  justify-content: space-between;
}
.more summary {
  cursor: pointer;
}
</style>
