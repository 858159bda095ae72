<script setup lang="ts">
/** What stands before a row: its name, and which lane is which limb. */
</script>

<template>
  <div class="name">
    <div><slot /></div>
    <span class="limbs" aria-hidden="true"><i>R</i><i>L</i><i class="foot">R</i><i>L</i></span>
  </div>
</template>

<style scoped>
.name {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  padding: 0 var(--gap-2) 0 var(--gap-2);
}
.name > div {
  display: grid;
}
.limbs {
  display: grid;
  /* As in rowLayout.ts: four lanes, a gap between hands and feet. */
  grid-template-rows: 16px 16px 21px 16px;
  align-self: start;
  padding-top: 6px;
  color: var(--ink-soft);
  font-size: 0.8rem;
  line-height: 16px;
}
.limbs i {
  font-style: normal;
}
.limbs .foot {
  align-self: end;
}
@media (max-width: 700px) {
  .name {
    padding: 0 2px 0 0;
  }
  .name :slotted(strong),
  .name :slotted(.label) {
    font-size: 0.75rem;
  }
}
</style>
