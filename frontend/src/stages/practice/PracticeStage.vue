<script setup lang="ts">
/** Practice: what is practised, by which steps, what is due today; the big player opens from here. */
import Button from 'primevue/button'
import Message from 'primevue/message'
import { onMounted, ref } from 'vue'
import { stretcherAddress } from '@/engine/player'
import { keepSong, soundAddresses } from '@/base/offline'
import { loadTheRest } from '@/song/lazy'
import { useOpenSong } from '@/song/openSong'
import BodyPart from './BodyPart.vue'
import MixPart from './MixPart.vue'
import PlanPart from './PlanPart.vue'
import PracticeLog from './PracticeLog.vue'
import PracticePlayer from './PracticePlayer.vue'
import { targetAt } from './usePractice'
import TargetList from './TargetList.vue'

const { id, song, practice } = useOpenSong()

/** All that practising this song needs, for when the connection breaks. */
const isKept = ref(false)
onMounted(async () => {
  await practice.ready()
  const base = `/api/songs/${id}`
  const whole = practice.targets.value.map((item) => item.key)
  const given = practice.given.value.map((one) => targetAt(one.target, one.level))
  const atLevel = whole.map((key) => targetAt(key, practice.level.value))
  const plans = [...new Set([...whole, ...atLevel, ...given])].map((key) => `${base}/practice/plans/${key}?school=${practice.school.value}`)
  const clicks = ['quarters', 'eighths', 'sixteenths', 'triplets', 'swung'].map((name) => `${base}/clicks/${name}`)
  await loadTheRest()
  const parts = (practice.hasDrumsDown() ? [`${base}/audio/drums-down`] : [])
  isKept.value = await keepSong(id, [
    '/api/session',
    await stretcherAddress(),
    base,
    ...['score', 'mine', 'practice', 'audio'].map((name) => `${base}/${name}`),
    // Whoever came by a link has neither.
    ...(practice.isGuest ? [] : ['sources', 'grooves'].map((name) => `${base}/${name}`)),
    ...plans,
    ...clicks,
    ...parts,
    ...(await soundAddresses()),
  ])
})
</script>

<template>
  <main class="body practice">
    <TargetList class="targets" />
    <section class="plan">
      <Message v-if="practice.problem.value" severity="error">
        {{ practice.problem.value }}
        <Button label="Try again" variant="text" size="small" @click="practice.refetch()" />
      </Message>
      <p v-else-if="!practice.plan.value" class="quiet" role="status">Making a plan …</p>
      <PlanPart v-else />
    </section>
    <aside class="beside">
      <p v-if="isKept" class="quiet" data-test="kept">{{ song?.title }} is kept here: it goes on without a connection.</p>
      <BodyPart />
      <MixPart v-if="practice.step.value && !practice.isGuest" />
      <PracticeLog />
    </aside>
    <PracticePlayer v-if="practice.isOpen.value && practice.step.value" />
  </main>
</template>

<style scoped>
.practice {
  display: grid;
  grid-template-columns: 14rem minmax(0, 1fr) 19rem;
}
.targets,
.plan,
.beside {
  overflow-y: auto;
  padding: var(--gap-4);
}
.targets {
  padding-left: var(--frame-edge);
  border-right: 1px solid var(--line);
}
.beside {
  display: grid;
  gap: var(--gap-6);
  align-content: start;
  padding-right: var(--frame-edge);
  border-left: 1px solid var(--line);
}
@media (max-width: 900px) {
  .practice {
    display: block;
  }
  .targets,
  .beside {
    padding: var(--gap-4);
    border: 0;
  }
}
</style>
