import { flushPromises, mount } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import type { PhraseNote, Run, ShelfSong } from '@/api/client'
import SongRibbon from '@/ribbon/SongRibbon.vue'
import ImportPlace from '@/shelf/ImportPlace.vue'
import SongRow from '@/shelf/SongRow.vue'
import NoteSign from '@/signs/NoteSign.vue'
import { placed, SHAPES } from '@/signs/shapes'
import BarRow from '@/stages/grooves/BarRow.vue'
import CountRuler from '@/stages/grooves/CountRuler.vue'
import { laneY, placeX } from '@/stages/grooves/rowLayout'
import PhraseBar from '@/stages/grooves/PhraseBar.vue'
import KeysDialog from '@/transport/KeysDialog.vue'
import { bar, hit, score } from './composing'

const global = { plugins: [PrimeVue], stubs: { RouterLink: { template: '<a><slot /></a>' } } }

afterEach(() => vi.unstubAllGlobals())

describe('how a note is drawn', () => {
  const draw = (props: object) =>
    mount(NoteSign, { props: { instrument: 'snare', limb: 'RH', x: 0, y: 0, ...props } })

  it('is solid for a right limb and hollow for a left one', () => {
    expect(draw({ limb: 'RH' }).classes()).not.toContain('hollow')
    expect(draw({ limb: 'LH' }).classes()).toContain('hollow')
    expect(draw({ limb: 'LF', instrument: 'hihat_foot' }).classes()).toContain('hollow')
  })

  it('is a cross for a cymbal and a round head for a drum', () => {
    expect(draw({ instrument: 'hihat_closed' }).find('.stroke').exists()).toBe(true)
    expect(draw({ instrument: 'snare' }).find('.head').exists()).toBe(true)
  })

  it('has a ring when the hat is open and a slash when it is a cross-stick', () => {
    expect(draw({ instrument: 'hihat_open' }).find('.ring').exists()).toBe(true)
    expect(draw({ instrument: 'hihat_closed' }).find('.ring').exists()).toBe(false)
    expect(draw({ instrument: 'cross_stick' }).find('.slash').exists()).toBe(true)
  })

  it('says ghost, accent and doubt by shape, not by colour alone', () => {
    expect(draw({ ghost: true }).find('.bracket').exists()).toBe(true)
    expect(draw({ accent: true }).find('.cap').exists()).toBe(true)
    expect(draw({ doubtful: true }).find('.doubt').exists()).toBe(true)
    const width = (props: object) => Number(/a([\d.]+)/.exec(draw(props).find('.head').attributes('d')!)![1])
    expect(width({ ghost: true })).toBeLessThan(0.7 * width({}))
    expect(width({ accent: true })).toBeGreaterThan(width({}))
  })

  it('stands at its place without being moved there', () => {
    const note = draw({ instrument: 'hihat_open', x: 100, y: 40 })
    expect(note.find('.stroke').attributes('d')).toBe('M95 35L105 45M105 35L95 45')
    expect([note.find('.ring').attributes('cx'), note.find('.ring').attributes('cy')]).toEqual(['100', '40'])
    expect(placed(SHAPES.buzz, 10, 20, 2)).toBe('M3 -2L17 -2L3 6L17 6')
    expect(draw({ ornament: 'drag', ghost: true, doubtful: true }).html()).not.toContain('transform')
  })

  it('draws half a ring for a hat that is half open, a whole one for one that is wide open', () => {
    const half = draw({ instrument: 'hihat_open', half: true, x: 100, y: 40 })
    expect(half.find('circle.ring').exists()).toBe(false)
    expect(half.find('path.ring').attributes('d')).toBe('M92 40a8 8 0 0 1 16 0')
    expect(draw({ instrument: 'hihat_open' }).find('circle.ring').exists()).toBe(true)
  })

  it('tells toms apart by their dots', () => {
    const dots = (instrument: string) => draw({ instrument }).findAll('.dot').length
    expect([dots('tom_high'), dots('tom_mid'), dots('tom_floor')]).toEqual([1, 2, 3])
  })
})

const core: PhraseNote = {
  bar: 0,
  count: 8,
  asked: 8,
  ornament: null,
  opening: null,
  position: '1/4',
  instrument: 'snare',
  standing: 'core',
  share: 1,
  velocity: 100,
  ghost: false,
  accent: false,
  limb: 'LH',
}

describe('a bar of the stack', () => {
  const row = (hits = [hit('1/4', 'snare')], typical = [core]) =>
    mount(BarRow, { props: { bar: bar(1, hits), typical, width: 822, cursor: null } })

  it('draws what belongs to the phrase quietly and what differs strongly', () => {
    const drawn = row([hit('1/4', 'snare'), hit('3/8', 'kick')])
    const tones = drawn.findAllComponents(NoteSign).map((sign) => sign.props('tone'))
    expect(tones).toEqual(['same', 'ink'])
  })

  it('marks a core note that is lacking, but not in a bar of rest', () => {
    expect(row([hit('0', 'kick')]).findAll('.lack')).toHaveLength(1)
    expect(row([]).findAll('.lack')).toHaveLength(0)
  })

  it('draws what was left out faintly and struck out, unless something sounds there', () => {
    const out = hit('1/4', 'snare', { status: 'left_out' })
    const signs = row([out, hit('0', 'kick')]).findAllComponents(NoteSign)
    expect(signs.map((sign) => [sign.props('out'), sign.props('tone')])).toEqual([
      [true, 'faint'],
      [false, 'ink'],
    ])
    expect(row([out, hit('1/4', 'cross_stick', { limb: 'LH' })]).findAllComponents(NoteSign)).toHaveLength(1)
  })

  it('shades the cells in which the record sounds, also where nothing is written', () => {
    const none = '0'.repeat(16)
    const shade = { bar: 1, RH: none, LH: '0000900400000000', RF: none, LF: none }
    const drawn = mount(BarRow, { props: { bar: bar(1), typical: [], width: 822, cursor: null, shade } })
    const cells = drawn.findAll('.sounded').map((cell) => Number(cell.attributes('fill-opacity')).toFixed(2))
    expect(cells).toEqual(['1.00', '0.44'])
  })

  it('marks what is selected', () => {
    const selection = { from: { bar: 1, place: 0.5 }, to: { bar: 2, place: 0 }, limbs: ['LH', 'RF'] as const }
    const drawn = mount(BarRow, { props: { bar: bar(1), typical: [], width: 822, cursor: null, selection } })
    expect(drawn.findAll('.chosen')).toHaveLength(16)
  })

  it('tells which count and limb was clicked', async () => {
    const drawn = row()
    drawn.find('svg').element.getBoundingClientRect = () => new DOMRect(0, 0, 822, 81)
    const at = { clientX: placeX('7/16', 822) + 4, clientY: laneY('LH') - 3, detail: 1 }
    await drawn.find('svg').trigger('click', at)
    expect(drawn.emitted('pick')?.[0]).toEqual(['7/16', 'LH', false])
  })

  it('shows the cursor where it is', async () => {
    const drawn = row()
    await drawn.setProps({ cursor: { position: '1/2', limb: 'RF' } })
    expect(Number(drawn.find('.cursor').attributes('x'))).toBeCloseTo(placeX('1/2', 822) - 13)
  })
})

describe('the head of the stack', () => {
  it('writes every word of the count, numbers on the beats', () => {
    const words = mount(CountRuler, { props: { bar: bar(1), width: 800 } })
    expect(words.findAll('text').map((word) => word.text()).join(' ')).toBe('1 e & a 2 e & a 3 e & a 4 e & a')
    expect(words.findAll('.beat')).toHaveLength(4)
  })

  it('says of a typical note how often it is there', () => {
    const usual = { ...core, standing: 'usual' as const, share: 0.6, count: 6, asked: 10 }
    const drawn = mount(PhraseBar, { props: { bar: bar(1), notes: [usual], width: 800 } })
    expect(drawn.find('title').text()).toBe('snare on beat 2: usual, in 6 of 10 bars')
    expect(Number(drawn.find('.share').attributes('width'))).toBeCloseTo(8.4)
  })
})

describe('the ribbon', () => {
  it('draws runs of confirmed bars as one line', () => {
    const done = (number: number) => bar(number, [hit('0', 'kick', { settled: true })])
    const part = score([done(1), done(2), bar(3, [hit('0', 'kick')]), done(4), bar(5)])
    const drawn = mount(SongRibbon, { props: { score: part, position: 0, loop: null } })
    expect(drawn.findAll('.settled')).toHaveLength(2)
  })

  function ribbon() {
    const part = { ...score([bar(1), bar(2, [hit('0', 'kick', { status: 'doubtful' })]), bar(3), bar(4)]) }
    const drawn = mount(SongRibbon, { props: { score: part, position: 0, loop: null } })
    const strip = drawn.find('.ribbon').element as HTMLElement
    strip.getBoundingClientRect = () => ({ left: 0, width: 800, top: 0, height: 74 }) as DOMRect
    strip.setPointerCapture = () => {}
    return drawn
  }
  const at = (x: number) => ({ clientX: x, button: 0, pointerId: 1 })

  it('goes where it is clicked', async () => {
    const drawn = ribbon()
    await drawn.find('.ribbon').trigger('pointerdown', at(400))
    await drawn.find('.ribbon').trigger('pointerup', at(402))
    expect(drawn.emitted('seek')?.[0]?.[0]).toBeCloseTo(4.02)
    expect(drawn.emitted('loop')).toBeUndefined()
  })

  it('makes a loop of whole bars where it is dragged, either way', async () => {
    const drawn = ribbon()
    for (const [from, to] of [[250, 560], [560, 250]] as const) {
      await drawn.find('.ribbon').trigger('pointerdown', at(from))
      await drawn.find('.ribbon').trigger('pointermove', at((from + to) / 2))
      await drawn.find('.ribbon').trigger('pointermove', at(to))
      await drawn.find('.ribbon').trigger('pointerup', at(to))
    }
    expect(drawn.emitted('loop')?.[0]?.[0]).toMatchObject({ last: 3 })
    expect(drawn.emitted('loop')?.[1]?.[0]).toMatchObject({ first: 2 })
  })

  it('goes a bar at a time by arrow keys', async () => {
    const drawn = ribbon()
    await drawn.find('.ribbon').trigger('keydown', { key: 'ArrowRight' })
    expect(drawn.emitted('seek')?.[0]).toEqual([2])
    await drawn.setProps({ position: 4.5 })
    await drawn.find('.ribbon').trigger('keydown', { key: 'ArrowLeft' })
    expect(drawn.emitted('seek')?.[1]).toEqual([2])
  })

  it('ticks the bars that hold doubts', () => {
    expect(ribbon().findAll('.doubt')).toHaveLength(1)
  })
})

const running: Run = { state: 'running', stage: 'listen', progress: 0.42, message: '', seconds_left: 3.2 }
const onShelf: ShelfSong = {
  id: 'a',
  title: 'Composed',
  file_name: 'take.ogg',
  duration: 88,
  tempo_bpm: 112.1,
  meter: '4/4',
  feel: 'straight',
  has_score: true,
  doubts: 3,
  bars: 41,
  role: 'owner',
  owner: 'ada',
  is_shared: false,
  performer: '',
  difficulty: 0,
  rhythms: '',
  tags: [],
  practised_at: null,
  next_step: '',
  run: null,
}

describe('a song on the shelf', () => {
  const row = (change: Partial<ShelfSong>) => mount(SongRow, { props: { song: { ...onShelf, ...change } }, global })

  it('says what it is and what is left to check', () => {
    const text = row({}).text()
    expect(text).toContain('112 bpm · 4/4 · straight')
    expect(text).toContain('41 bars, 3 uncertain notes')
    expect(text).toContain('1:28')
  })

  it('shows how far the listening is, and offers to cancel it', async () => {
    const drawn = row({ has_score: false, run: running })
    expect(drawn.text()).toContain('Listening for drums')
    expect(drawn.text()).toContain('about 4 s left')
    await drawn.find('button').trigger('click')
    expect(drawn.emitted('cancel')).toHaveLength(1)
  })

  it.each(['failed', 'interrupted', 'cancelled'] as const)('offers to try again when it %s', async (state) => {
    const drawn = row({ has_score: false, run: { ...running, state, message: 'The reason.' } })
    expect(drawn.text()).toContain('The reason.')
    await drawn.findAll('button').find((button) => button.text() === 'Try again')!.trigger('click')
    expect(drawn.emitted('tryAgain')).toHaveLength(1)
  })

  it('says when no beat was found', () => {
    expect(row({ tempo_bpm: 0 }).text()).toContain('no steady beat found')
  })
})

describe('importing', () => {
  /** A request that answers at once with a status and a body. */
  function answering(status: number, body: object) {
    class Request {
      upload = {} as { onprogress?: (event: object) => void }
      status = status
      response = body
      onload = () => {}
      open() {}
      setRequestHeader() {}
      send() {
        this.upload.onprogress?.({ loaded: 5, total: 10 })
        queueMicrotask(() => this.onload())
      }
    }
    vi.stubGlobal('XMLHttpRequest', Request)
  }

  let drawn: ReturnType<typeof mount>
  afterEach(() => drawn.unmount())

  /** Something comes over the page, or is let go there; tells whether the browser leaves it alone. */
  function over(kind: string, types: string[], files: File[] = []): boolean {
    const event = new Event(kind, { cancelable: true })
    const items = types.map((type) => ({ kind: type === 'Files' ? 'file' : 'string' }))
    Object.defineProperty(event, 'dataTransfer', { value: { types, items, files } })
    document.documentElement.dispatchEvent(event)
    return event.defaultPrevented
  }

  async function drop() {
    drawn = mount(ImportPlace, { props: { limits: 'WAV', suffixes: ['.wav'] }, global })
    over('drop', ['Files'], [new File(['x'], 'take.wav')])
    await flushPromises()
    return drawn
  }

  it('takes files dropped anywhere, so that the page is not left for them, and nothing else', async () => {
    answering(201, onShelf)
    drawn = mount(ImportPlace, { props: { limits: 'WAV', suffixes: ['.wav'] }, global })
    expect(over('dragover', ['text/plain'])).toBe(false)
    expect(over('dragenter', ['Files'])).toBe(true)
    await nextTick()
    expect(drawn.find('.place').classes()).toContain('over')
    expect(over('drop', ['Files'], [new File(['x'], 'one.wav'), new File(['x'], 'two.wav')])).toBe(true)
    await flushPromises()
    expect(drawn.emitted('imported')).toHaveLength(2)
    expect(drawn.find('.place').classes()).not.toContain('over')
  })

  it('tells the shelf when a recording is in', async () => {
    answering(201, onShelf)
    const drawn = await drop()
    expect(drawn.emitted('imported')).toHaveLength(1)
    expect(drawn.find('.uploads').exists()).toBe(false)
  })

  it('shows the reason of a refusal until it is closed', async () => {
    answering(400, { code: 'refused', detail: 'The file is empty.' })
    const drawn = await drop()
    expect(drawn.find('[role=alert]').text()).toBe('The file is empty.')
    expect(drawn.emitted('imported')).toBeUndefined()
    await drawn.findAll('button').find((button) => button.text() === 'Close')!.trigger('click')
    expect(drawn.find('[role=alert]').exists()).toBe(false)
  })
})

describe('the keys', () => {
  it('are shown by groups', async () => {
    const keys = [{ key: 'ArrowRight', shown: '→', does: 'next count', group: 'Move', run: () => {} }]
    mount(KeysDialog, { props: { visible: true, keys }, global, attachTo: document.body })
    await flushPromises()
    expect(document.body.textContent).toContain('next count')
  })
})
