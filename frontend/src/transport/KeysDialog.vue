<script setup lang="ts">
/** All keys of the stage one is in. */
import Dialog from 'primevue/dialog'
import { computed } from 'vue'
import { keyGroups, type KeyUse } from '@/song/keyUse'

const props = defineProps<{ keys: readonly KeyUse[] }>()
const visible = defineModel<boolean>('visible', { required: true })
const groups = computed(() => keyGroups(props.keys))
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    :pt="{ content: { tabindex: 0 } }"
    dismissable-mask
    header="Keys of this page"
    :style="{ width: '52rem', maxWidth: '94vw' }"
  >
    <div class="groups">
      <section v-for="group in groups" :key="group.name">
        <h3>{{ group.name }}</h3>
        <dl>
          <template v-for="item in group.keys" :key="item.key">
            <dt><kbd>{{ item.key }}</kbd></dt>
            <dd>{{ item.does }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </Dialog>
</template>

<style scoped>
.groups {
  columns: 15rem;
  column-gap: var(--gap-6);
}
section {
  margin-bottom: var(--gap-4);
  break-inside: avoid;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: var(--gap-2) var(--gap-3);
  align-items: center;
}
dd {
  margin: 0;
}
</style>
