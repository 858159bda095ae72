/** A value once it has been still for a moment: what rests on it is then asked for once, not at each step. */
import { refDebounced } from '@vueuse/core'
import { computed, type MaybeRefOrGetter, type Ref } from 'vue'

export function useStill<T extends string | number | undefined>(
  of: () => T,
  ms: MaybeRefOrGetter<number>,
): Readonly<Ref<T>> {
  return refDebounced(computed(of), ms)
}
