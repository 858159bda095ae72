/** Chart: the engraved pages, below the bar stack that they are written from. */
import type { Stage } from '@/song/stages'
import StackAndChart from '../StackAndChart.vue'
import { grooveKeys } from '../grooves/keys'

export const chart: Stage = {
  id: 'chart',
  name: 'Chart',
  view: StackAndChart,
  badge: ({ engraving, hasBars }) => {
    if (!hasBars.value || engraving.isStale.value) return ''
    const { length } = engraving.pages.value
    return length === 1 ? '1 page' : `${length} pages`
  },
  keys: grooveKeys,
}
