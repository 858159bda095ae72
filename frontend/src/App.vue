<script setup lang="ts">
import { RouterView } from 'vue-router'
import SignInAgain from './session/SignInAgain.vue'
</script>

<template>
  <RouterView />
  <SignInAgain />
</template>
