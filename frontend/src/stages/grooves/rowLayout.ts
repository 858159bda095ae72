/** Where lanes and counts are in a row of the bar stack, in pixels. */
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import type { Bar, Limb } from '@/api/client'
import { LIMBS } from '@/api/vocabulary'
import { fraction } from '@/score/place'

interface RowLayout {
  lane: number
  padding: number
  /** Between hands and feet. */
  gap: number
  /** Size of the signs. */
  sign: number
}

const ROOMY: RowLayout = { lane: 16, padding: 6, gap: 5, sign: 1 }
/** Nine bars and more are in sight on a laptop; a click still finds the lane that is nearest. */
const DENSE: RowLayout = { lane: 9.5, padding: 2.5, gap: 3, sign: 0.74 }

/** Kept on this device: some look at one bar, some at the whole section. */
export const isDense = useLocalStorage('orchesis.dense', false)
export const layout = computed(() => (isDense.value ? DENSE : ROOMY))
export const rowHeight = computed(() => {
  const { lane, padding, gap } = layout.value
  return 2 * padding + 4 * lane + gap
})

/** Room at the left of the first count and at the right of the last. */
export const SIDE = 22

export function laneY(limb: Limb): number {
  const { lane, padding, gap } = layout.value
  const index = LIMBS.indexOf(limb)
  return padding + (index + 0.5) * lane + (index >= 2 ? gap : 0)
}

/** The line between hands and feet. */
export const middleY = computed(() => layout.value.padding + 2 * layout.value.lane + layout.value.gap / 2)

export function placeX(position: string | number, width: number): number {
  const place = typeof position === 'string' ? fraction(position) : position
  return SIDE + place * (width - SIDE)
}

/** The count and the lane nearest to a point of the window, in a row whose lanes fill `box`. */
export function placeIn(bar: Bar, box: DOMRect, x: number, y: number): { position: string; limb: Limb } {
  const place = (x - box.left - SIDE) / (box.width - SIDE)
  const cell = bar.cells.reduce((best, item) =>
    Math.abs(fraction(item.position) - place) < Math.abs(fraction(best.position) - place) ? item : best,
  )
  const limb = LIMBS.reduce((best, item) =>
    Math.abs(laneY(item) - (y - box.top)) < Math.abs(laneY(best) - (y - box.top)) ? item : best,
  )
  return { position: cell.position, limb }
}
