/** Keys of the song page. A key typed into a field, or into a dialog, is not for us. */
import { useEventListener } from '@vueuse/core'
import type { KeyUse } from './keyUse'

function name(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
  const held = event.ctrlKey || event.metaKey
  const shifted = event.shiftKey && (key.length > 1 || /[a-z]/.test(key))
  return `${event.altKey ? 'alt+' : ''}${held ? 'ctrl+' : ''}${shifted ? 'shift+' : ''}${key}`
}

/** What has keys of its own. A dialog that is fading out keeps the focus for some frames: its keys are the page's again. */
const OWN_KEYS =
  'input, select, textarea, [role=slider], [role=combobox], [role=listbox], [role=dialog]:not(.p-dialog-leave-active), [role=alertdialog]'

function isElsewhere(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null
  if (!target?.closest) return false
  if (target.closest(OWN_KEYS)) return true
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
    use.run(event)
  })
}
