<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, onMounted, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { Problem } from '@/api/client'
import { useSession } from './useSession'

const { session, load, signIn, signUp, enterDemo } = useSession()
const route = useRoute()
const router = useRouter()
const username = ref('')
const password = ref('')
const email = ref('')
const making = ref(false)
const busy = ref(false)
const problem = ref('')

onMounted(async () => {
  if ((await load()) === null) problem.value = 'Orchesis does not answer. Is it still running?'
})

const ready = computed(() => username.value.trim() !== '' && password.value !== '')

async function enter(how: () => Promise<void>): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await how()
    const to = route.query.to
    await router.push(typeof to === 'string' && to.startsWith('/') && !to.startsWith('//') ? to : '/songs')
  } catch (error) {
    problem.value = error instanceof Problem ? error.message : String(error)
  } finally {
    busy.value = false
  }
}

/** Whoever was sent an invitation comes here first; it lets him make an account where that needs one. */
const invitation = computed(() => /^\/join\/([\w-]+)$/.exec(String(route.query.to ?? ''))?.[1] ?? '')
const submit = () =>
  enter(() => {
    const name = username.value.trim()
    return making.value ? signUp(name, password.value, email.value.trim(), invitation.value) : signIn(name, password.value)
  })
</script>

<template>
  <main class="door">
    <section class="words">
      <p class="brand">Orchesis</p>
      <h1>Learn the drum part of any song.</h1>
      <p class="lead">
        Drop a recording in. Orchesis listens, lays the bars under it, and writes what each hand and
        foot plays. You correct what it misheard; then you slow it down, loop it, and play.
      </p>
    </section>
    <form class="sheet" @submit.prevent="submit">
      <template v-if="session?.demo_available">
        <Button
          type="button"
          label="Try the demo songs"
          :disabled="busy"
          data-test="demo"
          @click="enter(enterDemo)"
        />
        <p class="or"><span>or with your own account</span></p>
      </template>
      <label>
        Name
        <InputText v-model="username" autocomplete="username" name="username" />
      </label>
      <label>
        Password
        <InputText
          v-model="password"
          type="password"
          name="password"
          :autocomplete="making ? 'new-password' : 'current-password'"
        />
      </label>
      <label v-if="making">
        Email (optional, for a reset link)
        <InputText v-model="email" type="email" autocomplete="email" name="email" />
      </label>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <Button
        type="submit"
        severity="secondary"
        variant="outlined"
        :label="making ? 'Make the account' : 'Sign in'"
        :disabled="!ready || busy"
      />
      <button v-if="session?.registration !== 'closed'" type="button" class="turn" @click="making = !making">
        {{ making ? 'I have an account' : 'Create account' }}
      </button>
      <RouterLink v-if="!making" to="/forgot" class="turn">Forgot password?</RouterLink>
    </form>
  </main>
</template>

<style scoped>
.door {
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) minmax(0, 24rem);
  gap: 4rem;
  align-items: center;
  max-width: 68rem;
  min-height: 100vh;
  margin: 0 auto;
  padding: 2rem var(--frame-edge);
}
.brand {
  margin-bottom: 2rem;
  font: italic 500 2.2rem/1 var(--serif);
}
h1 {
  font-size: 2.5rem;
  text-wrap: balance;
}
.lead {
  max-width: 34rem;
  margin-top: 1.25rem;
  color: var(--ink-soft);
  font-size: var(--size-lead);
}
.sheet {
  display: grid;
  gap: var(--gap-4);
  padding: 2rem;
  border: 1px solid var(--line);
  border-radius: 14px;
  background: var(--paper-raised);
}
label {
  display: grid;
  gap: var(--gap-1);
}
.or {
  display: flex;
  gap: var(--gap-3);
  align-items: center;
  color: var(--ink-soft);
  font-size: var(--size-small);
}
.or::before,
.or::after {
  content: '';
  flex: 1;
  border-top: 1px solid var(--line);
}
.problem {
  color: var(--accent);
}
.turn {
  justify-self: center;
  border: 0;
  background: none;
  color: var(--ink-soft);
  text-decoration: underline;
  cursor: pointer;
}
@media (max-width: 760px) {
  .door {
    grid-template-columns: minmax(0, 1fr);
    gap: 2rem;
  }
  h1 {
    font-size: 1.9rem;
  }
}
</style>
