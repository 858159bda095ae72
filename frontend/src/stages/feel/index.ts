/** Feel: where the strokes fall against the grid, how loud they are, how the kit sounds. */
import { GROUPS } from '@/song/keyUse'
import { lazy } from '@/song/lazy'
import type { Stage } from '@/song/stages'

export const feel: Stage = {
  id: 'feel',
  name: 'Feel',
  view: lazy(() => import('./FeelStage.vue')),
  badge: ({ part, hasBars }) => (hasBars.value ? (part.score.value?.feel.split(' ')[0] ?? '') : ''),
  keys: (open, key) => {
    const { listen } = GROUPS
    const hear = (timing: 'written' | 'played' | 'twice') => () => open.hearFeel(timing)
    return [
      key('1', '1 2 3', 'the chart on the grid, as played, with twice the feel', listen, hear('written')),
      key('2', '', '', listen, hear('played')),
      key('3', '', '', listen, hear('twice')),
    ]
  },
}
