<script setup lang="ts">
/** What an invitation opens: joining a band or a class. */
import { useQueryClient } from '@tanstack/vue-query'
import { onMounted, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, taken } from '@/api/client'
import { problemWords } from '@/api/words'
import BrandMark from '@/base/BrandMark.vue'
import { GROUPS_KEY } from './useGroups'

const props = defineProps<{ token: string }>()
const router = useRouter()
const client = useQueryClient()
const problem = ref('')
onMounted(async () => {
  try {
    const group = await taken(api.POST('/api/groups/join', { body: { token: props.token } }))
    await client.invalidateQueries({ queryKey: GROUPS_KEY })
    await router.replace(`/people/${group.id}`)
  } catch (failure) {
    problem.value = problemWords(failure)
  }
})
</script>

<template>
  <main class="stopped">
    <p><BrandMark /></p>
    <template v-if="problem">
      <h1>This invitation does not open</h1>
      <p class="lead" role="alert">{{ problem }}</p>
      <p><RouterLink to="/songs">To the shelf of songs</RouterLink></p>
    </template>
    <p v-else class="quiet" role="status">Joining …</p>
  </main>
</template>

<style scoped>
.stopped {
  display: grid;
  gap: var(--gap-4);
  align-content: center;
  max-width: 40rem;
  min-height: 90vh;
  margin: 0 auto;
  padding: 2rem var(--frame-edge);
}
.lead {
  font-size: var(--size-lead);
}
</style>
