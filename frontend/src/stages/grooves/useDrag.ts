/**
 * Dragging in the stack: from a free place it selects, from a chosen note it moves what is chosen.
 * By finger one holds still first, since a finger that moves at once scrolls.
 */
import { useEventListener } from '@vueuse/core'
import { onScopeDispose, ref, type Ref } from 'vue'
import type { Bar, Score } from '@/api/client'
import { LIMBS } from '@/api/vocabulary'
import { laneOf } from '@/score/place'
import { placeIn } from './rowLayout'
import type { Cursor, StackCursor } from './useCursor'

const HOLD_MS = 350
/** Pixels: a hand that only clicks moves less. */
const SLACK = 5
/** So near to its edge the list scrolls along. */
const EDGE = 28

export function useDrag(
  list: Ref<HTMLElement | undefined>,
  score: () => Score,
  stack: StackCursor,
  move: (counts: number, lanes: number) => void,
) {
  let start: (Cursor & { x: number; y: number; since: number }) | null = null
  let kind: 'none' | 'select' | 'move' = 'none'
  let hold: ReturnType<typeof setTimeout> | undefined
  let hasDragged = false
  /** Where what is being moved would go. */
  const target = ref<Cursor | null>(null)

  const barOf = (number: number): Bar | undefined => score().bars.find((item) => item.number === number)

  function under(x: number, y: number): Cursor | null {
    const home = document.elementFromPoint(x, y)?.closest<HTMLElement>('[data-bar]')
    const lanes = home?.querySelector('svg.lanes')
    const bar = home && barOf(Number(home.dataset.bar))
    if (!bar || !lanes || !list.value?.contains(home)) return null
    return { bar: bar.number, ...placeIn(bar, lanes.getBoundingClientRect(), x, y) }
  }

  function isChosen(place: Cursor): boolean {
    return stack.targets.value.some(
      (hit) => hit.bar === place.bar && hit.position === place.position && laneOf(hit.limb) === place.limb,
    )
  }

  function begin(): void {
    if (!start) return
    kind = isChosen(start) ? 'move' : 'select'
    hasDragged = true
    if (kind === 'select') stack.place({ bar: start.bar, position: start.position, limb: start.limb })
  }

  function follow(x: number, y: number): void {
    const place = under(x, y)
    if (!place || !start) return
    if (kind === 'select') stack.place(place, true)
    // Strokes keep their bar: a move goes along its counts and across its lanes.
    else target.value = place.bar === start.bar ? place : null
    const frame = list.value?.getBoundingClientRect()
    if (!frame || !list.value) return
    if (y < frame.top + EDGE) list.value.scrollTop -= EDGE / 2
    else if (y > frame.bottom - EDGE) list.value.scrollTop += EDGE / 2
  }

  function drop(): void {
    const [from, to] = [start, target.value]
    if (kind !== 'move' || !from || !to) return
    const cells = barOf(from.bar)?.cells ?? []
    const index = (place: Cursor) => cells.findIndex((cell) => cell.position === place.position)
    const counts = index(to) - index(from)
    const lanes = LIMBS.indexOf(to.limb) - LIMBS.indexOf(from.limb)
    if (counts || lanes) move(counts, lanes)
  }

  function end(): void {
    clearTimeout(hold)
    start = null
    kind = 'none'
    target.value = null
  }

  useEventListener(list, 'pointerdown', (event: PointerEvent) => {
    end()
    hasDragged = false
    const isOnLanes = (event.target as Element).closest?.('svg.lanes')
    const place = isOnLanes && event.button === 0 && !event.shiftKey ? under(event.clientX, event.clientY) : null
    if (!place) return
    start = { ...place, x: event.clientX, y: event.clientY, since: event.timeStamp }
    if (event.pointerType !== 'mouse') hold = setTimeout(begin, HOLD_MS)
  })
  useEventListener(document, 'pointermove', (event: PointerEvent) => {
    if (!start) return
    const isFar = Math.hypot(event.clientX - start.x, event.clientY - start.y) > SLACK
    if (kind === 'none') {
      if (!isFar) return
      // By the hand's own time: a busy page may hear of a move before its timer.
      if (event.pointerType !== 'mouse' && event.timeStamp - start.since < HOLD_MS) return end()
      begin()
    }
    follow(event.clientX, event.clientY)
  })
  useEventListener(document, 'pointerup', () => {
    drop()
    end()
  })
  useEventListener(document, 'pointercancel', end)
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    if (event.key === 'Escape') end()
  })
  // Once a finger selects, the page must not scroll under it.
  useEventListener(
    list,
    'touchmove',
    (event: TouchEvent) => {
      if (kind !== 'none' && event.cancelable) event.preventDefault()
    },
    { passive: false },
  )
  useEventListener(list, 'contextmenu', (event: Event) => {
    if (kind !== 'none') event.preventDefault()
  })
  // A drag that ends where it began is no click.
  useEventListener(
    list,
    'click',
    (event: MouseEvent) => {
      if (!hasDragged) return
      hasDragged = false
      event.stopPropagation()
    },
    { capture: true },
  )
  onScopeDispose(end)

  return { target, isDragging: () => kind !== 'none' }
}
