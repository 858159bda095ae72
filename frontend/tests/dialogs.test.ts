/** What stops the work for a moment: two people in one bar, and what listening again would change. */
import type { VueWrapper } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { type Component, nextTick } from 'vue'
import type { Relisten } from '@/api/client'
import type { Conflict } from '@/score/useScore'
import BarRow from '@/stages/grooves/BarRow.vue'
import ConflictDialog from '@/stages/grooves/ConflictDialog.vue'
import HeardAgainDialog from '@/song/HeardAgainDialog.vue'
import RelistenDialog from '@/stages/grooves/RelistenDialog.vue'
import { answer, bar, hit, score } from './composing'
import { type ComposedSong, composedSong, inSong } from './opening'

let open: ComposedSong
let shown: VueWrapper | null = null
afterEach(() => shown?.unmount())

async function opened(dialog: Component, fill: (song: ComposedSong) => void): Promise<VueWrapper> {
  shown?.unmount()
  open = composedSong(song)
  fill(open)
  shown = inSong(dialog, open)
  await nextTick()
  return shown
}

const kick = hit('0', 'kick')
const snare = hit('1/4', 'snare')
const song = score([bar(1, [kick, snare]), bar(2, [kick]), bar(3, [snare])])

describe('two people in one bar', () => {
  const conflicts: Conflict[] = [
    { bar: 2, mine: [kick, snare], theirs: [] },
    { bar: 3, mine: [], theirs: [kick] },
  ]
  const dialog = (held = conflicts) => opened(ConflictDialog, ({ part }) => (part.conflicts.value = held))

  it('shows both versions of each bar', async () => {
    const shown = (await dialog())
      .findAllComponents(BarRow)
      .map((row) => [row.props('bar').number, row.props('bar').hits.length])
    expect(shown).toEqual([[2, 0], [2, 2], [3, 1], [3, 0]])
  })

  it('settles each bar by its own choice, and cannot be waved away', async () => {
    const wrapper = await dialog()
    await wrapper.find('[data-test=mine-2]').trigger('click')
    await wrapper.find('[data-test=theirs-3]').trigger('click')
    expect(open.part.resolve.mock.calls).toEqual([[2, 'mine'], [3, 'theirs']])
    expect(wrapper.find('[aria-label=Close]').exists()).toBe(false)
  })

  it('is not there when nothing is in dispute', async () => {
    expect((await dialog([])).find('[role=dialog]').exists()).toBe(false)
  })
})

describe('what listening again would change', () => {
  const ghost = { ...hit('3/8', 'snare', { ghost: true }), bar: 2 }
  const found: Relisten = {
    settled: 4,
    added: 1,
    removed: 1,
    surer: 0,
    contradictions: [],
    bars: [
      { bar: 1, edits: [{ before: { ...snare, bar: 1 }, after: null }] },
      { bar: 2, edits: [{ before: null, after: ghost }] },
    ],
  } as Relisten
  const dialog = (value: Relisten | null = found) => opened(RelistenDialog, ({ found: at }) => (at.relisten.value = value as never))

  it('says bar by bar what comes and what goes, and shows the bar before and after', async () => {
    const wrapper = await dialog()
    expect(wrapper.text()).toContain('1 note comes, 1 goes. What you confirmed')
    expect(wrapper.findAll('li .label').map((item) => item.text())).toEqual(
      expect.arrayContaining(['snare on 2 goes', 'snare on the & of 2 comes', 'now', 'then']),
    )
    const rows = wrapper.findAllComponents(BarRow)
    expect(rows.map((row) => row.props('bar').hits.length)).toEqual([2, 1, 1, 2])
    expect(rows.map((row) => row.props('marked')?.length)).toEqual([1, 0, 0, 1])
  })

  it('says nothing of what there is none of', async () => {
    const surer = await dialog({ ...found, added: 0, removed: 0, surer: 3 })
    expect(surer.text()).toContain('3 notes are no longer in doubt. What')
    const all = await dialog({ ...found, added: 2, surer: 1 })
    expect(all.text()).toContain('2 notes come, 1 goes, 1 is no longer in doubt. What')
  })

  it('names the confirmed bar that contradicts the others, and plays it', async () => {
    const words = 'Bar 4 has the ride where 3 confirmed bars like it have the closed hat.'
    const wrapper = await dialog({ ...found, contradictions: [{ bar: 4, words }] })
    expect(wrapper.find('[data-test=contradictions]').text()).toContain(words)
    await wrapper.find('[data-test=contradictions] button').trigger('click')
    expect(open.loopBars.mock.calls).toEqual([[4, 4]])
    expect(open.found.relisten.value).toBeNull()
  })

  it('has nothing to refuse where nothing would change: it is closed', async () => {
    const nothing = await dialog({ ...found, added: 0, removed: 0, bars: [] })
    expect(nothing.text()).toContain('with 4 confirmed bars Orchesis hears the rest as it is written')
    expect(nothing.findAll('button').map((item) => item.text())).toContain('Close')
    expect(nothing.find('[data-test=take]').exists()).toBe(false)
    expect((await dialog()).findAll('button').map((item) => item.text())).toContain('Take none')
  })

  it('draws a bar no wider than the phone it is read on', async () => {
    const before = window.innerWidth
    window.innerWidth = 360
    window.dispatchEvent(new Event('resize'))
    const widths = (await dialog()).findAllComponents(BarRow).map((row) => row.props('width'))
    expect(Math.max(...widths)).toBeLessThan(360)
    window.innerWidth = before
    window.dispatchEvent(new Event('resize'))
  })

  it('takes all of it', async () => {
    const wrapper = await dialog()
    expect(wrapper.find('[data-test=take]').text()).toBe('Take all')
    await wrapper.find('[data-test=take]').trigger('click')
    const [edits, words] = open.part.make.mock.calls[0] as unknown as [unknown[], string]
    expect(open.found.relisten.value).toBeNull()
    expect(edits).toHaveLength(2)
    expect(words).toBe('Listened again: 2 bars changed')
  })

  it('takes some of it, and not nothing', async () => {
    const wrapper = await dialog()
    await wrapper.findAll('input[type=checkbox]')[0]!.trigger('change')
    expect(wrapper.find('[data-test=take]').text()).toBe('Take 1 of 2')
    const taken = [...wrapper.findAll('input[type=checkbox]')]
    await taken[1]!.trigger('change')
    expect(wrapper.find('[data-test=take]').attributes('disabled')).toBeDefined()
    await taken[1]!.trigger('change')
    await wrapper.find('[data-test=take]').trigger('click')
    const [edits] = open.part.make.mock.calls[0] as unknown as [{ after: { bar: number } | null }[]]
    expect(edits.map((edit) => edit.after?.bar)).toEqual([2])
  })

  it('says so when everything is heard as it is written', async () => {
    const wrapper = await dialog({ ...found, bars: [], added: 0, removed: 0 })
    expect(wrapper.text()).toContain('Nothing: with 4 confirmed bars')
    expect(wrapper.find('[data-test=take]').exists()).toBe(false)
  })
})

describe('a song that was heard again', () => {
  const edits = [{ before: { ...snare, bar: 1 }, after: null }]
  async function dialog(body: unknown) {
    vi.stubGlobal('fetch', async () => answer(body))
    const wrapper = await opened(HeardAgainDialog, ({ showHeard }) => (showHeard.value = true))
    await vi.waitFor(() => expect(wrapper.text()).not.toContain('Comparing'))
    return wrapper
  }
  const take = (wrapper: VueWrapper) => wrapper.find('[data-test=take-heard]')

  it('shows what would change before anything does, and is taken whole as one step', async () => {
    const wrapper = await dialog({ facts: ['84.0 beats a minute would be 168.0'], bars: [] })
    expect(wrapper.text()).toContain('84.0 beats a minute would be 168.0')
    expect(open.part.takeHeard).not.toHaveBeenCalled()
    await take(wrapper).trigger('click')
    expect(open.part.takeHeard).toHaveBeenCalledOnce()
  })

  it('is taken in part, bar by bar, where the grid is the same', async () => {
    const wrapper = await dialog({ facts: [], bars: [{ bar: 1, edits }, { bar: 2, edits: [] }] })
    await wrapper.findAll('input[type=checkbox]')[1]!.trigger('change')
    expect(take(wrapper).text()).toBe('Take 1 of 2 bars')
    await take(wrapper).trigger('click')
    expect(open.part.make).toHaveBeenCalledWith(edits, 'Heard again: 1 bar changed')
    expect(open.part.leaveHeard).toHaveBeenCalledOnce()
    expect(open.part.takeHeard).not.toHaveBeenCalled()
  })

  it('offers no bars one by one where the form would be another: it is taken whole', async () => {
    const wrapper = await dialog({ facts: ['5 sections would be 6'], bars: [{ bar: 1, edits }] })
    expect(wrapper.findAll('input[type=checkbox]')).toHaveLength(0)
    expect(take(wrapper).text()).toBe('Take it')
  })

  it('is left', async () => {
    const wrapper = await dialog({ facts: ['4/4 would be 3/4'], bars: [] })
    await wrapper.find('[data-test=leave-heard]').trigger('click')
    expect(open.part.leaveHeard).toHaveBeenCalledOnce()
    expect(open.showHeard.value).toBe(false)
  })
})
