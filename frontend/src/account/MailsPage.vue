<script setup lang="ts">
/** Mails that this machine keeps because no server is configured that would send them. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import PageHead from '@/base/PageHead.vue'

const query = useQuery({ queryKey: ['mails'], queryFn: () => taken(api.GET('/api/mails')), retry: false })
const mails = computed(() => query.data.value ?? [])
/** Links in a mail can be followed. */
const pieces = (text: string) => text.split(/(https?:\/\/\S+)/)
</script>

<template>
  <PageHead />
  <main class="mails">
    <h1>Mails kept on this machine</h1>
    <p v-if="query.error.value" role="alert">{{ problemWords(query.error.value) }}</p>
    <p v-else class="quiet">No mail server is configured, so what would have been sent is here. Only this machine sees it.</p>
    <p v-if="query.isSuccess.value && !mails.length" class="quiet">None yet.</p>
    <article v-for="(mail, index) in mails" :key="index">
      <h2>{{ mail.subject }}</h2>
      <p class="quiet">to {{ mail.to }}</p>
      <p class="text">
        <template v-for="(piece, place) in pieces(mail.text)" :key="place"><a v-if="place % 2" :href="piece">{{ piece }}</a><template v-else>{{ piece }}</template></template>
      </p>
    </article>
  </main>
</template>

<style scoped>
.mails {
  display: grid;
  gap: var(--gap-4);
  max-width: 44rem;
  margin: 2rem auto;
  padding: 0 var(--frame-edge);
}
article {
  display: grid;
  gap: var(--gap-2);
  padding-top: var(--gap-4);
  border-top: 1px solid var(--line);
}
h2 {
  font-size: 1.25rem;
}
.text {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
</style>
