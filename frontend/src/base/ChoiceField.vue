<script setup lang="ts" generic="T extends string | number | boolean">
/** One of a few: a list that opens, with the keys and roles that such lists have. */
import Select from 'primevue/select'
import { ref } from 'vue'

interface Choice {
  value: T
  label: string
  hint?: string
}

defineProps<{
  options: readonly Choice[]
  /** What is chosen here, for those who do not see it. */
  label: string
  disabled?: boolean
}>()
const chosen = defineModel<T>({ required: true })

/** A choice is called as it reads, hint and all; the stops before and after the list are not for Tab. */
const parts = {
  option: ({ context }: { context: { option: Choice } }) => ({
    'aria-label': [context.option.label, context.option.hint].filter(Boolean).join(' '),
  }),
  hiddenFirstFocusableEl: { tabindex: -1 },
  hiddenLastFocusableEl: { tabindex: -1 },
}

/** Once something was chosen the list gives the keys back to the page: Space plays, and does not open it again. */
const root = ref<{ $el: HTMLElement }>()
let isDone = false
function hidden(): void {
  // Chosen by key, the list takes the focus once more after it has closed.
  if (isDone) setTimeout(() => root.value?.$el.querySelector<HTMLElement>('[role=combobox]')?.blur())
  isDone = false
}
</script>

<template>
  <Select
    ref="root"
    v-model="chosen"
    :options="[...options]"
    option-label="label"
    option-value="value"
    :aria-label="label"
    :disabled="disabled"
    size="small"
    scroll-height="28rem"
    class="choice"
    :pt="parts"
    @change="isDone = true"
    @hide="hidden"
  >
    <template #option="{ option }">
      <span class="option">
        {{ option.label }} <small v-if="option.hint">{{ option.hint }}</small>
      </span>
    </template>
  </Select>
</template>

<style scoped>
.option {
  display: grid;
  line-height: 1.25;
}
small {
  color: var(--ink-soft);
  font-size: var(--size-small);
}
</style>
