/** Where lanes and counts are in a row of the bar stack, in pixels. */
import type { Bar, Limb } from '@/api/client'
import { LIMBS } from '@/api/vocabulary'
import { fraction } from '@/score/place'

export const LANE_HEIGHT = 16
export const ROW_PADDING = 6
export const FEET_GAP = 5
export const ROW_HEIGHT = 2 * ROW_PADDING + 4 * LANE_HEIGHT + FEET_GAP
/** Room at the left of the first count and at the right of the last. */
export const SIDE = 22

export function laneY(limb: Limb): number {
  const index = LIMBS.indexOf(limb)
  return ROW_PADDING + (index + 0.5) * LANE_HEIGHT + (index >= 2 ? FEET_GAP : 0)
}

/** The line between hands and feet. */
export const middleY = ROW_PADDING + 2 * LANE_HEIGHT + FEET_GAP / 2

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
