/** Every key of the song page, with what the help says of it. */
import type { Instrument } from '@/api/client'
import { INSTRUMENT_NAMES, PLAYED_BY } from '@/api/vocabulary'
import type { FormCursor } from '@/stages/form/useFormCursor'
import type { StackCursor } from '@/stages/grooves/useCursor'
import type { StackNotes } from '@/stages/grooves/useNotes'
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
  notes: StackNotes
  relisten: () => void
  nextTab: () => void
  loopHere: () => void
  compare: () => void
  onlyThis: () => void
  without: () => void
  picture: () => void
}

export function songKeys(doings: Doings): KeyUse[] {
  const { player } = doings
  const move = 'Move'
  const edit = 'Edit'
  const listen = 'Listen'
  const key: MakeKey = (k, shown, does, group, run) => ({
    key: k,
    shown,
    does,
    group,
    run,
  })
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
  return [...grooveKeys(doings, key), ...everywhere]
}

type MakeKey = (k: string, shown: string, does: string, group: string, run: () => void) => KeyUse

/** One key a voice: where the drum is written at this count, the key takes it away again. */
const VOICES: [string, Instrument][] = [
  ['k', 'kick'],
  ['s', 'snare'],
  ['x', 'cross_stick'],
  ['h', 'hihat_closed'],
  ['o', 'hihat_open'],
  ['f', 'hihat_foot'],
  ['r', 'ride'],
  ['q', 'ride_bell'],
  ['c', 'crash'],
  ['t', 'tom_high'],
  ['m', 'tom_mid'],
  ['v', 'tom_floor'],
]

function grooveKeys(doings: Doings, key: MakeKey): KeyUse[] {
  const { stack, notes } = doings
  const [move, select, voices, edit, bars, listen] = [
    'Move',
    'Select',
    'One key a voice',
    'Edit',
    'Bars and phrases',
    'Listen',
  ] as const
  const choose = (index: number) => () => {
    const instrument = PLAYED_BY[stack.cursor.value.limb][index]
    if (instrument) notes.playOn(instrument)
  }
  return [
    key('ArrowRight', '← →', 'counts', move, () => stack.alongCounts(1)),
    key('ArrowLeft', '', '', move, () => stack.alongCounts(-1)),
    key('ArrowUp', '↑ ↓', 'limbs', move, () => stack.alongLimbs(-1)),
    key('ArrowDown', '', '', move, () => stack.alongLimbs(1)),
    key('PageDown', 'Page ↑ ↓', 'bars', move, () => stack.alongBars(1)),
    key('PageUp', '', '', move, () => stack.alongBars(-1)),
    key(']', '[ ]', 'sections', move, () => stack.alongSections(1)),
    key('[', '', '', move, () => stack.alongSections(-1)),
    key('d', 'D', 'next doubt, looped', move, () => doings.doubt(1)),
    key('b', 'B', 'doubt before', move, () => doings.doubt(-1)),
    key('shift+ArrowRight', '⇧ arrows', 'select more', select, () => stack.alongCounts(1, true)),
    key('shift+ArrowLeft', '', '', select, () => stack.alongCounts(-1, true)),
    key('shift+ArrowUp', '', '', select, () => stack.alongLimbs(-1, true)),
    key('shift+ArrowDown', '', '', select, () => stack.alongLimbs(1, true)),
    key('shift+PageDown', '⇧ Page', 'select bars', select, () => stack.alongBars(1, true)),
    key('shift+PageUp', '', '', select, () => stack.alongBars(-1, true)),
    key('ctrl+a', 'Ctrl A', 'the whole bar', select, stack.selectBar),
    key('Escape', 'Esc', 'select nothing', select, () => (stack.anchor.value = null)),
    ...VOICES.map(([k, instrument]) =>
      key(k, k.toUpperCase(), INSTRUMENT_NAMES[instrument], voices, () => notes.voice(instrument)),
    ),
    key('Enter', 'Enter', 'add or remove', edit, notes.toggleNote),
    key('Delete', 'Del', 'remove', edit, notes.remove),
    key('g', 'G', 'ghost', edit, notes.toggleGhost),
    key('a', 'A', 'accent', edit, notes.toggleAccent),
    key('j', 'J', 'flam', edit, () => notes.toggleOrnament('flam')),
    key('u', 'U', 'drag', edit, () => notes.toggleOrnament('drag')),
    key('z', 'Z', 'buzz', edit, () => notes.toggleOrnament('buzz')),
    key('1', '1 – 7', 'another drum of this limb', edit, choose(0)),
    ...[1, 2, 3, 4, 5, 6].map((index) => key(String(index + 1), '', '', edit, choose(index))),
    key('ctrl+ArrowRight', 'Ctrl arrows', 'move the note', edit, () => notes.move(1, 0)),
    key('ctrl+ArrowLeft', '', '', edit, () => notes.move(-1, 0)),
    key('ctrl+ArrowUp', '', '', edit, () => notes.move(0, -1)),
    key('ctrl+ArrowDown', '', '', edit, () => notes.move(0, 1)),
    key('y', 'Y', 'it is there', edit, () => notes.settle('heard')),
    key('n', 'N', 'leave it out; again: for another reason', edit, () => notes.settle('left_out')),
    key('i', 'I', 'inferred', edit, () => notes.settle('inferred')),
    key('p', 'P', 'perhaps: doubtful', edit, () => notes.settle('doubtful')),
    key('shift+Enter', '⇧ Enter', 'last change to all like bars', bars, () => void notes.toLikeBars()),
    key('shift+p', '⇧ P', 'this bar as the phrase', bars, () => void notes.asPhrase()),
    key('shift+y', '⇧ Y', 'confirm the bar', bars, () => void notes.confirmBars(true)),
    key('shift+u', '⇧ U', 'open it again', bars, () => void notes.confirmBars(false)),
    key('ctrl+c', 'Ctrl C, V', 'copy bars, paste them here', bars, notes.copy),
    key('ctrl+v', '', '', bars, () => void notes.paste()),
    key('shift+r', '⇧ R', 'listen again', bars, doings.relisten),
    key('shift+c', '⇧ C', 'note, count, kin beside the stack', bars, doings.nextTab),
    key('Home', 'Home', 'play from here', listen, doings.goHere),
    key('l', 'L', 'loop this bar, or end the loop', listen, doings.loop),
    key('shift+l', '⇧ L', 'loop this beat, or what is selected', listen, doings.loopHere),
    key('e', 'E', 'extend the loop to this bar', listen, doings.extendLoop),
    key('/', '/', 'compare: record or chart', listen, doings.compare),
    key('shift+o', '⇧ O', 'only this drum', listen, doings.onlyThis),
    key('shift+w', '⇧ W', 'with or without this note', listen, doings.without),
    key('shift+s', '⇧ S', 'the sound as a picture', listen, doings.picture),
  ]
}
