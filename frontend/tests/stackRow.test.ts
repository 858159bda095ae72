import { mount } from '@vue/test-utils'
import { nextTick, ref } from 'vue'
import { describe, expect, it, vi } from 'vitest'
import { isDense } from '@/stages/grooves/rowLayout'
import StackRow from '@/stages/grooves/StackRow.vue'
import type { StackRow as Row } from '@/stages/grooves/stackRows'
import { useNear } from '@/stages/grooves/useNear'
import { bar, hit } from './composing'

const row: Row = {
  key: '1',
  section: null,
  change: null,
  bars: [bar(1, [hit('0', 'kick'), hit('1/4', 'snare')]), bar(2, [hit('0', 'kick')])],
  words: 'as phrase',
  hasDoubt: false,
  isSettled: false,
}

function mounted(more: Record<string, unknown> = {}, near = ref(true)) {
  const wrapper = mount(StackRow, {
    props: {
      row,
      songId: 'song',
      width: 400,
      phrases: new Map(),
      shades: new Map(),
      cursor: null,
      target: null,
      selection: null,
      sounding: null,
      now: () => 0,
      loop: 'none' as const,
      showPicture: false,
      nearness: { isNear: () => near },
      ...more,
    },
  })
  return { wrapper, near }
}

describe('a row of the stack', () => {
  it('draws its notes only when it is near, and keeps its height meanwhile', async () => {
    const { wrapper, near } = mounted({}, ref(false))
    expect(wrapper.findAll('.note')).toHaveLength(0)
    expect(wrapper.find('[data-bar="2"]').attributes('style')).toContain('min-height')
    near.value = true
    await nextTick()
    expect(wrapper.findAll('.note')).toHaveLength(3)
  })

  it('is low where dense rows are chosen, and says of its lanes which are hands and which feet', async () => {
    const { wrapper } = mounted()
    const high = () => Number.parseFloat(wrapper.find('[data-bar="1"]').attributes('style')!.replace(/[^\d.]/g, ''))
    expect(wrapper.findAll('.limbs i').map((label) => label.text())).toEqual(['RH', 'LH', 'RF', 'LF'])
    const before = high()
    isDense.value = true
    await nextTick()
    expect(high()).toBeLessThan(0.62 * before)
    expect(wrapper.findAll('.limbs i').map((label) => label.text())).toEqual(['hands', 'feet'])
    expect(wrapper.find('.number').attributes('title')).toContain('as phrase')
    isDense.value = false
  })

  it('shows the cursor in its own bar only', () => {
    const { wrapper } = mounted({ cursor: { bar: 2, position: '0', limb: 'RF' } })
    expect(wrapper.find('[data-bar="1"] .cursor').exists()).toBe(false)
    expect(wrapper.find('[data-bar="2"] .cursor').exists()).toBe(true)
  })

  it('moves the line through the sounding bar without being drawn anew', async () => {
    const time = ref(row.bars[1]!.start)
    const { wrapper } = mounted({ sounding: 2, now: () => time.value })
    const line = () => wrapper.find('.playhead').attributes('style')
    const [before, lanes] = [line(), wrapper.find('[data-bar="2"] svg').element]
    time.value = (row.bars[1]!.start + row.bars[1]!.end) / 2
    await nextTick()
    expect(line()).not.toBe(before)
    expect(wrapper.find('[data-bar="2"] svg').element).toBe(lanes)
    expect(wrapper.find('[data-bar="1"] .playhead').exists()).toBe(false)
  })

  it('loops all of its bars, and more with Shift', async () => {
    const { wrapper } = mounted()
    await wrapper.find('.number').trigger('click')
    await wrapper.find('.number').trigger('click', { shiftKey: true })
    expect(wrapper.emitted('loop')).toEqual([
      [row.bars, false],
      [row.bars, true],
    ])
  })
})

describe('nearness', () => {
  it('is told of rows that come before the list, and forgotten with them', async () => {
    const seen: { margin: string; told: (entries: unknown[]) => void; elements: Set<Element> }[] = []
    const before = globalThis.IntersectionObserver
    globalThis.IntersectionObserver = class {
      elements = new Set<Element>()
      constructor(told: (entries: unknown[]) => void, { rootMargin }: { rootMargin: string }) {
        seen.push({ margin: rootMargin, told, elements: this.elements })
      }
      observe(element: Element) {
        this.elements.add(element)
      }
      unobserve(element: Element) {
        this.elements.delete(element)
      }
      disconnect() {
        this.elements.clear()
      }
    } as unknown as typeof IntersectionObserver
    const list = ref<HTMLElement | null>(null)
    const home = mount({ setup: () => ({ near: useNear(list) }), template: '<div />' })
    const { wrapper } = mounted({ nearness: (home.vm as unknown as { near: ReturnType<typeof useNear> }).near })
    list.value = document.createElement('ol')
    await nextTick()
    const [keeping, drawing, ahead] = seen
    expect(drawing!.elements.has(wrapper.element)).toBe(true)
    drawing!.told([{ target: wrapper.element, isIntersecting: true }])
    await nextTick()
    expect(wrapper.findAll('.note')).toHaveLength(3)
    // Out of sight, but not far: it stays; far away it goes.
    drawing!.told([{ target: wrapper.element, isIntersecting: false }])
    await nextTick()
    expect(wrapper.findAll('.note')).toHaveLength(3)
    keeping!.told([{ target: wrapper.element, isIntersecting: false }])
    await nextTick()
    expect(wrapper.findAll('.note')).toHaveLength(0)
    // Further off it is drawn when there is time.
    ahead!.told([{ target: wrapper.element, isIntersecting: true }])
    await vi.waitFor(() => expect(wrapper.findAll('.note')).toHaveLength(3), { timeout: 3000 })
    wrapper.unmount()
    expect(drawing!.elements.size).toBe(0)
    globalThis.IntersectionObserver = before
  })
})
