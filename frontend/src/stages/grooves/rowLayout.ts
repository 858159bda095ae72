/** Where lanes and counts are in a row of the bar stack, in pixels. */
import type { Limb } from '@/api/client'
import { fraction, LIMBS } from '@/score/place'

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
