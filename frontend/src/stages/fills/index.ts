/** Fills: each with its count, its stickings, its kin, and what to practise of it. */
import { GROUPS } from '@/song/keyUse'
import { lazy } from '@/song/lazy'
import type { Stage } from '@/song/stages'

export const fills: Stage = {
  id: 'fills',
  name: 'Fills',
  view: lazy(() => import('./FillsStage.vue')),
  badge: ({ part }) => {
    const count = part.score.value?.fills.length ?? 0
    return count === 0 ? 'none found' : count === 1 ? 'one fill' : `${count} fills`
  },
  keys: (open, key) => {
    const { fills: stage, player } = open
    const { move, edit, listen } = GROUPS
    return [
      key('ArrowDown', '↓ ↑', 'fills', move, () => stage.step(1)),
      key('ArrowUp', '', '', move, () => stage.step(-1)),
      key('ArrowRight', '→ ←', 'other stickings', move, () => (stage.wayIndex.value = nextWay(open, 1))),
      key('ArrowLeft', '', '', move, () => (stage.wayIndex.value = nextWay(open, -1))),
      key('Enter', '↵', 'use this sticking', edit, () => void stage.useWay()),
      key('l', 'L', 'loop the fill, or end the loop', listen, () => open.loopFill()),
      key('[', '[ ]', 'begins a quarter of a beat sooner, later', edit, () => void stage.move('at', -1)),
      key(']', '', '', edit, () => void stage.move('at', 1)),
      key(',', ', .', 'ends sooner, later', edit, () => void stage.move('until', -1)),
      key('.', '', '', edit, () => void stage.move('until', 1)),
      key('n', 'N', 'this is no fill', edit, () => void stage.none()),
      key('a', 'A', 'a fill at the end of the bar that sounds', edit, () => {
        const number = player.currentBar.value?.number
        if (number === undefined) open.part.notice.value = 'Play to the bar that ends in a fill, then add it.'
        else void stage.add(number)
      }),
    ]
  },
}

function nextWay(open: Parameters<Stage['keys']>[0], by: number): number {
  const count = open.fills.fill.value?.ways.length ?? 0
  return count ? (open.fills.wayIndex.value + by + count) % count : 0
}
