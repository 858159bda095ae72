/** Chart: the engraved pages in three readings, and the files to take away. */
import { GROUPS } from '@/song/keyUse'
import { lazy } from '@/song/lazy'
import type { Stage } from '@/song/stages'
import { type ChartChoice, LEVELS, NOTATIONS, READINGS } from './options'

export const chart: Stage = {
  id: 'chart',
  name: 'Chart',
  view: lazy(() => import('./ChartStage.vue')),
  badge: ({ chart, hasBars }) => {
    if (!hasBars.value) return ''
    const reading = READINGS.find((item) => item.value === chart.choice.value.reading)
    return reading?.label.toLowerCase() ?? ''
  },
  keys: ({ chart, stack, player, bars }, key) => {
    const { move } = GROUPS
    const show = 'What the chart shows'
    function next<K extends keyof ChartChoice>(name: K, choices: readonly { value: ChartChoice[K] }[]): () => void {
      return () => {
        const index = choices.findIndex((item) => item.value === chart.choice.value[name])
        chart.choose({ [name]: choices[(index + 1) % choices.length]!.value })
      }
    }
    function playFromHere(): void {
      const bar = bars.value.find((item) => item.number === stack.cursor.value.bar)
      if (bar) player.seek(bar.start)
      if (!player.isPlaying.value) void player.play()
    }
    return [
      key('r', 'R', 'the next reading', show, next('reading', READINGS)),
      key('l', 'L', 'the next level', show, next('level', LEVELS)),
      key('n', 'N', 'staff or limb lines', show, next('notation', NOTATIONS)),
      key('c', 'C', 'with or without the count', show, () => chart.choose({ count: !chart.choice.value.count })),
      key('b', 'B', 'big, for a stand; Esc comes back', show, () => (chart.isBig.value = !chart.isBig.value)),
      key('ArrowRight', '→', 'the next bar', move, () => stack.alongBars(1)),
      key('ArrowLeft', '←', 'the bar before', move, () => stack.alongBars(-1)),
      key('Enter', 'Enter', 'play from this bar', move, playFromHere),
    ]
  },
}
