/** Pictures of the song that one works with: the tempo, the places in the beat, the waveform. */
import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { Score } from '@/api/client'
import WaveStrip from '@/ribbon/WaveStrip.vue'
import BeatPlaces from '@/stages/listen/BeatPlaces.vue'
import TempoCurve from '@/stages/listen/TempoCurve.vue'
import { bar, score, withOwnClockAndStore } from './composing'

const WIDTH = 844
vi.mock('@vueuse/core', async (original) => ({
  ...(await original<object>()),
  useElementSize: () => ({ width: ref(WIDTH), height: ref(200) }),
}))

/** The waveform's drawing, which needs a canvas; what it reports is what a hand on it would do. */
const drawn = vi.hoisted(() => ({
  wave: {} as Record<string, (...values: number[]) => void>,
  region: {} as Record<string, (region: { start: number; end: number }) => void>,
  regions: [] as { start: number; end: number }[],
  zoomed: [] as number[],
}))
vi.mock('wavesurfer.js', () => ({
  default: {
    create: () => ({
      on: (event: string, then: () => void) => (drawn.wave[event] = then),
      zoom: (value: number) => drawn.zoomed.push(value),
      setScrollTime: () => {},
      setTime: () => {},
      destroy: () => {},
    }),
  },
}))
vi.mock('wavesurfer.js/plugins/regions', () => ({
  default: {
    create: () => ({
      on: (event: string, then: () => void) => (drawn.region[event] = then),
      enableDragSelection: () => {},
      addRegion: (region: { start: number; end: number }) => {
        drawn.regions.push(region)
        return { ...region, remove: () => drawn.regions.splice(drawn.regions.indexOf(region), 1) }
      },
    }),
  },
}))
withOwnClockAndStore()

const four = score([bar(1), bar(2), bar(3), bar(4)])

describe('the curve of the tempo', () => {
  const at = (curve: [number, number][]): Score => ({
    ...four,
    listening: { ...four.listening, tempo: { ...four.listening.tempo, curve } },
  })
  const heights = (curve: [number, number][]) => {
    const path = mount(TempoCurve, { props: { score: at(curve), position: 0 } }).find('path').attributes('d')!
    return [...path.matchAll(/[ML][\d.]+ ([\d.]+)/g)].map((match) => Number(match[1]))
  }

  it('is nearly level where the song is nearly steady, and uses its height where it is not', () => {
    const spread = (values: number[]) => Math.max(...values) - Math.min(...values)
    expect(spread(heights([[0, 120], [4, 120.4], [8, 119.8]]))).toBeLessThan(20)
    expect(spread(heights([[0, 100], [4, 120], [8, 140]]))).toBeGreaterThan(120)
  })

  it('rises where the song gets faster', () => {
    const [slow, fast] = heights([[0, 110], [8, 130]])
    expect(fast!).toBeLessThan(slow!)
  })

  it('goes to the moment that is clicked, and to none outside the song', async () => {
    const wrapper = mount(TempoCurve, { props: { score: four, position: 0 } })
    const svg = wrapper.find('svg')
    for (const offsetX of [444, 10, 5000]) {
      const event = new MouseEvent('click')
      Object.defineProperty(event, 'offsetX', { value: offsetX })
      svg.element.dispatchEvent(event)
    }
    expect(wrapper.emitted('seek')).toEqual([[4], [0], [8]])
  })

  it('names a section only where its name has room', () => {
    const section = (label: string, start: number, end: number) => ({ label, mark: 'A', start, end, first_bar: start })
    const sections = [section('Verse', 0, 6), section('An interlude of hand drums', 6, 6.5)] as Score['sections']
    const wrapper = mount(TempoCurve, { props: { score: { ...four, sections }, position: 0 } })
    expect(wrapper.findAll('.name').map((name) => name.text())).toEqual(['Verse'])
  })
})

describe('where the notes fall in the beat', () => {
  it('peaks at the count on which most are played, once round the beat', () => {
    const lines = [
      { name: 'Kick', counts: [8, 0, 0, 0] },
      { name: 'Hats', counts: [4, 0, 4, 0] },
    ]
    const listening = { ...four.listening, feel: { ...four.listening.feel, lines } } as Score['listening']
    const wrapper = mount(BeatPlaces, { props: { score: { ...four, listening } } })
    const tops = wrapper.findAll('.area').map((area) => {
      const points = [...area.attributes('d')!.matchAll(/L([\d.]+) ([\d.]+)(?=L)/g)]
      const highest = Math.min(...points.map((point) => Number(point[2])))
      return points.map((point) => Number(point[2]) === highest)
    })
    expect(tops).toEqual([
      [true, false, false, false, true],
      [true, false, true, false, true],
    ])
  })
})

describe('the waveform', () => {
  async function strip(props: Record<string, unknown> = {}, peaks: Response = new Response(new Uint8Array(800))) {
    vi.stubGlobal('fetch', async () => peaks)
    Object.assign(drawn, { wave: {}, region: {}, regions: [], zoomed: [] })
    const wrapper = mount(WaveStrip, {
      props: { songId: 'song', score: four, position: 0, isPlaying: false, loop: null, canDraw: true, ...props },
    })
    await flushPromises()
    return wrapper
  }

  it('says what to do where none is kept', async () => {
    const wrapper = await strip({}, new Response(null, { status: 404 }))
    expect(wrapper.find('[role=alert]').text()).toContain('listen to it again')
    expect(wrapper.find('svg').exists()).toBe(false)
  })

  it('makes a loop of the whole bars that a drag touches', async () => {
    const wrapper = await strip()
    drawn.region['region-created']!({ start: 2.4, end: 5.1, remove: () => {} } as never)
    expect(wrapper.emitted('loop')).toEqual([[{ first: 2, last: 3 }]])
  })

  it('takes the loop that it shows itself for no drag', async () => {
    const wrapper = await strip({ loop: { start: 2, end: 4 } })
    drawn.wave.ready!()
    expect(drawn.regions).toHaveLength(1)
    drawn.region['region-created']!({ start: 2, end: 4 })
    expect(wrapper.emitted('loop')).toBeUndefined()
    await wrapper.setProps({ loop: null })
    expect(drawn.regions).toHaveLength(0)
  })

  it('goes where it is clicked', async () => {
    const wrapper = await strip()
    drawn.wave.interaction!(3.2)
    expect(wrapper.emitted('seek')).toEqual([[3.2]])
  })

  it('zooms from the whole song to a few beats', async () => {
    const wrapper = await strip()
    await wrapper.find('[data-test=zoom]').setValue(100)
    expect(drawn.zoomed).toEqual([400])
  })

  it('moves a bar line by a hundredth of a second a key, and only for who may draw', async () => {
    const wrapper = await strip()
    const line = wrapper.find('[data-test=line-2]')
    await line.trigger('keydown', { key: 'ArrowRight' })
    await line.trigger('keydown', { key: 'ArrowLeft' })
    expect(wrapper.emitted('draw')).toEqual([[2, 2.01], [2, 1.99]])
    await wrapper.setProps({ canDraw: false })
    expect(wrapper.find('[data-test=line-2]').exists()).toBe(false)
  })

  it('draws a bar line to where the hand lets it go, and a touch alone moves nothing', async () => {
    const wrapper = await strip()
    const line = wrapper.find('[data-test=line-3]')
    ;(line.element as HTMLElement).setPointerCapture = () => {}
    await line.trigger('pointerdown', { clientX: 422, pointerId: 1 })
    await line.trigger('pointerup')
    expect(wrapper.emitted('draw')).toBeUndefined()
    await line.trigger('pointerdown', { clientX: 422, pointerId: 1 })
    await line.trigger('pointermove', { clientX: 422 + WIDTH / 80 })
    expect(wrapper.find('.drawn').exists()).toBe(true)
    await line.trigger('pointerup')
    const [number, time] = wrapper.emitted('draw')![0] as [number, number]
    expect(number).toBe(3)
    expect(time).toBeCloseTo(4.1, 3)
    expect(wrapper.find('.drawn').exists()).toBe(false)
  })
})
