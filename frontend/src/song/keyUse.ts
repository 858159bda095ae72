/** What a key of the song page is: how it is pressed, how it is written, what it does. */

export interface KeyUse {
  /**
   * As `KeyboardEvent.key`, letters in lower case; "ctrl+z" with Ctrl or Cmd held, "alt+1" with Alt,
   * "shift+y" with Shift. Signs such as ? and + stand for themselves, whatever makes them.
   */
  key: string
  /** How the key is written in the help; empty where another entry speaks for it. */
  shown: string
  does: string
  group: string
  /** The event tells when the key went down, and whether it is only held. */
  run: (event: KeyboardEvent) => void
}

export type MakeKey = (key: string, shown: string, does: string, group: string, run: (event: KeyboardEvent) => void) => KeyUse

export const makeKey: MakeKey = (key, shown, does, group, run) => ({ key, shown, does, group, run })

/** Groups of the help that several stages have. */
export const GROUPS = { move: 'Move', edit: 'Edit', listen: 'Listen', stages: 'Stages' } as const

/** The keys as the help shows them. */
export function keyGroups(uses: readonly KeyUse[]): { name: string; keys: { key: string; does: string }[] }[] {
  const groups = new Map<string, { key: string; does: string }[]>()
  for (const use of uses) {
    const list = groups.get(use.group) ?? []
    if (use.shown) list.push({ key: use.shown, does: use.does })
    groups.set(use.group, list)
  }
  return [...groups].map(([group, keys]) => ({ name: group, keys }))
}
