/** The chart: its pages are drawn from lines that are kept, what sounds is lit, a click goes there. */
import { describe, expect, it, vi } from 'vitest'
import { nextTick, shallowRef } from 'vue'
import type { Chart, Score } from '@/api/client'
import ChartChoices from '@/stages/chart/ChartChoices.vue'
import ChartFiles from '@/stages/chart/ChartFiles.vue'
import ChartSheets from '@/stages/chart/ChartSheets.vue'
import ChartStage from '@/stages/chart/ChartStage.vue'
import OtherPart from '@/stages/chart/OtherPart.vue'
import PartList from '@/stages/chart/PartList.vue'
import BarWords from '@/stages/chart/BarWords.vue'
import { FRESH, queryOf } from '@/stages/chart/options'
import { useChart } from '@/stages/chart/useChart'
import { drawSheets, measureOf, noteOf } from '@/stages/chart/useSheets'
import { answer, bar, hit, score, used, withOwnClockAndStore } from './composing'
import { composedSong, inSong } from './opening'

const measure = (name: string, bars: number[], span = 1) => ({ name, page: 0, bars, span, left: 0, top: 0, right: 9, bottom: 9 })
const line = (name: string, inside: string) => ({ name, transform: 'translate(1,2)', svg: inside })
const note = (id: string, at: string) => `<g id="${id}" class="note snare" data-at="${at}"><path d="M0 0"/></g>`

/** Bar 1 is played again as bar 3; bar 2 is a sign for itself. */
function chartOf(change: Partial<Chart> = {}): Chart {
  return {
    revision: 1,
    glyphs: { E0A4: 'M0 0' },
    pages: [
      {
        width: 210,
        height: 297,
        texts: '<text class="t-title">Composed</text>',
        systems: [
          line('one', `<g id="m1" class="measure">${note('n1-1_4-snare', '0.2500')}</g>`),
          line('two', '<g id="m2" class="measure"><path d="M0 0"/></g>'),
        ],
      },
    ],
    measures: [measure('m1', [1, 3]), measure('m2', [2])],
    parts: [],
    remarks: [],
    cues: [],
    ...change,
  }
}

describe('the pages', () => {
  it('keep the lines that have not changed and take those that have', () => {
    const into = document.createElement('div')
    drawSheets(into, chartOf())
    const [first, second] = into.querySelectorAll('g[data-name]')
    const next = chartOf()
    next.pages[0]!.systems[1] = line('three', '<g id="m2" class="measure"><path d="M1 1"/></g>')
    drawSheets(into, next)
    const after = [...into.querySelectorAll<SVGGElement>('g[data-name]')]
    expect(after[0]).toBe(first)
    expect(after[1]).not.toBe(second)
    expect(after.map((item) => item.dataset.name)).toEqual(['one', 'three'])
    expect(into.querySelector('defs #E0A4')).not.toBeNull()
    expect(into.querySelectorAll('.sheet')).toHaveLength(1)
  })

  it('leave every line that has not changed where it is, also those after the changed one', () => {
    const into = document.createElement('div')
    const five = ['a', 'b', 'c', 'd', 'e']
    const drawn = (names: string[]) => {
      const chart = chartOf()
      chart.pages[0]!.systems = names.map((name) => line(name, `<g id="m-${name}" class="measure"/>`))
      return chart
    }
    drawSheets(into, drawn(five))
    const moved: string[] = []
    const lines = into.querySelector('g.lines')!
    const insert = lines.insertBefore.bind(lines)
    lines.insertBefore = ((node: SVGGElement, before: Node | null) => {
      moved.push(node.dataset.name!)
      return insert(node, before)
    }) as typeof lines.insertBefore
    drawSheets(into, drawn(['a', 'x', 'c', 'd', 'e']))
    expect(moved).toEqual(['x'])
    expect([...into.querySelectorAll<SVGGElement>('g[data-name]')].map((item) => item.dataset.name)).toEqual(['a', 'x', 'c', 'd', 'e'])
  })

  it('know which measure a bar is played from, also under a sign of many bars', () => {
    const chart = chartOf({ measures: [measure('m1', [1, 5], 2), measure('m3', [3], 2)] })
    expect([1, 2, 3, 4, 5, 6, 7].map((number) => measureOf(chart, number)?.name)).toEqual([
      'm1', 'm1', 'm3', 'm3', 'm1', 'm1', undefined,
    ])
  })

  it('tell bar, place and drum of a note by its head', () => {
    expect(noteOf('n12-3_16-hihat_closed')).toEqual({ bar: 12, position: '3/16', instrument: 'hihat_closed' })
    expect(noteOf('n12-0_1-kick')).toEqual({ bar: 12, position: '0', instrument: 'kick' })
    expect(noteOf('m12')).toBeNull()
  })
})

function opened(chart: Chart | null = chartOf(), held = score([bar(1, [hit('1/4', 'snare', { time: 0.5 })]), bar(2), bar(3)])) {
  const open = composedSong(held)
  open.chart.chart.value = chart
  return open
}

describe('the sheets', () => {
  it('light the bar that sounds, and the notes while they sound', async () => {
    const open = opened()
    open.player.isPlaying.value = true
    open.player.currentBar.value = open.bars.value[0]
    open.player.position.value = 0.55
    const drawn = inSong(ChartSheets, open)
    await nextTick()
    open.player.position.value = 0.56
    await nextTick()
    expect(drawn.findAll('.measure.sounding').map((item) => item.attributes('id'))).toEqual(['m1'])
    expect(drawn.findAll('.note.lit')).toHaveLength(1)
    open.player.position.value = 0.9
    await nextTick()
    expect(drawn.findAll('.note.lit')).toHaveLength(0)
    open.player.currentBar.value = open.bars.value[1]
    await nextTick()
    expect(drawn.findAll('.measure.sounding').map((item) => item.attributes('id'))).toEqual(['m2'])
  })

  it('bring into sight the bar that one comes from, and then the bar that plays', async () => {
    const seen: string[] = []
    Element.prototype.scrollIntoView = function (this: Element) {
      seen.push(this.id)
    }
    const open = opened()
    open.stack.place({ bar: 2, position: '0' })
    inSong(ChartSheets, open)
    await nextTick()
    expect(seen.at(-1)).toBe('m2')
    open.player.isPlaying.value = true
    open.player.currentBar.value = open.bars.value[2]
    await nextTick()
    expect(seen.at(-1)).toBe('m1')
  })

  it('go to the note that is clicked, in the pass that is nearest', async () => {
    const open = opened()
    open.stack.place({ bar: 3, position: '0' })
    const drawn = inSong(ChartSheets, open)
    await nextTick()
    await drawn.find('.note path').trigger('click')
    expect(open.stack.cursor.value).toMatchObject({ bar: 3, position: '1/4' })
    expect(open.player.seek).toHaveBeenCalledWith(4.5)
  })
})

describe('the stage', () => {
  it('says what it waits for, and offers to try again', async () => {
    const open = opened(null)
    const drawn = inSong(ChartStage, open)
    expect(drawn.text()).toContain('Engraving the chart')
    open.chart.problem.value = 'Away.'
    await nextTick()
    expect(drawn.find('[role=alert]').text()).toContain('Away.')
    await drawn.find('[role=alert] button').trigger('click')
    expect(open.chart.fetchChart).toHaveBeenCalledOnce()
  })

  it('stands alone on a stand', async () => {
    const open = opened()
    const drawn = inSong(ChartStage, open)
    expect(drawn.find('aside').exists()).toBe(true)
    open.chart.isBig.value = true
    await nextTick()
    expect(drawn.find('aside').exists()).toBe(false)
    expect(drawn.find('.stage-theme').exists()).toBe(true)
  })

  it('keeps to one limb when the others are unticked', async () => {
    const open = opened()
    const drawn = inSong(ChartChoices, open)
    await drawn.findAll('.limbs input')[0]!.setValue(false)
    expect(open.chart.choose).toHaveBeenLastCalledWith({ limbs: 'LH,RF,LF' })
  })
})

describe('the files', () => {
  it('are offered as the chart is seen', async () => {
    const open = opened()
    const drawn = inSong(ChartFiles, open)
    const files = drawn.findAll('a').map((link) => link.attributes('href'))
    expect(files).toContain('/api/songs/song/files/chart.pdf')
    expect(files).toContain('/api/songs/song/bundle')
    expect(files).toHaveLength(11)
    open.chart.choice.value = { ...FRESH, reading: 'essence', count: true }
    await nextTick()
    expect(drawn.find('a').attributes('href')).toBe('/api/songs/song/files/chart.pdf?reading=essence&count=true')
    expect(queryOf({ ...FRESH })).toBe('')
  })
})

describe('words and parts', () => {
  it('puts words over the bar of the cursor, and shows those that are there', async () => {
    const open = opened(chartOf({ cues: [{ time: 0, words: 'vocals in' }] }))
    open.stack.place({ bar: 1, position: '0' })
    const drawn = inSong(BarWords, open)
    expect((drawn.find('input').element as HTMLInputElement).value).toBe('vocals in')
    await drawn.find('input').setValue('stop')
    await drawn.find('form').trigger('submit')
    expect(open.part.setCue).toHaveBeenCalledWith(1, 'stop')
  })

  it('drops a part, takes it back, adds one', async () => {
    const item = { first_bar: 1, bars: 2, places: [1], share: 0.5, words: 'once', kept: true, wanted: false }
    const open = opened(chartOf({ parts: [item, { ...item, first_bar: 5, kept: false }] }))
    open.stack.place({ bar: 3, position: '0' })
    const drawn = inSong(PartList, open)
    const button = (text: string) => drawn.findAll('button').find((one) => one.text() === text)!
    await button('Drop').trigger('click')
    expect(open.part.decidePart).toHaveBeenLastCalledWith({ first_bar: 1, bars: 2, wanted: false })
    await button('Take back').trigger('click')
    expect(open.part.decidePart).toHaveBeenLastCalledWith({ first_bar: 5, bars: 2, wanted: null })
    await button('Add as a part').trigger('click')
    expect(open.part.decidePart).toHaveBeenLastCalledWith({ first_bar: 3, bars: 2, wanted: true })
  })

  it('compares a part by somebody else and takes it over when asked', async () => {
    const open = opened()
    const found = { title: 'x', shift: 2, same: [3], differing: [4, 5], beyond: 1, agreement: 0.8, remarks: ['One is left out.'], edited: null }
    open.part.comparePart.mockResolvedValue(found)
    const drawn = inSong(OtherPart, open)
    await drawn.find('button').trigger('click')
    const input = drawn.find('input').element as HTMLInputElement
    Object.defineProperty(input, 'files', { value: [new File(['x'], 'a.mid')] })
    input.dispatchEvent(new Event('change'))
    await vi.waitFor(() => expect(drawn.find('[data-test=compared]').exists()).toBe(true))
    expect(drawn.text()).toContain('1 of 3 bars say the same, 80 % of the strokes. Its bar 1 is bar 3 here.')
    expect(drawn.text()).toContain('One is left out.')
    await drawn.findAll('button').find((one) => one.text().startsWith('Use its notes'))!.trigger('click')
    expect(open.part.comparePart).toHaveBeenLastCalledWith(expect.any(File), true)
  })
})

describe('fetching', () => {
  withOwnClockAndStore()
  const at = (revision: number): Score => ({ ...score([bar(1)]), revision })

  function fetching(serve: (have: string) => Response, isShown = true) {
    const asked: URLSearchParams[] = []
    vi.stubGlobal('fetch', async (request: Request) => {
      const query = new URL(request.url).searchParams
      asked.push(query)
      return serve(query.get('have') ?? '')
    })
    const part = shallowRef<Score | null>(null)
    const made = used(() => useChart('song', part, () => isShown))
    part.value = at(1)
    return { part, asked, ...made }
  }

  it('asks only where the chart is looked at, and names the lines that it has', async () => {
    const away = fetching(() => answer(chartOf()), false)
    await vi.advanceTimersByTimeAsync(5000)
    expect(away.asked).toHaveLength(0)
    const { part, asked, chart } = fetching((have) => {
      const sent = chartOf({ revision: have ? 2 : 1 })
      if (have) sent.pages[0]!.systems[0]!.svg = null
      return answer(sent)
    })
    await vi.advanceTimersByTimeAsync(50)
    expect(asked.at(-1)!.get('have')).toBe('')
    const first = chart.value!.pages[0]!.systems[0]!.svg
    part.value = at(2)
    await vi.advanceTimersByTimeAsync(50)
    expect(asked.at(-1)!.get('have')).toBe('one,two')
    expect(chart.value!.revision).toBe(2)
    expect(chart.value!.pages[0]!.systems[0]!.svg).toBe(first)
  })

  it('keeps what was there when it cannot be had, and says why', async () => {
    let broken = false
    const { part, chart, problem, fetchChart } = fetching(() =>
      broken ? answer({ code: 'busy', detail: 'The engraver is busy.' }, 503) : answer(chartOf()),
    )
    await vi.advanceTimersByTimeAsync(50)
    broken = true
    part.value = at(2)
    await vi.advanceTimersByTimeAsync(10_000)
    expect(problem.value, 'tried some times by itself').toBe('The engraver is busy.')
    expect(chart.value!.revision).toBe(1)
    broken = false
    await fetchChart()
    expect(problem.value).toBe('')
  })

  it('asks again by itself where who draws is away for a moment', async () => {
    let answers = 0
    const { chart, problem } = fetching(() =>
      ++answers < 3 ? answer({ code: 'away', detail: 'It is tried again.' }, 503) : answer(chartOf()),
    )
    await vi.advanceTimersByTimeAsync(5000)
    expect(chart.value!.revision).toBe(1)
    expect(problem.value).toBe('')
  })

  it('redraws for another reading and remembers the choice', async () => {
    const { asked, choose, choice } = fetching(() => answer(chartOf()))
    await vi.advanceTimersByTimeAsync(50)
    choose({ reading: 'map' })
    await vi.advanceTimersByTimeAsync(50)
    expect(asked.at(-1)!.get('reading')).toBe('map')
    expect(choice.value.reading).toBe('map')
  })
})
