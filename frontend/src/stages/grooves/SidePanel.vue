<script setup lang="ts">
/** Beside the stack: the note at the cursor, the count, the kin; one at a time. */
import Tab from 'primevue/tab'
import TabList from 'primevue/tablist'
import TabPanel from 'primevue/tabpanel'
import TabPanels from 'primevue/tabpanels'
import Tabs from 'primevue/tabs'
import { useOpenSong } from '@/song/openSong'
import KinPanel from './KinPanel.vue'
import NotePanel from './NotePanel.vue'
import SayPanel from './SayPanel.vue'

const { panelTab } = useOpenSong()
</script>

<template>
  <div class="beside">
    <Tabs v-model:value="panelTab" lazy>
      <TabList aria-label="Beside the stack">
        <Tab value="note">Note</Tab>
        <Tab value="count">Count</Tab>
        <Tab value="kin">Kin</Tab>
      </TabList>
      <TabPanels>
        <TabPanel value="note"><NotePanel /></TabPanel>
        <TabPanel value="count"><SayPanel /></TabPanel>
        <TabPanel value="kin"><KinPanel /></TabPanel>
      </TabPanels>
    </Tabs>
  </div>
</template>

<style scoped>
.beside {
  contain: content;
  align-self: start;
  min-height: 0;
  max-height: 100%;
  padding: 0.5rem 1rem 0.75rem;
  border: 1px solid var(--line);
  border-radius: 12px;
  background: var(--paper-raised);
  overflow-y: auto;
}
</style>
