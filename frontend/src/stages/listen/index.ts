/** Listen: tempo, metre, first beat and feel, with reasons, and every correction one gesture away. */
import { GROUPS } from '@/song/keyUse'
import { lazy } from '@/song/lazy'
import type { Stage } from '@/song/stages'

/** Tempo, metre, first beat and feel are confirmed one by one. */
const FINDINGS = 4

export const listen: Stage = {
  id: 'listen',
  name: 'Listen',
  view: lazy(() => import('./ListenStage.vue')),
  badge: ({ part, hasBars }) => {
    if (part.score.value && !hasBars.value) return 'no beat yet'
    const left = FINDINGS - (part.score.value?.listening.confirmed.length ?? 0)
    return left ? `${left} to confirm` : 'confirmed'
  },
  keys: ({ taps }, key) => [
    key('t', 'T', 'tap a beat', GROUPS.edit, (event) => {
      if (event.repeat) return
      if (taps.isOpen.value) taps.tap(event.timeStamp)
      else taps.isOpen.value = true
    }),
  ],
}
