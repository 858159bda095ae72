import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, ref, shallowRef } from 'vue'
import type { Score } from '@/api/client'
import { laneY, placeIn, placeX } from '@/stages/grooves/rowLayout'
import { useCursor } from '@/stages/grooves/useCursor'
import { useDrag } from '@/stages/grooves/useDrag'
import { bar, hit, score } from './composing'

const WIDTH = 662
const HEIGHT = 100

/** Two bars one under the other, and a hand that can be put anywhere over them. */
function stack() {
  const part = shallowRef<Score | null>(score([bar(1, [hit('1/4', 'snare'), hit('0', 'kick')]), bar(2)]))
  document.body.innerHTML = `<ol>${[1, 2].map((n) => `<li data-bar="${n}"><svg class="lanes"></svg></li>`).join('')}</ol>`
  const list = document.querySelector('ol')!
  for (const [index, lanes] of [...document.querySelectorAll('svg')].entries())
    lanes.getBoundingClientRect = () => new DOMRect(0, index * HEIGHT, WIDTH, HEIGHT)
  list.getBoundingClientRect = () => new DOMRect(0, -1000, WIDTH, 3000)
  document.elementFromPoint = (_, y) => document.querySelectorAll('svg')[Math.floor(y / HEIGHT)] ?? null
  const cursor = useCursor(`drag-${Math.random()}`, part)
  const moves: [number, number][] = []
  const scope = effectScope()
  const { target } = scope.run(() =>
    useDrag(ref(list), () => part.value!, cursor, (counts, lanes) => void moves.push([counts, lanes])),
  )!
  const at = (number: number, place: string, limb: 'RH' | 'LH' | 'RF' | 'LF') => ({
    clientX: placeX(place, WIDTH),
    clientY: (number - 1) * HEIGHT + laneY(limb),
  })
  function send(type: string, where: { clientX: number; clientY: number }, more: PointerEventInit = {}): void {
    const on = type === 'pointerdown' ? document.elementFromPoint(where.clientX, where.clientY)! : document
    on.dispatchEvent(new PointerEvent(type, { bubbles: true, pointerType: 'mouse', button: 0, ...where, ...more }))
  }
  return { ...cursor, moves, target, at, send, list, scope }
}

let shown: ReturnType<typeof stack>
beforeEach(() => {
  sessionStorage.clear()
  vi.useFakeTimers()
  shown = stack()
})
afterEach(() => {
  shown.scope.stop()
  vi.useRealTimers()
})

describe('a place under the hand', () => {
  it('is the nearest count and lane', () => {
    const box = new DOMRect(10, 50, WIDTH, HEIGHT)
    expect(placeIn(bar(1), box, 10 + placeX('5/16', WIDTH) + 8, 50 + laneY('RF') + 5)).toEqual({ position: '5/16', limb: 'RF' })
    expect(placeIn(bar(1), box, -500, 900)).toEqual({ position: '0', limb: 'LF' })
  })
})

describe('dragging in the stack', () => {
  it('selects by mouse from where it began, over bar lines', () => {
    const { at, send, selection, targets } = shown
    send('pointerdown', at(1, '0', 'LH'))
    send('pointermove', at(1, '1/2', 'RF'))
    expect(targets.value.map((item) => item.instrument)).toEqual(['snare', 'kick'])
    send('pointermove', at(2, '1/4', 'RF'))
    send('pointerup', at(2, '1/4', 'RF'))
    expect(selection.value).toMatchObject({ from: { bar: 1, place: 0 }, to: { bar: 2, place: 0.25 }, limbs: ['LH', 'RF'] })
  })

  it('moves what is chosen, and shows where it would go', () => {
    const { at, send, place, moves, target } = shown
    place({ bar: 1, position: '1/4', limb: 'LH' })
    send('pointerdown', at(1, '1/4', 'LH'))
    send('pointermove', at(1, '3/8', 'RH'))
    expect(target.value).toMatchObject({ position: '3/8', limb: 'RH' })
    send('pointerup', at(1, '3/8', 'RH'))
    expect(moves).toEqual([[2, -1]])
    expect(target.value).toBeNull()
  })

  it('moves nothing into another bar, and nothing after Escape', () => {
    const { at, send, place, moves } = shown
    place({ bar: 1, position: '1/4', limb: 'LH' })
    send('pointerdown', at(1, '1/4', 'LH'))
    send('pointermove', at(2, '1/4', 'LH'))
    send('pointerup', at(2, '1/4', 'LH'))
    send('pointerdown', at(1, '1/4', 'LH'))
    send('pointermove', at(1, '3/8', 'LH'))
    document.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    send('pointerup', at(1, '3/8', 'LH'))
    expect(moves).toEqual([])
  })

  it('is no click, while a still hand clicks', () => {
    const { at, send, list } = shown
    const clicks = vi.fn()
    list.querySelector('svg')!.addEventListener('click', clicks)
    const click = () => list.querySelector('svg')!.dispatchEvent(new MouseEvent('click', { bubbles: true }))
    send('pointerdown', at(1, '0', 'LH'))
    send('pointermove', at(1, '1/2', 'LH'))
    send('pointerup', at(1, '1/2', 'LH'))
    click()
    expect(clicks).not.toHaveBeenCalled()
    const here = at(1, '0', 'LH')
    send('pointerdown', here)
    send('pointermove', { ...here, clientX: here.clientX + 3 })
    send('pointerup', here)
    click()
    expect(clicks).toHaveBeenCalledOnce()
  })

  it('by finger selects after holding still, and leaves scrolling alone', () => {
    const { at, send, selection, list } = shown
    const touch = { pointerType: 'touch' }
    const scrolls = () => list.dispatchEvent(new Event('touchmove', { bubbles: true, cancelable: true }))
    send('pointerdown', at(1, '0', 'LH'), touch)
    send('pointermove', at(1, '1/2', 'LH'), touch)
    expect(scrolls()).toBe(true)
    vi.advanceTimersByTime(500)
    expect(selection.value).toBeNull()
    send('pointerdown', at(1, '0', 'LH'), touch)
    vi.advanceTimersByTime(400)
    expect(scrolls()).toBe(false)
    send('pointermove', at(1, '1/2', 'LH'), touch)
    expect(selection.value).toMatchObject({ to: { place: 0.5 } })
    send('pointercancel', at(1, '1/2', 'LH'), touch)
    expect(scrolls()).toBe(true)
  })
})
