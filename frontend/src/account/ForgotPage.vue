<script setup lang="ts">
/** A password that was forgotten: a mail is asked for, or its link sets another. */
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import BrandMark from '@/base/BrandMark.vue'

/** What the link of the mail says; without it a mail is asked for. */
const props = defineProps<{ number?: string; token?: string }>()
const router = useRouter()
const name = ref('')
const password = ref('')
const problem = ref('')
const isSent = ref(false)

async function send(): Promise<void> {
  problem.value = ''
  try {
    await taken(api.GET('/api/session'))
    if (props.number && props.token) {
      await taken(api.POST('/api/session/reset', { body: { number: props.number, token: props.token, password: password.value } }))
      await router.push('/sign-in')
      return
    }
    await taken(api.POST('/api/session/forgot', { body: { name: name.value.trim() } }))
    isSent.value = true
  } catch (failure) {
    problem.value = problemWords(failure)
  }
}
</script>

<template>
  <main class="forgot">
    <p><BrandMark /></p>
    <form v-if="props.token" @submit.prevent="send">
      <h1>A new password</h1>
      <label>The new one <InputText v-model="password" type="password" name="new" autocomplete="new-password" /></label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <Button type="submit" label="Set it" :disabled="!password" />
    </form>
    <template v-else-if="isSent">
      <h1>Check your email</h1>
      <p role="status">If there is an account of that name with an address for mails, one is on its way. Its link is good for three days.</p>
    </template>
    <form v-else @submit.prevent="send">
      <h1>Reset password</h1>
      <p class="quiet">Whoever gave an address for mails gets one with a link by which the password is set anew. Others ask whoever runs this Orchesis.</p>
      <label>Name or mail <InputText v-model="name" maxlength="150" autocomplete="username" /></label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <Button type="submit" label="Send me a mail" :disabled="!name.trim()" />
    </form>
    <p><RouterLink to="/sign-in">Back to sign in</RouterLink></p>
  </main>
</template>

<style scoped>
.forgot,
form {
  display: grid;
  gap: var(--gap-4);
  justify-items: start;
}
.forgot {
  align-content: center;
  max-width: 34rem;
  min-height: 90vh;
  margin: 0 auto;
  padding: 2rem var(--frame-edge);
}
label {
  display: grid;
  gap: var(--gap-1);
}
.problem {
  color: var(--accent);
}
</style>
