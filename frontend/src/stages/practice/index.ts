/** Practice: a plan from what one can play to all of it, and the big player. */
import { GROUPS } from '@/song/keyUse'
import { lazy } from '@/song/lazy'
import type { Stage } from '@/song/stages'

export const practice: Stage = {
  id: 'practice',
  name: 'Practice',
  view: lazy(() => import('./PracticeStage.vue')),
  badge: ({ practice: stage, hasBars }) => {
    if (!hasBars.value) return ''
    const due = stage.overview.value?.session.length ?? 0
    return due ? `${due} due today` : stage.isKept.value ? `step ${stage.at.value + 1} of ${stage.steps.value.length}` : 'a plan'
  },
  keys: ({ practice: stage }, key) => {
    const { move } = GROUPS
    if (stage.isOpen.value) return []
    return [
      key('ArrowDown', '↓ ↑', 'steps', move, () => stage.goTo(stage.at.value + 1)),
      key('ArrowUp', '', '', move, () => stage.goTo(stage.at.value - 1)),
      key('Enter', 'Enter', 'practise this step', move, () => (stage.isOpen.value = stage.step.value !== null)),
    ]
  },
}
