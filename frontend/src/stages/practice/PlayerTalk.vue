<script setup lang="ts">
/** What sounds, what is called, what the kit answered, what to watch for. */
import { computed, ref } from 'vue'
import { LIMB_NAMES } from '@/api/vocabulary'
import { useOpenSong } from '@/song/openSong'
import KitPart from './KitPart.vue'
import SoundPart from './SoundPart.vue'
import type { PracticeControls } from './useControls'
import type { PracticePads } from './usePads'
import type { PracticeRun } from './useRun'

defineProps<{ run: PracticeRun; pads: PracticePads; controls: PracticeControls; told: readonly string[] }>()
const { practice } = useOpenSong()
const step = computed(() => practice.step.value!)
const panel = ref<'' | 'sound' | 'kit'>('')
</script>

<template>
  <section class="talk">
    <p class="chips">
      <span class="label">The kit plays</span>
      <button
        v-for="(limb, index) in run.limbs.value"
        :key="limb"
        type="button"
        class="act"
        :aria-pressed="!run.muted.value.has(limb)"
        :data-limb="limb"
        @click="run.toggleLimb(limb)"
      >
        {{ LIMB_NAMES[limb] }} <kbd>{{ index + 1 }}</kbd>
      </button>
      <template v-if="run.choices.value.length">
        <button type="button" class="act" :aria-pressed="run.varied.value !== null" @click="run.vary()">New variation <kbd>M</kbd></button>
        <button type="button" class="act" data-test="call-next" @click="run.callNext()">Surprise note <kbd>N</kbd></button>
      </template>
      <button v-if="run.varied.value" type="button" class="act" data-test="as-it-is" @click="run.asItIs()">As it is</button>
      <button type="button" class="act" :aria-expanded="panel === 'sound'" data-test="sound" @click="panel = panel === 'sound' ? '' : 'sound'">What sounds</button>
      <button type="button" class="act" :aria-expanded="panel === 'kit'" data-test="kit" @click="panel = panel === 'kit' ? '' : 'kit'">Kit and pedals</button>
    </p>
    <SoundPart v-if="panel === 'sound'" :run="run" />
    <KitPart v-if="panel === 'kit'" :pads="pads" :controls="controls" />
    <template v-if="run.varied.value">
      <p class="told" role="status" data-test="called">
        {{ run.called.value.length ? `Now ${run.called.value.join(', ')}.` : 'Now the core alone.' }}
      </p>
      <p class="chips" role="group" aria-label="Random notes">
        <button
          v-for="item in run.choices.value"
          :key="item.name"
          type="button"
          class="act"
          :aria-pressed="run.called.value.includes(item.name)"
          @click="run.callOne(item.name)"
        >
          {{ item.name }}
        </button>
      </p>
    </template>
    <p v-if="told.length" class="told" role="status" data-test="told">{{ told.join(' ') }}</p>
    <p v-else-if="step.trap"><span class="label">Watch for</span> {{ step.trap }}</p>
  </section>
</template>

<style scoped>
.talk {
  padding: 0 1.75rem;
  display: grid;
  gap: var(--gap-2);
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  align-items: center;
}
.act {
  background: var(--paper-raised);
}
.told {
  color: var(--accent);
  font-size: var(--size-lead);
}
@media (max-width: 900px) {
  .talk {
    padding: 0 var(--gap-3);
  }
  .chips kbd {
    display: none;
  }
}
</style>
