import { mount } from '@vue/test-utils'
import { nextTick, ref } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useInTurn } from '@/stages/grooves/useInTurn'

const BARS = Array.from({ length: 240 }, (_, index) => index + 1)

describe('a long list that is put on the page in turn', () => {
  const pieces: (() => void)[] = []

  beforeEach(() => vi.stubGlobal('requestIdleCallback', (piece: () => void) => pieces.push(piece)))
  afterEach(() => {
    pieces.length = 0
    vi.unstubAllGlobals()
  })

  function placed(bars = ref(BARS), cursor = ref(0)) {
    let shown: ReturnType<typeof useInTurn<number>> | undefined
    const wrapper = mount({ setup: () => void (shown = useInTurn(bars, () => cursor.value)), template: '<div />' })
    return { wrapper, shown: shown!, cursor, bars }
  }
  const idle = () => pieces.splice(0).forEach((piece) => piece())

  it('begins with more than a screen and ends with all of them, in order', () => {
    const { shown } = placed()
    expect(shown.value.length).toBeGreaterThan(12)
    expect(shown.value.length).toBeLessThan(60)
    for (let piece = 0; piece < 20; piece++) idle()
    expect(shown.value).toEqual(BARS)
    expect(pieces).toHaveLength(0)
  })

  it('has a place that is gone to at once, and what follows it', async () => {
    const { shown, cursor } = placed()
    cursor.value = 150
    await nextTick()
    expect(shown.value).toContain(151)
    expect(shown.value.length).toBeGreaterThan(160)
  })

  it('keeps a longer list whole once everything was placed', () => {
    const { shown, bars } = placed(ref(BARS.slice(0, 10)))
    idle()
    bars.value = BARS
    expect(shown.value).toEqual(BARS)
  })

  it('leaves nothing to do behind when the page goes', () => {
    const { wrapper, shown } = placed()
    const before = shown.value.length
    wrapper.unmount()
    idle()
    expect(shown.value).toHaveLength(before)
    expect(pieces).toHaveLength(0)
  })
})
