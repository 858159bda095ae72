<script setup lang="ts">
/** Links for people without an account: what they open, how often they were opened, taking them back. */
import { useClipboard } from '@vueuse/core'
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import type { ShareLink } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { LEVELS, READINGS } from '@/stages/chart/options'
import { type LinksOf, useLinks } from './useSharing'

const props = defineProps<{ of: LinksOf; hasRecording: boolean; /** How the list of readings begins. */ first?: string }>()
const { links, problem, make, isMaking, revoke } = useLinks(props.of)
const { copy, copied, text } = useClipboard({ legacy: true, copiedDuring: 4000 })

const DAY_MS = 86_400_000
const LASTS = [
  { value: 0, label: 'until I take it back' },
  { value: 7, label: 'for a week' },
  { value: 30, label: 'for a month' },
]
const reading = ref(props.first ?? 'essence')
const level = ref('all')
const lasts = ref(0)
const words = ref('')
const withAudio = ref(false)
const openLinks = computed(() => links.value.filter((link) => link.state === 'open'))
const closed = computed(() => links.value.length - openLinks.value.length)
const addressOf = (link: ShareLink) => `${location.origin}${link.path}`

async function makeLink(): Promise<void> {
  const expires = lasts.value ? new Date(Date.now() + lasts.value * DAY_MS).toISOString() : null
  const made = await make({
    words: words.value.trim(),
    with_audio: withAudio.value && props.hasRecording,
    reading: reading.value as never,
    level: level.value as never,
    expires_at: expires,
  }).catch(() => null)
  if (!made) return
  words.value = ''
  await copy(addressOf(made))
}

function about(link: ShareLink): string {
  const what = READINGS.find((item) => item.value === link.reading)?.label ?? link.reading
  const sound = link.with_audio ? 'with the recording' : 'the kit plays'
  const until = link.expires_at ? `until ${new Date(link.expires_at).toLocaleDateString(undefined, { day: 'numeric', month: 'long' })}` : ''
  const opened = link.opened === 0 ? 'not opened yet' : link.opened === 1 ? 'opened once' : `opened ${link.opened} times`
  return [what, sound, until, opened].filter(Boolean).join(' · ')
}
</script>

<template>
  <section aria-labelledby="share-links">
    <h3 id="share-links">Share by link</h3>
    <p class="quiet">It opens {{ 'song' in of ? 'the chart and the player of this song' : 'charts and players of all songs of the set' }}, on a phone too; nothing else of yours.</p>
    <form class="new" @submit.prevent="makeLink">
      <label class="wide">Note to yourself <InputText v-model="words" maxlength="120" placeholder="Saturday's band" data-test="link-words" /></label>
      <div class="field">Opens with <ChoiceField v-model="reading" :options="READINGS.map((item) => ({ value: item.value as string, label: item.label }))" label="Opens with" /></div>
      <div class="field">Notes <ChoiceField v-model="level" :options="LEVELS.map((item) => ({ value: item.value as string, label: item.label }))" label="Notes" /></div>
      <div class="field">Open <ChoiceField v-model="lasts" :options="LASTS" label="How long it opens" /></div>
      <label v-if="hasRecording" class="tick wide">
        <Checkbox v-model="withAudio" binary input-id="with-audio" />
        <span>With the recording. I may pass it on to those who get the link.</span>
      </label>
      <Button type="submit" label="Make a link and copy it" :disabled="isMaking" data-test="make-link" />
    </form>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <ul v-if="openLinks.length">
      <li v-for="link in openLinks" :key="link.id">
        <p class="what">
          <strong>{{ link.words || 'Link' }}</strong> <span class="quiet beside">{{ about(link) }}</span>
          <input class="address" readonly :value="addressOf(link)" :aria-label="`Address of ${link.words || 'the link'}`" data-test="address" @focus="($event.target as HTMLInputElement).select()" />
        </p>
        <button type="button" class="act" @click="copy(addressOf(link))">{{ copied && text === addressOf(link) ? 'Copied' : 'Copy' }}</button>
        <button type="button" class="act" :aria-label="`Take back: ${link.words || 'the link'}`" @click="revoke(link.id)">Take back</button>
      </li>
    </ul>
    <p v-if="closed" class="quiet">{{ closed === 1 ? 'One link opens' : `${closed} links open` }} nothing any more.</p>
  </section>
</template>

<style scoped>
section,
ul {
  display: grid;
  gap: var(--gap-3);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.new {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-3) var(--gap-4);
  align-items: end;
}
.field,
.new label {
  display: grid;
  gap: var(--gap-1);
}
.new .wide {
  width: 100%;
}
.new .tick {
  display: flex;
  gap: var(--gap-2);
  align-items: center;
}
li {
  display: flex;
  gap: var(--gap-3);
  align-items: center;
  padding-top: var(--gap-2);
  border-top: 1px solid var(--line);
}
.what {
  flex: 1;
  min-width: 0;
}
.beside {
  margin-left: var(--gap-1);
}
.address {
  display: block;
  width: 100%;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font: inherit;
  font-size: var(--size-small);
  text-overflow: ellipsis;
}
.problem {
  color: var(--accent);
}
</style>
