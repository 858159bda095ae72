<script setup lang="ts">
/** The head of a page that is no song's: the name of the program, and the ways from here. */
import { RouterLink } from 'vue-router'
import BrandMark from './BrandMark.vue'
</script>

<template>
  <header>
    <BrandMark />
    <slot><RouterLink to="/songs">Songs</RouterLink></slot>
  </header>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-1) var(--gap-4);
  justify-content: space-between;
  align-items: center;
  padding: var(--gap-3) var(--frame-edge);
  border-bottom: 1px solid var(--line);
}
</style>
