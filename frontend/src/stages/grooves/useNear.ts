/**
 * Which rows of a long list are drawn: those in sight or nearly so at once, those further off one by one
 * while the page has nothing else to do, those far away not at all.
 */
import { onScopeDispose, type Ref, ref, watch } from 'vue'
import { useIdle } from './useIdle'

/** A row is drawn before it comes into sight. */
const AT_ONCE_WITHIN = '300px 0px'
/** Some sixty rows up and down: a section is scrolled through without waiting for any of it. */
const IN_TIME_WITHIN = '5000px 0px'
const KEPT_WITHIN = '6000px 0px'
/** The page opens first: evidence and phrases are being fetched meanwhile. */
const OPENING_MS = 600

export interface Nearness {
  /** Of a row's element: whether it is worth drawing, from now until the row's component ends. */
  isNear: (row: Readonly<Ref<HTMLElement | null>>) => Readonly<Ref<boolean>>
}

export function useNear(list: Ref<HTMLElement | null | undefined>): Nearness {
  const rows = new Map<Element, Ref<boolean>>()
  const waiting = new Set<Element>()
  let observers: IntersectionObserver[] = []

  /** Each row has a flag of its own, so that one that comes near redraws itself alone. */
  function show(row: Element, isShown: boolean): void {
    waiting.delete(row)
    const flag = rows.get(row)
    if (flag) flag.value = isShown
  }
  const later = useIdle(() => {
    for (const row of waiting) {
      show(row, true)
      break
    }
    return waiting.size > 0
  })

  function watching(root: HTMLElement, rootMargin: string, told: (row: Element, isInside: boolean) => void) {
    return new IntersectionObserver(
      (entries) => {
        for (const entry of entries) told(entry.target, entry.isIntersecting)
      },
      { root, rootMargin },
    )
  }

  let isOpening = true
  let opening: ReturnType<typeof setTimeout> | undefined
  const leave = () => {
    clearTimeout(opening)
    for (const observer of observers) observer.disconnect()
    observers = []
    waiting.clear()
  }
  watch(
    list,
    (root) => {
      leave()
      if (!root) return
      isOpening = true
      opening = setTimeout(() => {
        isOpening = false
        if (waiting.size) later()
      }, OPENING_MS)
      observers = [
        watching(root, KEPT_WITHIN, (row, isInside) => isInside || show(row, false)),
        watching(root, AT_ONCE_WITHIN, (row, isInside) => isInside && show(row, true)),
        watching(root, IN_TIME_WITHIN, (row, isInside) => {
          if (isInside && !rows.get(row)?.value) waiting.add(row)
          else waiting.delete(row)
          if (waiting.size && !isOpening) later()
        }),
      ]
      for (const row of rows.keys()) for (const observer of observers) observer.observe(row)
    },
    { flush: 'post' },
  )
  onScopeDispose(leave)

  function forget(row: Element): void {
    rows.delete(row)
    waiting.delete(row)
    for (const observer of observers) observer.unobserve(row)
  }

  function isNear(row: Readonly<Ref<HTMLElement | null>>): Readonly<Ref<boolean>> {
    const flag = ref(false)
    let known: Element | null = null
    watch(
      row,
      (element) => {
        if (known) forget(known)
        known = element
        if (!element) return
        rows.set(element, flag)
        for (const observer of observers) observer.observe(element)
      },
      { flush: 'post' },
    )
    onScopeDispose(() => known && forget(known))
    return flag
  }

  return { isNear }
}
