/** Which rows of a long list are in sight or nearly so: the others need not be drawn. */
import { onScopeDispose, type Ref, shallowRef, watch } from 'vue'

const MARGIN = '500px 0px'

export function useNear(list: Ref<HTMLElement | undefined>) {
  const near = shallowRef<ReadonlySet<string>>(new Set())
  const rows = new Map<Element, string>()
  let observer: IntersectionObserver | undefined

  watch(
    list,
    (root) => {
      observer?.disconnect()
      if (!root) return
      observer = new IntersectionObserver(
        (entries) => {
          const next = new Set(near.value)
          for (const entry of entries) {
            const key = rows.get(entry.target)
            if (key === undefined) continue
            if (entry.isIntersecting) next.add(key)
            else next.delete(key)
          }
          near.value = next
        },
        { root, rootMargin: MARGIN },
      )
      for (const row of rows.keys()) observer.observe(row)
    },
    { flush: 'post' },
  )
  onScopeDispose(() => observer?.disconnect())

  /** A directive: v-near="key" on each row. */
  const vNear = {
    mounted(row: Element, { value }: { value: string }) {
      rows.set(row, value)
      observer?.observe(row)
    },
    updated(row: Element, { value }: { value: string }) {
      if (rows.get(row) === value) return
      rows.set(row, value)
      observer?.unobserve(row)
      observer?.observe(row)
    },
    unmounted(row: Element) {
      observer?.unobserve(row)
      rows.delete(row)
    },
  }
  return { near, vNear }
}
