/** The keys of the bar stack. */
import type { Instrument } from '@/api/client'
import { INSTRUMENT_NAMES, PLAYED_BY } from '@/api/vocabulary'
import { GROUPS, type KeyUse, type MakeKey } from '@/song/keyUse'
import type { OpenSong } from '@/song/openSong'

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

export function grooveKeys(open: OpenSong, key: MakeKey): KeyUse[] {
  const { stack, notes, player, part } = open
  const { move, edit, listen } = GROUPS
  const [select, voices, bars] = ['Select', 'One key a voice', 'Bars and phrases']
  const choose = (index: number) => () => {
    const instrument = PLAYED_BY[stack.cursor.value.limb][index]
    if (instrument) notes.playOn(instrument)
  }
  function onlyThis(): void {
    const instrument = stack.hit.value?.instrument
    if (instrument) player.hearOnly(instrument)
    else part.notice.value = 'Go to a note: then its drum is heard alone.'
  }
  function without(): void {
    const hit = stack.hit.value
    part.notice.value = hit ? player.hearWithout(hit) : 'Go to a note: then the kit plays with and without it.'
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
    key('d', 'D', 'next doubt, looped', move, () => open.doubt(1)),
    key('b', 'B', 'doubt before', move, () => open.doubt(-1)),
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
    key('shift+h', '⇧ H', 'hat half open, or wide', edit, notes.toggleHalfOpen),
    key('1', '1 – 7', 'another drum of this limb', edit, choose(0)),
    ...[1, 2, 3, 4, 5, 6].map((index) => key(String(index + 1), '', '', edit, choose(index))),
    key('ctrl+ArrowRight', 'Ctrl arrows', 'move the note', edit, () => notes.move(1, 0)),
    key('ctrl+ArrowLeft', '', '', edit, () => notes.move(-1, 0)),
    key('ctrl+ArrowUp', '', '', edit, () => notes.move(0, -1)),
    key('ctrl+ArrowDown', '', '', edit, () => notes.move(0, 1)),
    key('.', '.', 'divide the beat otherwise', edit, () => void notes.divideOtherwise()),
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
    key('shift+r', '⇧ R', 'listen again', bars, () => void open.relisten()),
    key('shift+c', '⇧ C', 'note, count, kin beside the stack', bars, open.nextTab),
    key('Home', 'Home', 'play from here', listen, () => player.seek(Math.max(0, stack.bar.value?.start ?? 0))),
    key('l', 'L', 'loop this bar, or end the loop', listen, () => open.loopBars(stack.cursor.value.bar, stack.cursor.value.bar)),
    key('shift+l', '⇧ L', 'loop this beat, or what is selected', listen, open.loopHere),
    key('e', 'E', 'extend the loop to this bar', listen, open.extendLoop),
    key('/', '/', 'compare: record or chart', listen, open.compare),
    key('shift+o', '⇧ O', 'only this drum', listen, onlyThis),
    key('shift+w', '⇧ W', 'with or without this note', listen, without),
    key('shift+s', '⇧ S', 'the sound as a picture', listen, () => (open.showPicture.value = !open.showPicture.value)),
  ]
}
