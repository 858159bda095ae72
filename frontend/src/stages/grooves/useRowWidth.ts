/** How wide a bar is drawn in a dialog: as wide as is good, or as wide as a phone is. */
import { useWindowSize } from '@vueuse/core'
import { computed, type ComputedRef } from 'vue'

/** The dialog's own edges, and the width it may have of the window (96vw). */
const EDGES = 56
const SHARE = 0.96

export function useRowWidth(most: number): ComputedRef<number> {
  const { width } = useWindowSize()
  return computed(() => Math.min(most, Math.floor(SHARE * width.value) - EDGES))
}
