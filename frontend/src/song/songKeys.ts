/** Every key of the song page, with what the help says of it. */
import { PLAYED_BY } from '@/score/place'
import type { FormCursor } from '@/stages/form/useFormCursor'
import type { StackCursor } from '@/stages/grooves/useCursor'
import type { Taps } from '@/stages/listen/useTaps'
import type { SongPlayer } from '@/transport/usePlayer'
import type { Stage } from './stages'
import type { KeyUse } from './useKeys'

interface Doings {
  stage: Stage['id']
  form: FormCursor
  taps: Taps
  stack: StackCursor
  player: SongPlayer
  loop: () => void
  extendLoop: () => void
  faster: (by: number) => void
  doubt: (step: -1 | 1) => void
  undo: () => void
  redo: () => void
  go: (stage: Stage['id']) => void
  help: () => void
  wave: () => void
  goHere: () => void
}

export function songKeys(doings: Doings): KeyUse[] {
  const { stack, player } = doings
  const move = 'Move'
  const edit = 'Edit'
  const listen = 'Listen'
  const key = (k: string, shown: string, does: string, group: string, run: () => void): KeyUse => ({
    key: k,
    shown,
    does,
    group,
    run,
  })
  const choose = (index: number) => () => {
    const instrument = PLAYED_BY[stack.cursor.value.limb][index]
    if (instrument) stack.playOn(instrument)
  }
  const stages = 'Stages'
  const everywhere = [
    key('alt+1', 'Alt 1 – 4', 'Listen, Form, Grooves, Chart', stages, () => doings.go('listen')),
    key('alt+2', '', '', stages, () => doings.go('form')),
    key('alt+3', '', '', stages, () => doings.go('grooves')),
    key('alt+4', '', '', stages, () => doings.go('chart')),
    key('ctrl+z', 'Ctrl Z', 'undo', edit, doings.undo),
    key('ctrl+y', 'Ctrl Y', 'redo', edit, doings.redo),
    key('ctrl+shift+z', '', '', edit, doings.redo),
    key(' ', 'Space', 'play, pause', listen, () => player.toggle()),
    key('-', '−', 'slower', listen, () => doings.faster(-5)),
    key('+', '+', 'faster', listen, () => doings.faster(5)),
    key('=', '', '', listen, () => doings.faster(5)),
    key('w', 'W', 'the waveform', listen, doings.wave),
    key('?', '?', 'these keys', listen, doings.help),
  ]
  if (doings.stage === 'listen') {
    return [
      key('t', 'T', 'tap a beat', edit, () => {
        if (doings.taps.isOpen.value) doings.taps.tap()
        else doings.taps.isOpen.value = true
      }),
      ...everywhere,
    ]
  }
  if (doings.stage === 'form') {
    const { form } = doings
    return [
      key('ArrowDown', '↓', 'next section', move, () => form.alongRows(1)),
      key('ArrowUp', '↑', 'section before', move, () => form.alongRows(-1)),
      key('ArrowRight', '→', 'next bar', move, () => form.alongBars(1)),
      key('ArrowLeft', '←', 'bar before', move, () => form.alongBars(-1)),
      key('s', 'S', 'split: a section begins with this bar', edit, form.split),
      key('j', 'J', 'join to the section before', edit, form.merge),
      key(',', ',', 'begin this section a bar sooner', edit, () => form.move(-1)),
      key('.', '.', 'begin it a bar later', edit, () => form.move(1)),
      key('r', 'R', 'rename', edit, form.name),
      key('y', 'Y', 'confirm the section', edit, () => form.confirm()),
      key('h', 'H', 'go to the bar at the cursor', listen, doings.goHere),
      key('l', 'L', 'loop this section, or end the loop', listen, doings.loop),
      ...everywhere,
    ]
  }
  return [
    key('ArrowRight', '→', 'next count', move, () => stack.alongCounts(1)),
    key('ArrowLeft', '←', 'count before', move, () => stack.alongCounts(-1)),
    key('ArrowUp', '↑', 'limb above', move, () => stack.alongLimbs(-1)),
    key('ArrowDown', '↓', 'limb below', move, () => stack.alongLimbs(1)),
    key('PageDown', 'Page down', 'next bar', move, () => stack.alongBars(1)),
    key('PageUp', 'Page up', 'bar before', move, () => stack.alongBars(-1)),
    key('d', 'D', 'next doubt, looped', move, () => doings.doubt(1)),
    key('b', 'B', 'doubt before', move, () => doings.doubt(-1)),
    key('c', 'C', 'down to the chart', move, () => doings.go('chart')),
    key('s', 'S', 'up to the bar stack', move, () => doings.go('grooves')),
    key('Enter', 'Enter', 'add or remove the note', edit, () => stack.toggleNote()),
    key('g', 'G', 'ghost', edit, () => stack.toggleGhost()),
    key('a', 'A', 'accent', edit, () => stack.toggleAccent()),
    key('1', '1 – 7', 'play it on another instrument', edit, choose(0)),
    ...[1, 2, 3, 4, 5, 6].map((index) => key(String(index + 1), '', '', edit, choose(index))),
    key('y', 'Y', 'the doubtful note is there', edit, () => stack.settle('heard')),
    key('n', 'N', 'leave the doubtful note out', edit, () => stack.settle('left_out')),
    key('h', 'H', 'go to the bar at the cursor', listen, doings.goHere),
    key('l', 'L', 'loop this bar, or end the loop', listen, doings.loop),
    key('e', 'E', 'extend the loop to this bar', listen, doings.extendLoop),
    ...everywhere,
  ]
}
