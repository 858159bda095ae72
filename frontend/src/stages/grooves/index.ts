/** Grooves: the bar stack, where bars are compared and corrected. */
import type { Stage } from '@/song/stages'
import GroovesStage from './GroovesStage.vue'
import { grooveKeys } from './keys'

export const grooves: Stage = {
  id: 'grooves',
  name: 'Grooves',
  view: GroovesStage,
  badge: ({ doubts, hasBars }) => {
    if (!hasBars.value) return ''
    return doubts.value ? `${doubts.value} uncertain` : 'all certain'
  },
  keys: grooveKeys,
}
