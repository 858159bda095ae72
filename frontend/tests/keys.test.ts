import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import { clock, leftWords, runWords } from '@/shelf/words'
import { keyGroups, type KeyUse } from '@/song/keyUse'
import { keysOf } from '@/song/keys'
import type { OpenSong } from '@/song/openSong'
import { STAGES } from '@/song/stages'
import { useKeys } from '@/song/useKeys'
import { bar, score } from './composing'
import { composedSong } from './opening'

function use(key: string, run = vi.fn()): KeyUse & { run: ReturnType<typeof vi.fn> } {
  return { key, shown: key, does: `does ${key}`, group: 'Edit', run }
}

function page(uses: KeyUse[]) {
  const host = defineComponent({
    setup() {
      useKeys(() => uses)
      return () => h('div', [h('input'), h('button', 'press'), h('a', { href: '#chart' }, 'chart'), h('div', { role: 'slider', tabindex: 0 }), h('span', { role: 'combobox', tabindex: 0 })])
    },
  })
  return mount(host, { attachTo: document.body })
}

function press(key: string, target: Element = document.body, held: KeyboardEventInit = {}): KeyboardEvent {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...held })
  target.dispatchEvent(event)
  return event
}

describe('keys', () => {
  it('do what they say and keep the browser from doing something else', () => {
    const play = use(' ')
    const shown = page([play])
    expect(press(' ').defaultPrevented).toBe(true)
    expect(play.run).toHaveBeenCalledOnce()
    shown.unmount()
    press(' ')
    expect(play.run).toHaveBeenCalledOnce()
  })

  it('tell G from Ctrl G, and take capitals for letters', () => {
    const [ghost, undo] = [use('g'), use('ctrl+z')]
    const shown = page([ghost, undo])
    press('g', document.body, { ctrlKey: true })
    expect(ghost.run).not.toHaveBeenCalled()
    press('G')
    press('z')
    press('z', document.body, { metaKey: true })
    expect(ghost.run).toHaveBeenCalledOnce()
    expect(undo.run).toHaveBeenCalledOnce()
    shown.unmount()
  })

  it('leave typing and sliders alone, and letters work on a focused button', () => {
    const ghost = use('g')
    const shown = page([ghost])
    press('g', shown.find('input').element)
    press('g', shown.find('[role=slider]').element)
    press('g', shown.find('[role=combobox]').element)
    expect(ghost.run).not.toHaveBeenCalled()
    press('g', shown.find('button').element)
    expect(ghost.run).toHaveBeenCalledOnce()
    shown.unmount()
  })

  it.each([
    ['Enter', 'a', 'is for the link, which it follows'],
    ['Enter', 'button', 'is for the button'],
    [' ', 'button', 'is for the button'],
    [' ', 'a', 'is ours: it plays, since a link has no use for it'],
  ])('%j on a focused <%s> %s', (key, element, whose) => {
    const ours = use(key)
    const shown = page([ours])
    press(key, shown.find(element).element)
    expect(ours.run).toHaveBeenCalledTimes(whose.startsWith('is ours') ? 1 : 0)
    shown.unmount()
  })

  it('belong to a dialog that is open, and to the page as soon as it closes', () => {
    const undo = use('ctrl+z')
    const shown = page([undo])
    const dialog = document.createElement('div')
    dialog.setAttribute('role', 'dialog')
    dialog.innerHTML = '<button>Close</button>'
    shown.element.append(dialog)
    const close = dialog.firstElementChild!
    press('z', close, { ctrlKey: true })
    expect(undo.run).not.toHaveBeenCalled()
    // As the dialog of PrimeVue is while it fades out.
    dialog.className = 'p-dialog p-dialog-leave-active'
    press('z', close, { ctrlKey: true })
    expect(undo.run).toHaveBeenCalledOnce()
    shown.unmount()
  })

  it('leave Alt with letters to the browser', () => {
    const ghost = use('g')
    const shown = page([ghost])
    press('g', document.body, { altKey: true })
    expect(ghost.run).not.toHaveBeenCalled()
    shown.unmount()
  })
})

describe('the keys of the song page', () => {
  const ofStage = (stage: string) =>
    keysOf(composedSong(score([bar(1)]), { stage: ref(stage) }) as unknown as OpenSong)

  it.each(STAGES.map((stage) => stage.id))('are all different in %s', (stage) => {
    const keys = ofStage(stage)
    const names = keys.map((item) => item.key)
    expect(new Set(names).size).toBe(names.length)
  })

  it.each([
    ['grooves', ['Move', 'Select', 'One key a voice', 'Edit', 'Bars and phrases', 'Listen', 'Stages']],
    ['form', ['Move', 'Edit', 'Listen', 'Stages']],
    ['listen', ['Edit', 'Stages', 'Listen']],
  ] as const)('are all told in the help of %s, in groups', (stage, names) => {
    const groups = keyGroups(ofStage(stage))
    expect(groups.map((group) => group.name)).toEqual(names)
    for (const item of groups.flatMap((group) => group.keys)) expect(item.does.length).toBeGreaterThan(2)
  })
})

describe('small texts', () => {
  it.each([
    [0, '0:00'],
    [59.9, '0:59'],
    [61, '1:01'],
    [754, '12:34'],
    [-3, '0:00'],
  ])('tell %d seconds as %s', (seconds, text) => expect(clock(seconds)).toBe(text))

  const run = { state: 'running' as const, stage: 'beats', progress: 0.5, message: '', seconds_left: 1 }

  it('say what a run does and how long it will take', () => {
    expect(runWords(run)).toBe('Following the beat')
    expect(leftWords(run)).toBe('almost there')
    expect(leftWords({ ...run, seconds_left: null })).toBe('')
    expect(runWords({ ...run, state: 'queued' })).toBe('Waiting for its turn')
    expect(runWords({ ...run, state: 'failed', message: 'Too short.' })).toBe('Too short.')
  })
})
