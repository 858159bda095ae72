/**
 * A long list that is put on the page in turn: what is in sight at once, the rest bit by bit while the
 * page has nothing else to do. A place that is gone to is there as soon as it is asked for.
 */
import { computed, onMounted, ref, type Ref } from 'vue'
import { useIdle } from './useIdle'

/** More than a screen of rows. */
const AT_ONCE = 24
const AT_A_TIME = 24

/** The items that are on the page now; `reach` is the last one that must be among them. */
export function useInTurn<Item>(all: Readonly<Ref<readonly Item[]>>, reach: () => number): Readonly<Ref<readonly Item[]>> {
  const placed = ref(0)
  const more = useIdle(() => {
    placed.value += AT_A_TIME
    if (placed.value < all.value.length) return true
    placed.value = Infinity
    return false
  })
  onMounted(more)
  return computed(() => {
    const count = Math.max(placed.value, reach() + 1) + AT_ONCE
    return count >= all.value.length ? all.value : all.value.slice(0, count)
  })
}
