<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <main class="lost">
    <h1>Page not found</h1>
    <p><RouterLink to="/songs">Go to your songs</RouterLink></p>
  </main>
</template>

<style scoped>
.lost {
  max-width: 32rem;
  margin: 20vh auto;
  padding: 0 var(--frame-edge);
}
</style>
