<script setup lang="ts">
/** Grooves: the bar stack, as high as the window has room. */
import BarStack from './BarStack.vue'
</script>

<template>
  <main class="body">
    <BarStack class="bars" />
  </main>
</template>

<style scoped>
.bars {
  height: 100%;
}
</style>
