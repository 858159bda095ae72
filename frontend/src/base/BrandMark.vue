<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <RouterLink to="/songs" class="brand" aria-label="Orchesis: to the shelf of songs">Orchesis</RouterLink>
</template>

<style scoped>
.brand {
  font: italic 500 1.6rem/1 var(--serif);
  letter-spacing: 0.02em;
  color: var(--ink);
  text-decoration: none;
}
</style>
