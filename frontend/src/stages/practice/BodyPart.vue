<script setup lang="ts">
/** Ears and hands: said where one begins to play, not in a help page. */
import { computed } from 'vue'
import { useOpenSong } from '@/song/openSong'

const { practice } = useOpenSong()
const body = computed(() => practice.overview.value?.body ?? null)
const share = computed(() => Math.round(100 * (body.value?.dose ?? 0)))
</script>

<template>
  <section v-if="body" aria-label="Ears and hands">
    <h3>Before you play</h3>
    <p>{{ body.warm_up_words }}</p>
    <p :class="{ full: share >= 100 }">
      Today: {{ Math.round(body.minutes_today) }} min, {{ share }} % of what ears may have in a day.
      <template v-if="share < 100">At {{ Math.round(body.level_db) }} dB(A) there are {{ Math.round(body.minutes_left) }} min left.</template>
      <template v-else>Rest them until tomorrow.</template>
    </p>
    <p class="quiet">{{ body.rule_words }}</p>
    <p class="stop">{{ body.stop_words }}</p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--gap-2);
  font-size: var(--size-small);
}
.full,
.stop {
  color: var(--accent);
}
</style>
