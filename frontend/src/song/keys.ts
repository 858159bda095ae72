/** The keys of a song page: those of its stage, and those that hold everywhere. */
import { GROUPS, type KeyUse, makeKey } from './keyUse'
import type { OpenSong } from './openSong'
import { stageOf, stagesOf } from './stages'

function everywhere(open: OpenSong): KeyUse[] {
  const { player } = open
  const own = stagesOf(open)
  const names = own.map((item) => item.name).join(', ')
  const { edit, listen, stages } = GROUPS
  return [
    ...own.map((item, index) =>
      makeKey(`alt+${index + 1}`, index ? '' : `Alt 1 – ${own.length}`, names, stages, () => open.go(item.id)),
    ),
    ...(open.mayEdit.value
      ? [
          makeKey('ctrl+z', 'Ctrl Z', 'undo', edit, () => void open.undo()),
          makeKey('ctrl+y', 'Ctrl Y', 'redo', edit, () => void open.redo()),
          makeKey('ctrl+shift+z', '', '', edit, () => void open.redo()),
        ]
      : []),
    makeKey(' ', 'Space', 'play, pause', listen, () => player.toggle()),
    makeKey('-', '−', 'slower', listen, () => open.faster(-5)),
    makeKey('+', '+', 'faster', listen, () => open.faster(5)),
    makeKey('=', '', '', listen, () => open.faster(5)),
    makeKey('w', 'W', 'the waveform', listen, () => (open.showWave.value = !open.showWave.value)),
    makeKey('?', '?', 'these keys', listen, () => (open.showKeys.value = true)),
  ]
}

/** What each key does now; without bars there is only Listen to do. */
export function keysOf(open: OpenSong): KeyUse[] {
  // The big player has keys of its own, and covers all else.
  if (open.practice.isOpen.value) return []
  const stage = stageOf(open.hasBars.value ? open.stage.value : 'listen')
  return [...stage.keys(open, makeKey), ...everywhere(open)]
}
