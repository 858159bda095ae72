/** Bands, classes, seats and links: what is asked of the server, and what is said when it refuses. */
import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { useGiven, useGroup, useGroups, useToPractise, useWishes } from '@/people/useGroups'
import { useLinks, usePeople } from '@/share/useSharing'
import { answer, used, withOwnClockAndStore } from './composing'

withOwnClockAndStore()

type Asked = { what: string; body: unknown }

/** A server that answers by method and address, refuses what is named, and remembers what it was asked. */
function server(answers: Record<string, unknown> = {}, refused: Record<string, string> = {}): Asked[] {
  const asked: Asked[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const what = `${request.method} ${new URL(request.url).pathname}`
    const text = await request.text()
    asked.push({ what, body: text ? JSON.parse(text) : null })
    return what in refused ? answer({ detail: refused[what] }, 400) : answer(answers[what] ?? {})
  })
  return asked
}
const changes = (asked: Asked[]) => asked.filter(({ what }) => !what.startsWith('GET'))
const times = (asked: Asked[], what: string) => asked.filter((one) => one.what === what).length

const BAND = { id: 3, name: 'The Pier', kind: 'band' }

describe('bands and classes', () => {
  it('are listed, and listed anew when one is made', async () => {
    const asked = server({ 'GET /api/groups': [BAND], 'POST /api/groups': BAND })
    const groups = used(useGroups)
    await vi.waitFor(() => expect(groups.groups.value).toHaveLength(1))
    expect(await groups.make('Tuesday class', 'class')).toEqual(BAND)
    expect(changes(asked)).toEqual([{ what: 'POST /api/groups', body: { name: 'Tuesday class', kind: 'class' } }])
    expect(times(asked, 'GET /api/groups')).toBe(2)
  })

  it('say why one was not made, and no longer when the next one was', async () => {
    const refused = { 'POST /api/groups': 'A band needs a name.' } as Record<string, string>
    server({ 'GET /api/groups': [] }, refused)
    const groups = used(useGroups)
    await vi.waitFor(() => expect(groups.isLoading.value).toBe(false))
    expect(await groups.make('', 'band')).toBeNull()
    expect(groups.problem.value).toContain('A band needs a name.')
    delete refused['POST /api/groups']
    await groups.make('The Pier', 'band')
    expect(groups.problem.value).toBe('')
  })

  it('say so when they cannot be listed', async () => {
    server({}, { 'GET /api/groups': 'The database is away.' })
    const groups = used(useGroups)
    await vi.waitFor(() => expect(groups.problem.value).toContain('The database is away.'))
    expect(groups.groups.value).toEqual([])
  })
})

describe('one of them', () => {
  it.each([
    ['invite', [12], 'POST /api/groups/3/invitations', { seats: 12 }],
    ['revoke', [7], 'DELETE /api/groups/3/invitations/7', null],
    ['lead', [5, true], 'PATCH /api/groups/3/members/5', { leads: true }],
    ['dismiss', [5], 'DELETE /api/groups/3/members/5', null],
    ['remove', [], 'DELETE /api/groups/3', null],
    ['put', ['song', 'editor'], 'POST /api/groups/3/songs', { song: 'song', role: 'editor' }],
    ['order', [['b', 'a']], 'PUT /api/groups/3/songs', { songs: ['b', 'a'] }],
    ['takeOff', ['song'], 'DELETE /api/groups/3/songs/song', null],
    ['withdraw', [9], 'DELETE /api/groups/3/given/9', null],
    ['wish', ['Night Bus', ''], 'POST /api/groups/3/wishes', { title: 'Night Bus', performer: '' }],
    ['vote', [4, true], 'PUT /api/groups/3/wishes/4/vote', null],
    ['vote', [4, false], 'DELETE /api/groups/3/wishes/4/vote', null],
    ['settle', [4, 'declined', 'no drums'], 'PATCH /api/groups/3/wishes/4', { state: 'declined', reason: 'no drums', song: null }],
  ])('%s(%j) asks for %s', async (name, given, what, body) => {
    const asked = server()
    const group = used(() => useGroup(ref(3)))
    await (group as unknown as Record<string, (...of: unknown[]) => Promise<unknown>>)[name]!(...given)
    expect(changes(asked)).toEqual([{ what, body }])
  })

  it('is the one that is looked at when it is asked', async () => {
    const asked = server()
    const id = ref(3)
    const group = used(() => useGroup(id))
    await group.invite(1)
    id.value = 4
    await group.invite(1)
    expect(changes(asked).map(({ what }) => what)).toEqual(['POST /api/groups/3/invitations', 'POST /api/groups/4/invitations'])
  })

  it('shows a wish anew once it was voted for, and says when that failed', async () => {
    const asked = server({ 'GET /api/groups/3/wishes': [{ id: 4 }] }, { 'DELETE /api/groups/3/wishes/4/vote': 'You are no member.' })
    const here = used(() => ({ group: useGroup(ref(3)), wishes: useWishes(ref(3)) }))
    await vi.waitFor(() => expect(here.wishes.value).toHaveLength(1))
    await here.group.vote(4, true)
    expect(times(asked, 'GET /api/groups/3/wishes')).toBe(2)
    expect(await here.group.vote(4, false)).toBeNull()
    expect(here.group.problem.value).toContain('You are no member.')
  })

  it('asks for what was given only where it is looked at', async () => {
    const asked = server({ 'GET /api/groups/3/given': [{ id: 1 }] })
    const isOn = ref(false)
    const { given } = used(() => useGiven(ref(3), () => isOn.value))
    await flushPromises()
    expect(asked).toEqual([])
    isOn.value = true
    await vi.waitFor(() => expect(given.value).toHaveLength(1))
  })
})

it('what one was given oneself is there, or nothing', async () => {
  server({ 'GET /api/to-practise': [{ id: 1 }, { id: 2 }] })
  const mine = used(useToPractise)
  expect(mine.value).toEqual([])
  await vi.waitFor(() => expect(mine.value).toHaveLength(2))
})

describe('links', () => {
  it.each([
    [{ song: 'song' }, '/api/songs/song/links'],
    [{ group: 3 }, '/api/groups/3/links'],
  ])('to %j are listed, made and taken back at one address', async (of, address) => {
    const asked = server({ [`GET ${address}`]: [{ id: 'abc' }], [`POST ${address}`]: { id: 'new' } })
    const links = used(() => useLinks(of))
    await vi.waitFor(() => expect(links.links.value).toHaveLength(1))
    await links.make({ days: 30 } as never)
    links.revoke('abc')
    await vi.waitFor(() => expect(times(asked, `GET ${address}`)).toBe(3))
    expect(changes(asked).map(({ what }) => what)).toEqual([`POST ${address}`, `DELETE ${address}/abc`])
  })

  it('say why one was not made', async () => {
    server({ 'GET /api/songs/song/links': [] }, { 'POST /api/songs/song/links': 'There are forty links already.' })
    const links = used(() => useLinks({ song: 'song' }))
    await vi.waitFor(() => expect(links.isLoading.value).toBe(false))
    await expect(links.make({} as never)).rejects.toBeTruthy()
    await vi.waitFor(() => expect(links.problem.value).toContain('There are forty links already.'))
  })
})

describe('seats at a song', () => {
  it('are given and taken, and shown as the server has them', async () => {
    const asked = server({ 'GET /api/songs/song/people': { seats: [] } })
    const people = used(() => usePeople('song'))
    await vi.waitFor(() => expect(people.people.value).not.toBeNull())
    expect(await people.give({ username: 'mina', role: 'reader' } as never)).toBe(true)
    expect(await people.take(2)).toBe(true)
    expect(changes(asked).map(({ what }) => what)).toEqual(['POST /api/songs/song/people', 'DELETE /api/songs/song/people/2'])
    expect(times(asked, 'GET /api/songs/song/people')).toBe(3)
  })

  it('stay where nobody of that name is known', async () => {
    server({ 'GET /api/songs/song/people': { seats: [] } }, { 'POST /api/songs/song/people': 'Nobody here is called that.' })
    const people = used(() => usePeople('song'))
    await vi.waitFor(() => expect(people.people.value).not.toBeNull())
    expect(await people.give({ username: 'nobody' } as never)).toBe(false)
    expect(people.problem.value).toContain('Nobody here is called that.')
  })
})
