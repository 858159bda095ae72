<script setup lang="ts">
/** The link of a mail that asks whether an address is somebody's. */
import { onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import BrandMark from '@/base/BrandMark.vue'

const props = defineProps<{ token: string }>()
const isDone = ref(false)
const problem = ref('')

onMounted(async () => {
  try {
    // The forgery check needs its cookie, which a first visitor has not got yet.
    await taken(api.GET('/api/session'))
    await taken(api.POST('/api/session/email', { body: { token: props.token } }))
    isDone.value = true
  } catch (failure) {
    problem.value = problemWords(failure)
  }
})
</script>

<template>
  <main class="confirm">
    <p><BrandMark /></p>
    <template v-if="isDone">
      <h1>Email confirmed</h1>
      <p role="status">From now on a forgotten password can be reset by email.</p>
    </template>
    <template v-else-if="problem">
      <h1>This link does not work</h1>
      <p role="alert">{{ problem }}</p>
    </template>
    <p v-else class="quiet" role="status">Confirming …</p>
    <p><RouterLink to="/account">Your account</RouterLink></p>
  </main>
</template>

<style scoped>
.confirm {
  display: grid;
  gap: var(--gap-4);
  align-content: center;
  justify-items: start;
  max-width: 34rem;
  min-height: 90vh;
  margin: 0 auto;
  padding: 2rem var(--frame-edge);
}
</style>
