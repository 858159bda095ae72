/** The Listen and Form stages: pictures, taps, and changes made from the cursor. */
import { describe, expect, it, vi } from 'vitest'
import { nextTick, shallowRef } from 'vue'
import type { Score, Section, Source } from '@/api/client'
import { linesBetween } from '@/ribbon/lines'
import FormStage from '@/stages/form/FormStage.vue'
import { makeKey } from '@/song/keyUse'
import { useFormCursor } from '@/stages/form/useFormCursor'
import { listen } from '@/stages/listen'
import ListenStage from '@/stages/listen/ListenStage.vue'
import { heights, steps, tapTempo } from '@/stages/listen/scales'
import SourceList from '@/stages/listen/SourceList.vue'
import TapPanel from '@/stages/listen/TapPanel.vue'
import { useTaps } from '@/stages/listen/useTaps'
import { bar, hit, score } from './composing'
import { choose, composedSong, inSong, recordings } from './opening'

function section(label: string, first: number, bars: number, change: Partial<Section> = {}): Section {
  return {
    label,
    mark: 'A',
    start: (first - 1) * 2,
    end: (first - 1 + bars) * 2,
    bars,
    first_bar: first,
    confirmed: false,
    phrases: [4, 4],
    like: null,
    differing: [],
    words: '',
    notes: [],
    cells: Array.from({ length: bars }, (_, index) => ({
      number: first + index,
      density: 0.5,
      fill: index === bars - 1,
      crash: index === 0,
      meter: null,
    })),
    ...change,
  }
}

function piece(): Score {
  const bars = Array.from({ length: 17 }, (_, index) => bar(index + 1, [hit('0', 'kick')]))
  return {
    ...score(bars),
    sections: [
      section('Verse', 1, 8),
      section('Chorus', 9, 9, {
        mark: 'B',
        phrases: [4, 5],
        notes: [{ bar: 9, kind: 'odd length', words: 'Chorus has 9 bars, one more than 8.' }],
      }),
    ],
  }
}

describe('scales', () => {
  it.each([
    [80, 90, 4, [80, 85, 90]],
    [119.5, 120.5, 4, [119.5, 120, 120.5]],
    [0, 0, 4, [0]],
  ])('from %d to %d are round', (low, high, count, expected) => expect(steps(low, high, count)).toEqual(expected))

  it('close the circle of a beat', () => expect(heights([2, 0, 1])).toEqual([1, 0, 0.5, 1]))
  it('do not divide by nothing', () => expect(heights([0, 0])).toEqual([0, 0, 0]))

  it('tell the tempo of taps once there are four', () => {
    expect(tapTempo([0, 0.5, 1])).toBeNull()
    expect(tapTempo([0, 0.5, 1, 1.52, 2])).toBeCloseTo(120, 0)
  })
})

describe('tapping', () => {
  it('sends the moments of the song, and begins anew when the song goes back', async () => {
    let time = 0
    const send = vi.fn().mockResolvedValue(true)
    const taps = useTaps((moment) => moment + (time += 0.5), send)
    for (let n = 0; n < 3; n++) taps.tap(0)
    await taps.lay()
    expect(send).not.toHaveBeenCalled()
    time = -0.5
    for (let n = 0; n < 5; n++) taps.tap(0)
    expect(taps.taps.value).toEqual([0, 0.5, 1, 1.5, 2])
    taps.beatsABar.value = 3
    await taps.lay()
    expect(send).toHaveBeenCalledWith([0, 0.5, 1, 1.5, 2], 3)
    expect(taps.taps.value).toEqual([])
  })

  it('takes the moment at which a key went down, which a busy page learns later, and none of a key that is held', () => {
    const taps = useTaps((moment) => moment / 1000, vi.fn())
    const [tap] = listen.keys!({ taps } as never, makeKey)
    const press = (timeStamp: number, repeat = false) => tap!.run({ timeStamp, repeat } as KeyboardEvent)
    press(100)
    expect(taps.isOpen.value, 'the first press opens what taps are laid with').toBe(true)
    press(500)
    press(530, true)
    press(1000)
    expect(taps.taps.value).toEqual([0.5, 1])
  })

  it('takes the moment at which a finger came down on the pad, not when it left it', async () => {
    const taps = useTaps((moment) => moment / 1000, vi.fn())
    const wrapper = inSong(TapPanel, composedSong(piece(), { taps }))
    const pad = wrapper.find('[data-test=tap]')
    const down = (timeStamp: number) => Object.defineProperty(new Event('pointerdown'), 'timeStamp', { value: timeStamp })
    pad.element.dispatchEvent(down(2000))
    await nextTick()
    expect(wrapper.text()).toContain('Nothing plays yet')
    await pad.trigger('click')
    pad.element.dispatchEvent(down(2500))
    await pad.trigger('keydown', { key: ' ', repeat: true })
    expect(taps.taps.value).toEqual([2, 2.5])
  })

  it('keeps the taps when they were refused', async () => {
    let time = 0
    const taps = useTaps(() => (time += 0.5), vi.fn().mockResolvedValue(false))
    for (let n = 0; n < 4; n++) taps.tap(0)
    await taps.lay()
    expect(taps.taps.value).toHaveLength(4)
  })
})

describe('the cursor of the form', () => {
  function cursor() {
    const send = vi.fn().mockResolvedValue(true)
    return { send, at: useFormCursor(shallowRef(piece()), send) }
  }

  it('runs from section to section along the bars', () => {
    const { at } = cursor()
    for (let n = 0; n < 8; n++) at.alongBars(1)
    expect(at.at.value).toEqual({ row: 1, bar: 1 })
    at.alongBars(-1)
    expect(at.at.value).toEqual({ row: 0, bar: 8 })
    at.alongRows(-1)
    expect(at.at.value.row).toBe(0)
  })

  it('makes every change from where it is', () => {
    const { at, send } = cursor()
    at.split()
    at.merge()
    at.move(1)
    expect(send).not.toHaveBeenCalled()
    at.place(0, 5)
    at.split()
    at.place(1)
    at.merge()
    at.move(-1)
    at.name()
    at.rename('  Solo ')
    at.rename('  Solo ')
    at.name()
    at.rename('   ')
    at.sameAs(1)
    at.confirm()
    expect(send.mock.calls.map(([change]) => change)).toEqual([
      { kind: 'split', first_bar: 5 },
      { kind: 'merge', first_bar: 9 },
      { kind: 'move', first_bar: 9, to: 8 },
      { kind: 'rename', first_bar: 9, label: '  Solo ' },
      { kind: 'same_as', first_bar: 9, to: 1 },
      { kind: 'confirm', first_bar: 9, confirmed: true },
    ])
  })
})

describe('the Form stage', () => {
  it('shows rows, odd lengths and what differs, and loops a section', async () => {
    const whole = piece()
    whole.sections[1] = { ...whole.sections[1]!, like: 'Verse', differing: [2], words: 'Chorus = Verse, except bar 2.' }
    const open = composedSong(whole)
    const shown = inSong(FormStage, open)
    const rows = shown.findAll('[data-test=section]')
    expect(rows).toHaveLength(2)
    expect(rows[1]!.text()).toContain('4 + 5')
    expect(rows[1]!.text()).toContain('except bar 2')
    expect(rows[1]!.findAll('.cell.differs')).toHaveLength(1)
    expect(rows[1]!.findAll('.cell.plain')).toHaveLength(8)
    await rows[1]!.find('.link').trigger('click')
    expect(open.loopBars.mock.calls).toEqual([[9, 17]])
  })

  it('renames in place', async () => {
    const open = composedSong(piece())
    const shown = inSong(FormStage, open)
    open.form.name()
    await nextTick()
    await nextTick()
    await shown.find('input').setValue('Solo')
    await shown.find('form').trigger('submit')
    expect(open.part.changeForm).toHaveBeenCalledWith({ kind: 'rename', first_bar: 1, label: 'Solo' })
  })

  it('asks once whether the others of the letter are called so too', async () => {
    const whole = piece()
    whole.sections[1] = { ...whole.sections[1]!, mark: whole.sections[0]!.mark }
    const open = composedSong(whole)
    const shown = inSong(FormStage, open)
    expect(shown.find('[data-test=twins]').exists()).toBe(false)
    open.form.name()
    open.form.rename('Solo')
    await nextTick()
    expect(shown.find('[data-test=twins]').text()).toContain('Rename the other A section to Solo too?')
    await shown.find('[data-test=twins] button').trigger('click')
    expect(open.part.changeForm).toHaveBeenLastCalledWith({ kind: 'rename', first_bar: 1, label: 'Solo', twins: true })
    expect(shown.find('[data-test=twins]').exists()).toBe(false)
  })

  it('says by a letter that a section is the same music as another', async () => {
    const open = composedSong(piece())
    const shown = inSong(FormStage, open)
    await choose(shown, 'Chorus is the same music as', 'A')
    expect(open.part.changeForm).toHaveBeenLastCalledWith({ kind: 'same_as', first_bar: 9, to: 1 })
  })

  it('is one stop in the order of Tab, and the focus goes with the cursor', async () => {
    const open = composedSong(piece())
    const shown = inSong(FormStage, open)
    const stops = () => shown.findAll('.cell[tabindex="0"]').map((cell) => cell.attributes('aria-label'))
    expect(stops()).toEqual(['Bar 1, crash on the one'])
    shown.find<HTMLElement>('.cell[tabindex="0"]').element.focus()
    open.form.alongRows(1)
    await nextTick()
    await nextTick()
    expect(stops()).toEqual(['Bar 9, crash on the one'])
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Bar 9, crash on the one')
    shown.unmount()
  })
})

describe('the Listen stage', () => {
  const readings = [
    { key: 'tracked/4-4/0', words: '4/4 at 120', tempo_bpm: 120, meter: [4, 4], evidence: ['kick and snare fit'] },
    { key: 'half-0/4-4/0', words: '4/4 at 60', tempo_bpm: 60, meter: [4, 4], evidence: ['seldom tapped'] },
  ]

  it('offers to follow a recording that was refused, and only such', async () => {
    const take: Source = {
      id: 4, title: 'In the yard', state: 'refused', words: 'Too little agrees.', offset: 0, speed: 1, error: 0,
    }
    const sources = recordings(take, { ...take, id: 5, title: 'Drums alone', state: 'ready' })
    const shown = inSong(SourceList, composedSong(piece(), { sources }))
    const offers = shown.findAll('button').filter((button) => button.text().includes('follow'))
    expect(offers).toHaveLength(1)
    await offers[0]!.trigger('click')
    expect(sources.follow).toHaveBeenCalledWith(take)
  })

  it('offers to line up again what failed, with its words', async () => {
    const take: Source = {
      id: 4, title: 'In the yard', state: 'failed', words: 'It was interrupted twice.', offset: 0, speed: 1, error: 0,
    }
    const sources = recordings(take, { ...take, id: 5, state: 'queued', words: '' })
    const shown = inSong(SourceList, composedSong(piece(), { sources }))
    expect(shown.text()).toContain('interrupted twice')
    expect(shown.text()).toContain('waits for its turn')
    await shown.find('[data-test=line-up-again]').trigger('click')
    expect(sources.again).toHaveBeenCalledWith(take)
  })

  it('tells of readings that somebody reaches for, by mouse or by keyboard', async () => {
    const whole = piece()
    whole.listening = { ...whole.listening, readings }
    const open = composedSong(whole)
    const shown = inSong(ListenStage, open)
    const other = shown.find('[data-test="reading-half-0/4-4/0"]')
    await other.trigger('pointerenter')
    await other.trigger('focus')
    expect(open.previews.prepare.mock.calls).toEqual([['half-0/4-4/0'], ['half-0/4-4/0']])
  })

  it('offers every reading with its evidence and asks for findings to be confirmed', async () => {
    const whole = piece()
    whole.listening = { ...whole.listening, readings, confirmed: ['tempo'] }
    const open = composedSong(whole)
    const shown = inSong(ListenStage, open)
    await shown.find('[data-test="reading-half-0/4-4/0"]').trigger('click')
    expect(open.takeReading.mock.calls).toEqual([['half-0/4-4/0']])
    expect(shown.text()).toContain('kick and snare fit')
    await shown.find('[data-test=confirm-tempo]').trigger('click')
    await shown.find('[data-test=confirm-first-beat]').trigger('click')
    expect(open.part.confirm.mock.calls).toEqual([
      ['tempo', false],
      ['first beat', true],
    ])
    expect(shown.find('[data-test=tapping]').exists()).toBe(false)
  })
})

describe('the lines over the waveform', () => {
  const bars = Array.from({ length: 32 }, (_, index) => bar(index + 1))

  it('are beats where there is room, bars where there is less, every fourth where there is little', () => {
    expect(linesBetween(bars, 0, 8, 800).filter((line) => line.kind === 'beat')).toHaveLength(12)
    expect(linesBetween(bars, 0, 64, 400).map((line) => line.kind)).not.toContain('beat')
    expect(linesBetween(bars, 0, 64, 100).map((line) => line.time / 2 + 1)).toEqual([1, 5, 9, 13, 17, 21, 25, 29])
  })

  it('are numbered so that numbers keep apart', () => {
    const numbered = linesBetween(bars, 0, 64, 640).filter((line) => line.number !== null)
    for (let index = 1; index < numbered.length; index++) {
      expect((numbered[index]!.time - numbered[index - 1]!.time) * 10).toBeGreaterThanOrEqual(34)
    }
  })

  it('are none outside the song', () => {
    expect(linesBetween(bars, 0, 8, 800).filter((line) => line.bar !== null)).toHaveLength(4)
    expect(linesBetween(bars, 0, 64, 400).filter((line) => line.bar !== null)).toEqual([])
    expect(linesBetween(bars, 80, 90, 500)).toEqual([])
    expect(linesBetween([], 0, 10, 500)).toEqual([])
  })
})
