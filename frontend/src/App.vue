<script setup lang="ts">
import ConfirmDialog from 'primevue/confirmdialog'
import { RouterView } from 'vue-router'
import SignInAgain from './session/SignInAgain.vue'
</script>

<template>
  <RouterView />
  <SignInAgain />
  <ConfirmDialog :style="{ width: '28rem', maxWidth: '94vw' }" />
</template>
