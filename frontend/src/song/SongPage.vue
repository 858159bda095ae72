<script setup lang="ts">
/** The frame of an open song: header with the stages, the stage, the transport. */
import { computed } from 'vue'
import ConflictDialog from '@/stages/grooves/ConflictDialog.vue'
import RelistenDialog from '@/stages/grooves/RelistenDialog.vue'
import KeysDialog from '@/transport/KeysDialog.vue'
import TransportBar from '@/transport/TransportBar.vue'
import { keysOf } from './keys'
import { provideSong } from './openSong'
import BeatlessSong from './BeatlessSong.vue'
import HeardAgainDialog from './HeardAgainDialog.vue'
import SongHeader from './SongHeader.vue'
import SongStrip from './SongStrip.vue'
import { stageOf } from './stages'
import { useKeys } from './useKeys'
import WaitingSong from './WaitingSong.vue'

const props = defineProps<{ id: string }>()

const open = provideSong(props.id)
const { part, stage, hasBars, showKeys } = open
const keys = computed(() => keysOf(open))
useKeys(() => keys.value)
const view = computed(() => stageOf(stage.value).view)
</script>

<template>
  <div class="page">
    <SongHeader />
    <WaitingSong v-if="!part.score.value" />
    <template v-else>
      <BeatlessSong v-if="!hasBars" />
      <template v-else>
        <SongStrip />
        <component :is="view" />
      </template>
      <TransportBar />
      <RelistenDialog />
      <HeardAgainDialog />
      <ConflictDialog />
      <KeysDialog v-model:visible="showKeys" :keys="keys" />
    </template>
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100dvh;
}
.page > :deep(.body) {
  /* What is placed absolutely scrolls along, and does not make the page longer. */
  position: relative;
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
</style>
