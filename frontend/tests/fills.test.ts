/** The fills of a song: which is chosen, how its ends are moved, exercises and kits that are kept. */
import { flushPromises } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { shallowRef } from 'vue'
import type { FillAsked, GestureWish, Score } from '@/api/client'
import { useFills } from '@/stages/fills/useFills'
import { answer, bar, score, used, withOwnClockAndStore } from './composing'

withOwnClockAndStore()
beforeEach(() => sessionStorage.clear())

const told = (number: number, family: string, change = {}) => ({
  bar: number,
  first_bar: number,
  at: '1/2',
  until: '1',
  family,
  ways: [{ hands: 'RLRL' }, { hands: 'RRLL' }],
  ...change,
})
const FILLS = [told(4, 'A'), told(8, 'B'), told(12, 'A')]
const EXERCISE = { key: 'slow', name: 'slowly' }
const KIT = { id: 5, name: 'small kit', pieces: [] }

/** A server with three fills, one exercise each, one kit; `refuses` answers what changes something. */
function server(fills: unknown[] = FILLS, refuses = '') {
  const state = { list: [] as { id: number; bar: number; key: string; title: string }[], kit: null as number | null, sent: [] as string[] }
  vi.stubGlobal('fetch', async (request: Request) => {
    const { pathname } = new URL(request.url)
    if (request.method !== 'GET') {
      state.sent.push(`${request.method} ${pathname}`)
      if (refuses) return answer({ detail: refuses }, 400)
      const body = request.method === 'DELETE' ? null : await request.json()
      if (pathname.endsWith('/practice-list')) state.list.push({ id: state.list.length + 1, ...body })
      else if (pathname.includes('/practice-list/')) state.list = []
      else if (pathname.endsWith('/kit')) state.kit = body.kit
      else if (pathname.endsWith('/kits')) return answer(KIT)
      else if (request.method === 'DELETE') state.kit = null
      return answer(KIT)
    }
    if (pathname.endsWith('/exercises')) return answer([EXERCISE])
    if (pathname.endsWith('/elsewhere')) return answer([])
    if (pathname.endsWith('/practice-list')) return answer(state.list)
    if (pathname.endsWith('/kit')) return answer({ kit: state.kit })
    if (pathname.endsWith('/kits')) return answer([KIT])
    return answer({ fills, families: [{ name: 'A' }, { name: 'B' }], on_this_kit: { words: [], problems: [] } })
  })
  return state
}

async function looking(fills: unknown[] = FILLS, refuses = '') {
  const state = server(fills, refuses)
  const asked: FillAsked[] = []
  const gestures: GestureWish[] = []
  const bars = Array.from({ length: 13 }, (_, index) => bar(index + 1))
  const part = {
    score: shallowRef<Score | null>(score(bars)),
    notice: { value: '' },
    decideFill: async (wish: FillAsked) => void asked.push(wish),
    gesture: async (wish: GestureWish) => (gestures.push(wish), true),
  }
  const stage = used(() => useFills('song', part, () => true))
  await vi.waitFor(() => expect(stage.isLoading.value).toBe(false))
  await flushPromises()
  return { stage, part, asked, state, gestures }
}

describe('the chosen fill', () => {
  it('is the first until another is chosen, and steps stop at the ends', async () => {
    const { stage } = await looking()
    expect(stage.fill.value?.bar).toBe(4)
    stage.step(-1)
    expect(stage.fill.value?.bar).toBe(4)
    stage.step(1)
    stage.step(1)
    stage.step(1)
    expect(stage.fill.value?.bar).toBe(12)
  })

  it('stays when the list is put in the order of families', async () => {
    const { stage } = await looking()
    stage.choose(8)
    stage.order.value = 'family'
    expect(stage.fills.value.map((fill) => fill.bar)).toEqual([4, 12, 8])
    expect(stage.fill.value?.bar).toBe(8)
    stage.step(-1)
    expect(stage.fill.value?.bar).toBe(12)
  })

  it('is none in a song without fills', async () => {
    const { stage, asked } = await looking([])
    expect(stage.fill.value).toBeNull()
    expect(stage.staff.value).toBe('')
    stage.step(1)
    await stage.none()
    await stage.move('at', 1)
    expect(asked).toEqual([])
  })

  it('begins with the sticking that is in the chart, and another one becomes an edit', async () => {
    const ways = [
      { name: 'alternating', is_current: false, hands: [{ letter: 'R' }, { letter: 'L' }] },
      { name: 'doubles', is_current: true, hands: [{ letter: 'R' }, { letter: 'R' }] },
    ]
    const { stage, gestures } = await looking([{ ...(FILLS[0] as object), ways }])
    await vi.waitFor(() => expect(stage.wayIndex.value).toBe(1))
    stage.wayIndex.value = 0
    await stage.useWay(true)
    expect(gestures).toEqual([{ kind: 'stick', bars: [4], letters: 'RL', also_kin: true }])
  })

  it('begins with its first way of playing it', async () => {
    const { stage } = await looking()
    stage.wayIndex.value = 1
    expect(stage.staff.value).toContain('way=1')
    stage.choose(8)
    await flushPromises()
    expect(stage.wayIndex.value).toBe(0)
    expect(stage.way.value).toEqual({ hands: 'RLRL' })
  })
})

describe('the ends of a fill', () => {
  it.each([
    ['at', -1, { first_bar: 4, at: '7/16', last_bar: 4, until: '1' }],
    ['at', 1, { first_bar: 4, at: '9/16', last_bar: 4, until: '1' }],
    ['until', -1, { first_bar: 4, at: '1/2', last_bar: 4, until: '15/16' }],
    ['until', 1, { first_bar: 4, at: '1/2', last_bar: 5, until: '1/16' }],
  ] as const)('%s goes by a quarter of a beat: %i', async (side, by, expected) => {
    const { stage, asked } = await looking()
    await stage.move(side, by)
    expect(asked).toEqual([{ ...expected, is_fill: true }])
  })

  it('go over the bar line, to the last sixteenth of the bar before', async () => {
    const { stage, asked } = await looking([told(4, 'A', { at: '0' })])
    await stage.move('at', -1)
    expect(asked[0]).toMatchObject({ first_bar: 3, at: '15/16', last_bar: 4 })
  })

  it('do not leave the song', async () => {
    const { stage, asked } = await looking([told(1, 'A', { at: '0' })])
    await stage.move('at', -1)
    expect(asked).toEqual([])
    const last = await looking([told(13, 'A')])
    await last.stage.move('until', 1)
    expect(last.asked).toEqual([])
  })

  it('take the choice along into the next bar', async () => {
    const { stage } = await looking()
    await stage.move('until', 1)
    expect(sessionStorage.getItem('orchesis.fill.song')).toBe('5')
  })
})

describe('what is and what is not a fill', () => {
  it('goes on with the next one when one is none', async () => {
    const { stage, asked } = await looking()
    stage.choose(8)
    await stage.none()
    expect(asked).toEqual([{ first_bar: 8, at: '1/2', last_bar: 8, until: '1', is_fill: false }])
    expect(stage.fill.value?.bar).toBe(12)
  })

  it('goes back to the one before where there is none after', async () => {
    const { stage } = await looking()
    stage.choose(12)
    await stage.none()
    expect(stage.fill.value?.bar).toBe(8)
  })

  it('takes the last two beats of a bar for one that is added', async () => {
    const { stage, asked } = await looking()
    await stage.add(6)
    expect(asked).toEqual([{ first_bar: 6, at: '2/4', last_bar: 6, until: '1', is_fill: true }])
  })
})

describe('the practice list', () => {
  it('takes an exercise and gives it back', async () => {
    const { stage, state } = await looking()
    await vi.waitFor(() => expect(stage.exercises.value).toHaveLength(1))
    await stage.toList(EXERCISE as never)
    expect(state.list).toMatchObject([{ bar: 4, key: 'slow', title: 'slowly, fill in bar 4' }])
    expect([...stage.onList.value.keys()]).toEqual(['4 slow'])
    await stage.toList(EXERCISE as never)
    expect(state.sent.at(-1)).toBe('DELETE /api/songs/song/practice-list/1')
    expect(stage.onList.value.size).toBe(0)
  })

  it('says what went wrong, and nothing is on it', async () => {
    const { stage, part } = await looking(FILLS, 'The list is full.')
    await stage.toList(EXERCISE as never)
    expect(part.notice.value).toContain('The list is full.')
    expect(stage.onList.value.size).toBe(0)
  })
})

describe('kits', () => {
  it('are made, and the song is played on what was made', async () => {
    const { stage, state } = await looking()
    expect(await stage.saveKit({} as never, null)).toBe('')
    expect(state.sent).toEqual(['POST /api/kits', 'PUT /api/songs/song/kit'])
    expect(stage.kit.value).toBe(5)
  })

  it('are changed in their place', async () => {
    const { stage, state } = await looking()
    expect(await stage.saveKit({} as never, 5)).toBe('')
    expect(state.sent[0]).toBe('PUT /api/kits/5')
  })

  it('say what is wrong with them, and the song keeps its own', async () => {
    const { stage, state } = await looking(FILLS, 'A kit needs a name.')
    expect(await stage.saveKit({} as never, null)).toContain('A kit needs a name.')
    expect(state.kit).toBeNull()
  })

  it('go, and the song is on the standard kit again', async () => {
    const { stage } = await looking()
    await stage.chooseKit(5)
    expect(stage.kit.value).toBe(5)
    await stage.removeKit(5)
    expect(stage.kit.value).toBeNull()
  })
})
