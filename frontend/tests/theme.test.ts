import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { OrchesisPreset } from '@/theme'

/** Plug-ins, which draw nothing themselves. */
const NOT_DRAWN = ['config', 'confirmationservice', 'useconfirm', 'toastservice', 'usetoast']
/** Parts of a component, which are drawn by the paper and ink of the whole. */
const WHOLE: Record<string, string> = {
  accordioncontent: 'accordion',
  accordionheader: 'accordion',
  accordionpanel: 'accordion',
  tab: 'tabs',
  tablist: 'tabs',
  tabpanel: 'tabs',
  tabpanels: 'tabs',
}

function imported(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf-8' })
    .filter((name) => /\.(vue|ts)$/.test(name))
    .flatMap((name) => [...readFileSync(join(folder, name), 'utf-8').matchAll(/from 'primevue\/(\w+)'/g)])
    .map((found) => found[1]!)
}

describe('the theme', () => {
  it('has the paper and ink of every component that is used, and of no other', () => {
    const found = imported(join(__dirname, '../src'))
      .filter((name) => !NOT_DRAWN.includes(name))
      .map((name) => WHOLE[name] ?? name)
    // A row of choices is made of buttons that stay pressed.
    const used = [...new Set(found.flatMap((name) => (name === 'selectbutton' ? [name, 'togglebutton'] : [name])))]
    expect(used.length).toBeGreaterThan(3)
    expect(Object.keys(OrchesisPreset.components ?? {}).sort()).toEqual(used.sort())
  })

  it('keeps round buttons and the accent of the house', () => {
    expect(OrchesisPreset.components?.button?.root?.borderRadius).toBe('999px')
    expect(OrchesisPreset.semantic).toMatchObject({ primary: { 500: 'var(--accent)' } })
  })

  it('has every colour from the tokens: none is written twice', () => {
    const source = readFileSync(join(__dirname, '../src/theme.ts'), 'utf-8')
    expect(source).not.toMatch(/#[0-9a-f]{3,8}\b/i)
    const tokens = readFileSync(join(__dirname, '../src/styles/tokens.css'), 'utf-8')
    const named = [...source.matchAll(/var\(--([\w-]+)\)/g)].map((one) => one[1]!)
    expect(named.length).toBeGreaterThan(10)
    for (const token of named) expect(tokens).toContain(`--${token}:`)
  })
})
