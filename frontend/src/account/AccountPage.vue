<script setup lang="ts">
/** One's own account: where mails go, the password, where one is signed in, all of it to take along, the end. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, taken } from '@/api/client'
import { useDownload } from '@/api/download'
import { problemWords } from '@/api/words'
import PageHead from '@/base/PageHead.vue'
import { useSession } from '@/session/useSession'

const router = useRouter()
const client = useQueryClient()
const { forget } = useSession()
const { making, problem: packing, download } = useDownload()
const KEY = ['account']
const query = useQuery({ queryKey: KEY, queryFn: () => taken(api.GET('/api/account')) })
const account = computed(() => query.data.value ?? null)
const problem = ref('')
const done = ref('')
const email = ref('')
watch(account, (found) => (email.value = found?.email ?? ''), { immediate: true })
const old = ref('')
const fresh = ref('')
const last = ref('')
const day = (iso: string) => new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'long' })

async function ask(what: () => Promise<unknown>, words: string): Promise<boolean> {
  problem.value = done.value = ''
  try {
    await what()
    done.value = words
    return true
  } catch (failure) {
    problem.value = problemWords(failure)
    return false
  } finally {
    await client.invalidateQueries({ queryKey: KEY })
  }
}
const most = (limit: number) => (limit ? `of ${limit.toLocaleString()}` : '')
const saveEmail = () =>
  ask(
    () => taken(api.PATCH('/api/account', { body: { email: email.value.trim() } })),
    email.value.trim() ? 'Check your email: the link in it confirms the address.' : 'No email address is kept.',
  )
async function changePassword(): Promise<void> {
  const body = { old: old.value, new: fresh.value }
  if (await ask(() => taken(api.POST('/api/account/password', { body })), 'Your password is another one now; other browsers are signed out.')) old.value = fresh.value = ''
}
const signOutElsewhere = () => ask(() => taken(api.DELETE('/api/account/sessions')), 'Signed out everywhere but here.')
async function remove(): Promise<void> {
  if (!(await ask(() => taken(api.POST('/api/account/remove', { body: { password: last.value } })), ''))) return
  await forget()
  await router.push('/sign-in')
}
</script>

<template>
  <PageHead />
  <main class="account">
    <h1>{{ account?.is_demo ? 'Demo visit' : (account?.name ?? 'Account') }}</h1>
    <Message v-if="problem || query.error.value" severity="error">{{ problem || problemWords(query.error.value) }}</Message>
    <p v-if="done" role="status" class="done">{{ done }}</p>
    <template v-if="account">
      <p v-if="account.is_demo" class="quiet">This is a demo account. It has no password and cannot be changed.{{ account.visit_ends_at ? ` Its songs, and all you do with them, are deleted on ${day(account.visit_ends_at)}.` : '' }}</p>
      <template v-else>
        <form @submit.prevent="saveEmail">
          <h2>Email</h2>
          <p class="quiet">Used to reset a forgotten password, and for nothing else.</p>
          <p v-if="account.unproved_email" role="status" data-test="unproved">A mail is on its way to {{ account.unproved_email }}. The address counts once its link has been opened.</p>
          <label><span class="visually-hidden">Email address</span><InputText v-model="email" type="email" maxlength="200" autocomplete="email" placeholder="none yet" /></label>
          <Button type="submit" label="Save email" :disabled="email.trim() === account.email" />
        </form>
        <form @submit.prevent="changePassword">
          <h2>Another password</h2>
          <label>The one you have <InputText v-model="old" type="password" name="old" autocomplete="current-password" /></label>
          <label>The new one <InputText v-model="fresh" type="password" name="new" autocomplete="new-password" /></label>
          <Button type="submit" label="Change it" :disabled="!old || !fresh" />
        </form>
      </template>
      <section>
        <h2>Signed in</h2>
        <ul>
          <li v-for="one in account.sessions" :key="one.id">
            {{ one.browser }} <span class="quiet">since {{ day(one.created_at) }}{{ one.is_this ? ', here' : '' }}</span>
          </li>
        </ul>
        <button v-if="!account.is_demo" type="button" class="act" :disabled="account.sessions.length < 2" @click="signOutElsewhere">Sign out everywhere but here</button>
      </section>
      <section>
        <h2>Storage and limits</h2>
        <ul data-test="used">
          <li>{{ account.used.songs }} songs {{ most(account.used.most_songs) }}</li>
          <li>{{ account.used.megabytes }} MB of recordings {{ most(account.used.most_megabytes) }}</li>
          <li>{{ Math.round(account.used.minutes) }} minutes listened to since yesterday {{ most(account.used.most_minutes) }}</li>
        </ul>
        <p v-if="account.used.keep_days" class="quiet">A recording is kept for {{ account.used.keep_days }} days after the last change of its song. The chart stays.</p>
      </section>
      <section>
        <h2>Your data</h2>
        <p class="quiet">Each song as a bundle that any Orchesis takes, what you practised as a table, kits and rhythms of yours.</p>
        <p><Button label="Download everything" variant="outlined" :loading="making !== ''" @click="download('/api/account/export', 'orchesis.zip')" /></p>
        <p v-if="packing" class="problem" role="alert">{{ packing }}</p>
      </section>
      <form v-if="!account.is_demo" class="end" @submit.prevent="remove">
        <h2>Remove this account</h2>
        <p class="quiet">Songs, recordings, edits and log go with it. This cannot be undone: save all of it first.</p>
        <label>Your password, once more <InputText v-model="last" type="password" name="last" autocomplete="current-password" /></label>
        <Button type="submit" label="Delete account and all songs" severity="danger" variant="outlined" :disabled="!last" />
      </form>
    </template>
  </main>
</template>

<style scoped>
.account {
  display: grid;
  gap: 2.25rem;
  max-width: 40rem;
  margin: 2rem auto;
  padding: 0 var(--frame-edge);
}
h2 {
  font-size: 1.25rem;
}
form,
section {
  display: grid;
  gap: var(--gap-3);
  justify-items: start;
}
label {
  display: grid;
  gap: var(--gap-1);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.done {
  color: var(--accent);
}
.end {
  padding-top: var(--gap-6);
  border-top: 1px solid var(--line);
}
</style>
