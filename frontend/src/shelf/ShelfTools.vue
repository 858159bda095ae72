<script setup lang="ts">
/** What of the shelf is looked at: words, order, what is left, tags, pages. */
import { onKeyStroke } from '@vueuse/core'
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import type { Shelf } from '@/api/client'
import ChoiceField from '@/base/ChoiceField.vue'
import { type Left, LEFTS, type Sort, SORTS } from './useShelf'

const props = defineProps<{ shelf: Shelf }>()
const search = defineModel<string>('search', { required: true })
const sort = defineModel<Sort>('sort', { required: true })
const left = defineModel<Left>('left', { required: true })
const tag = defineModel<string>('tag', { required: true })
const page = defineModel<number>('page', { required: true })
const many = computed(() => (props.shelf.count === 1 ? 'one song' : `${props.shelf.count} songs`))
const field = ref<{ $el: HTMLInputElement }>()
onKeyStroke('/', (event) => {
  if ((event.target as HTMLElement).closest('input, textarea, [role=combobox]')) return
  event.preventDefault()
  field.value?.$el.focus()
})
</script>

<template>
  <div class="tools" role="search">
    <label class="search">
      <span class="visually-hidden">Search songs</span>
      <InputText ref="field" v-model="search" type="search" maxlength="100" placeholder="title, performer, tempo, feel, groove, tag" fluid data-test="search" />
    </label>
    <ChoiceField v-model="sort" :options="SORTS" label="Order" />
    <ChoiceField v-model="left" :options="LEFTS" label="What is left to check" />
    <span class="quiet" role="status">{{ many }}</span>
    <p v-if="shelf.tags.length" class="tags" role="group" aria-label="Tags">
      <button
        v-for="one in shelf.tags"
        :key="one.name"
        type="button"
        class="act"
        :aria-pressed="tag === one.name"
        @click="tag = tag === one.name ? '' : one.name"
      >
        {{ one.name }} <small>{{ one.count }}</small>
      </button>
    </p>
    <p v-if="shelf.pages > 1" class="pages">
      <button type="button" class="act" :disabled="page <= 1" @click="page -= 1">Before</button>
      page {{ shelf.page }} of {{ shelf.pages }}
      <button type="button" class="act" :disabled="page >= shelf.pages" @click="page += 1">After</button>
    </p>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-3);
  align-items: center;
}
.search {
  flex: 1;
  min-width: 16rem;
}
.tags,
.pages {
  display: flex;
  flex-wrap: wrap;
  gap: var(--gap-2);
  align-items: center;
}
.tags {
  width: 100%;
}
.tags [aria-pressed='true'] {
  border-color: var(--accent);
  background: var(--accent-soft);
}
small {
  color: var(--ink-soft);
}
</style>
