import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { OrchesisPreset } from '@/theme'

/** The plug-in itself is no component. */
const NOT_DRAWN = ['config']

function imported(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf-8' })
    .filter((name) => /\.(vue|ts)$/.test(name))
    .flatMap((name) => [...readFileSync(join(folder, name), 'utf-8').matchAll(/from 'primevue\/(\w+)'/g)])
    .map((found) => found[1]!)
}

describe('the theme', () => {
  it('has the paper and ink of every component that is used, and of no other', () => {
    const used = [...new Set(imported(join(__dirname, '../src')))].filter((name) => !NOT_DRAWN.includes(name))
    expect(used.length).toBeGreaterThan(3)
    expect(Object.keys(OrchesisPreset.components ?? {}).sort()).toEqual(used.sort())
  })

  it('keeps round buttons and the accent of the house', () => {
    expect(OrchesisPreset.components?.button?.root?.borderRadius).toBe('999px')
    expect(OrchesisPreset.semantic).toMatchObject({ primary: { 500: '#9c3d22' } })
  })
})
