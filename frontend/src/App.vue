<script setup lang="ts">
import ConfirmDialog from 'primevue/confirmdialog'
import Toast from 'primevue/toast'
import { RouterView } from 'vue-router'
import SignInAgain from './session/SignInAgain.vue'
</script>

<template>
  <RouterView />
  <SignInAgain />
  <Toast position="bottom-right" />
  <ConfirmDialog :style="{ width: '28rem', maxWidth: '94vw' }" />
</template>
