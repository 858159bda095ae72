<script setup lang="ts">
/** What is there on demand: a heading that opens it. */
import Accordion from 'primevue/accordion'
import AccordionContent from 'primevue/accordioncontent'
import AccordionHeader from 'primevue/accordionheader'
import AccordionPanel from 'primevue/accordionpanel'

defineProps<{ heading: string }>()
</script>

<template>
  <Accordion class="folded" lazy>
    <AccordionPanel value="0">
      <AccordionHeader>{{ heading }}</AccordionHeader>
      <AccordionContent><slot /></AccordionContent>
    </AccordionPanel>
  </Accordion>
</template>
