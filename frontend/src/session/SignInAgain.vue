<script setup lang="ts">
/** The session has ended under an open page: sign in again, right here, and nothing is lost. */
import { useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { Problem } from '@/api/client'
import { useSession } from './useSession'

const { session, signedOut, signIn, enterDemo } = useSession()
const route = useRoute()
const queries = useQueryClient()
const password = ref('')
const busy = ref(false)
const problem = ref('')

const visible = computed(() => signedOut.value && !route.meta.open)
const name = computed(() => session.value?.username ?? '')

watch(visible, () => {
  password.value = ''
  problem.value = ''
})

async function enter(how: () => Promise<void>): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await how()
    await queries.invalidateQueries()
  } catch (error) {
    problem.value = error instanceof Problem ? error.message : String(error)
  } finally {
    busy.value = false
  }
}

/** To somebody else's songs: a fresh page, which knows nothing of this one's account. */
function leave(): void {
  window.location.assign('/sign-in')
}
</script>

<template>
  <Dialog
    :visible="visible"
    modal
    :closable="false"
    :close-on-escape="false"
    header="You have been signed out"
    :style="{ width: '26rem', maxWidth: '94vw' }"
    data-test="signed-out"
  >
    <p>
      It happened in another tab, or a long time has passed. What you changed here is kept on this
      device, and is stored as soon as you are back.
    </p>
    <div v-if="session?.is_demo" class="doors">
      <Button label="Enter the demo again" autofocus :disabled="busy" data-test="demo-again" @click="enter(enterDemo)" />
      <Button label="An account of my own" variant="text" severity="secondary" :disabled="busy" @click="leave" />
    </div>
    <form v-else @submit.prevent="enter(() => signIn(name, password))">
      <input type="text" name="username" autocomplete="username" :value="name" hidden readonly />
      <label>
        Password of {{ name }}
        <InputText
          v-model="password"
          type="password"
          name="password"
          autocomplete="current-password"
          autofocus
          data-test="password-again"
        />
      </label>
      <div class="doors">
        <Button type="submit" label="Sign in again" :disabled="busy || password === ''" data-test="again" />
        <Button label="Another account" variant="text" severity="secondary" :disabled="busy" @click="leave" />
      </div>
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </Dialog>
</template>

<style scoped>
p {
  margin: 0 0 var(--gap-4);
}
form,
label {
  display: grid;
  gap: var(--gap-2);
}
.doors {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  margin-top: var(--gap-4);
}
.problem {
  margin: var(--gap-3) 0 0;
  color: var(--accent);
}
</style>
