<script setup lang="ts">
/** The frame of an open song: header with the stages, the stage, the transport. */
import { useTimeoutFn } from '@vueuse/core'
import { computed } from 'vue'
import type { Shared } from '@/api/client'
import ConflictDialog from '@/stages/grooves/ConflictDialog.vue'
import RelistenDialog from '@/stages/grooves/RelistenDialog.vue'
import KeysDialog from '@/transport/KeysDialog.vue'
import TransportBar from '@/transport/TransportBar.vue'
import { keysOf } from './keys'
import { lazy, loadTheRest } from './lazy'
import { provideSong } from './openSong'
import SongHeader from './SongHeader.vue'
import SongStrip from './SongStrip.vue'
import { stageOf } from './stages'
import { useKeys } from './useKeys'
import WaitingSong from './WaitingSong.vue'

const BeatlessSong = lazy(() => import('./BeatlessSong.vue'))
const CommentsDialog = lazy(() => import('@/share/CommentsDialog.vue'))
const ShareDialog = lazy(() => import('@/share/ShareDialog.vue'))
const HeardAgainDialog = lazy(() => import('./HeardAgainDialog.vue'))

/** By then the song has been shown. */
const STILL_MS = 4000

const emit = defineEmits<{ back: [] }>()
const props = defineProps<{ id: string; /** Opened by a link, without an account. */ guest?: Shared }>()

const open = provideSong(props.id, props.guest ?? null)
const { part, stage, hasBars, showKeys, showHeard, showShare, showComments } = open
const isPractising = open.practice.isOpen
const keys = computed(() => keysOf(open))
useKeys(() => keys.value)
const view = computed(() => stageOf(stage.value).view)
useTimeoutFn(() => void loadTheRest(), STILL_MS)
</script>

<template>
  <div class="page">
    <SongHeader @back="emit('back')" />
    <WaitingSong v-if="!part.score.value" />
    <template v-else>
      <BeatlessSong v-if="!hasBars" />
      <template v-else>
        <!-- Below the big player nothing need be drawn. -->
        <SongStrip v-if="!isPractising" />
        <component :is="view" />
      </template>
      <TransportBar v-if="!isPractising" />
      <RelistenDialog />
      <CommentsDialog v-if="showComments" v-model:visible="showComments" />
      <ShareDialog v-if="showShare" v-model:visible="showShare" />
      <HeardAgainDialog v-if="showHeard" />
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
