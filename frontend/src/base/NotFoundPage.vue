<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <main class="lost">
    <h1>Nothing is here</h1>
    <p>This address leads to no page. <RouterLink to="/songs">To the shelf of songs</RouterLink></p>
  </main>
</template>

<style scoped>
.lost {
  max-width: 32rem;
  margin: 20vh auto;
  padding: 0 var(--frame-edge);
}
</style>
