/** Keys of the song page. A key typed into a field, or into a dialog, is not for us. */
import { useEventListener } from '@vueuse/core'

export interface KeyUse {
  /**
   * As `KeyboardEvent.key`, letters in lower case; "ctrl+z" with Ctrl or Cmd held, "alt+1" with Alt,
   * "shift+y" with Shift. Signs such as ? and + stand for themselves, whatever makes them.
   */
  key: string
  /** How the key is written in the help. */
  shown: string
  does: string
  group: string
  run: () => void
}

function name(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
  const held = event.ctrlKey || event.metaKey
  const shifted = event.shiftKey && (key.length > 1 || /[a-z]/.test(key))
  return `${event.altKey ? 'alt+' : ''}${held ? 'ctrl+' : ''}${shifted ? 'shift+' : ''}${key}`
}

function isElsewhere(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null
  if (!target?.closest) return false
  // A dialog that is fading out keeps the focus for some frames: its keys are the page's again.
  if (target.closest('input, select, textarea, [role=slider], [role=dialog]:not(.p-dialog-leave-active)')) return true
  // Enter and Space press the button that has the focus; Enter alone follows a link.
  if (event.key === 'Enter') return target.closest('button, a, summary') !== null
  return event.key === ' ' && target.closest('button, summary') !== null
}

export function useKeys(uses: () => KeyUse[]): void {
  // A button pressed by mouse gives the focus back, so that Space plays and does not press it again.
  useEventListener(document, 'click', (event: MouseEvent) => {
    const button = (event.target as HTMLElement | null)?.closest?.('button')
    if (event.detail > 0 && button && !button.closest('[role=dialog]')) button.blur()
  })
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    if (event.defaultPrevented || (!event.altKey && isElsewhere(event))) return
    const use = uses().find((item) => item.key === name(event))
    if (!use) return
    event.preventDefault()
    use.run()
  })
}

export function keyGroups(uses: KeyUse[]): { name: string; keys: { key: string; does: string }[] }[] {
  const groups = new Map<string, { key: string; does: string }[]>()
  for (const use of uses) {
    const list = groups.get(use.group) ?? []
    if (use.shown) list.push({ key: use.shown, does: use.does })
    groups.set(use.group, list)
  }
  return [...groups].map(([group, keys]) => ({ name: group, keys }))
}
