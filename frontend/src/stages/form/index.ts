/** Form: sections as rows, bars as cells. */
import { GROUPS } from '@/song/keyUse'
import { lazy } from '@/song/lazy'
import type { Stage } from '@/song/stages'
import { isOdd } from './sections'

export const form: Stage = {
  id: 'form',
  name: 'Form',
  view: lazy(() => import('./FormStage.vue')),
  badge: ({ sections, hasBars }) => {
    if (!hasBars.value) return ''
    // What is odd and not yet confirmed to be so.
    const odd = sections.value.filter((item) => !item.confirmed && isOdd(item)).length
    if (odd) return `${odd} odd to check`
    return sections.value.every((item) => item.confirmed) ? 'confirmed' : `${sections.value.length} sections`
  },
  keys: (open, key) => {
    const { form: cursor } = open
    const { move, edit, listen } = GROUPS
    return [
      key('ArrowDown', '↓', 'next section', move, () => cursor.alongRows(1)),
      key('ArrowUp', '↑', 'section before', move, () => cursor.alongRows(-1)),
      key('ArrowRight', '→', 'next bar', move, () => cursor.alongBars(1)),
      key('ArrowLeft', '←', 'bar before', move, () => cursor.alongBars(-1)),
      key('s', 'S', 'split: a section begins with this bar', edit, cursor.split),
      key('j', 'J', 'join to the section before', edit, cursor.merge),
      key(',', ',', 'begin this section a bar sooner', edit, () => cursor.move(-1)),
      key('.', '.', 'begin it a bar later', edit, () => cursor.move(1)),
      key('e', 'E', 'even out this bar', edit, cursor.evenOut),
      key('r', 'R', 'rename', edit, cursor.name),
      key('y', 'Y', 'confirm the section', edit, () => cursor.confirm()),
      key('h', 'H', 'go to the bar at the cursor', listen, () => {
        const number = cursor.cell.value?.number
        open.player.seek(Math.max(0, open.bars.value.find((bar) => bar.number === number)?.start ?? 0))
      }),
      key('l', 'L', 'loop this section, or end the loop', listen, () => {
        const section = cursor.section.value
        if (section) open.loopBars(section.first_bar, section.first_bar + section.bars - 1)
      }),
    ]
  },
}
