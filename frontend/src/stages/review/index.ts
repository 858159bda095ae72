/** Review: what is uncertain, one question at a time. */
import { GROUPS } from '@/song/keyUse'
import { lazy } from '@/song/lazy'
import type { Stage } from '@/song/stages'

const MOST_ANSWERS = 9

export const review: Stage = {
  id: 'review',
  name: 'Review',
  view: lazy(() => import('./ReviewStage.vue')),
  badge: ({ found, review, hasBars }) => {
    if (!hasBars.value || !found.grooves.value) return ''
    const many = review.open.value.length
    return many ? `${many} question${many === 1 ? '' : 's'}` : 'all answered'
  },
  keys: ({ review, compare }, key) => {
    const { move, edit, listen } = GROUPS
    const answer = (index: number) => () => void review.answerBy(index)
    return [
      key('1', '1 – 9', 'the answer of that number', edit, answer(0)),
      ...Array.from({ length: MOST_ANSWERS - 1 }, (_, index) => key(String(index + 2), '', '', edit, answer(index + 1))),
      key('ArrowRight', '→', 'skip the question', move, review.skip),
      key('ArrowLeft', '←', 'back; an answer is undone', move, () => void review.back()),
      key('ArrowDown', '↓ ↑', 'another place of the question', move, () => review.show(1)),
      key('ArrowUp', '', '', move, () => review.show(-1)),
      key('l', 'L', 'loop the bar', listen, review.listen),
      key('/', '/', 'compare: record or chart', listen, compare),
    ]
  },
}
