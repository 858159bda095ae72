/** What stands beside the stack: the section, the note, the count, the kin. */
import { flushPromises } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { ref, shallowRef } from 'vue'
import type { Grooves, Hit, Kin, Phrase, Relative, Score, Section } from '@/api/client'
import { SCHOOLS } from '@/api/vocabulary'
import type { EditValue } from '@/score/edits'
import FactsPanel from '@/stages/grooves/FactsPanel.vue'
import KinPanel from '@/stages/grooves/KinPanel.vue'
import NotePanel from '@/stages/grooves/NotePanel.vue'
import SayPanel from '@/stages/grooves/SayPanel.vue'
import type { BarPhrase } from '@/stages/grooves/useGrooves'
import { answer, bar, hit, score, withOwnClockAndStore } from './composing'
import { choose, composedSong, inSong } from './opening'

const push = vi.fn<(path: string) => void>()
vi.mock('vue-router', () => ({ useRouter: () => ({ push }) }))
withOwnClockAndStore()

/** After the panels have waited for the cursor to come to rest. */
async function atRest(): Promise<void> {
  await vi.advanceTimersByTimeAsync(500)
  await flushPromises()
}

/** A server that answers by the end of the address; what it was asked is kept. */
function serving(answers: Record<string, unknown>): string[] {
  const asked: string[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const { pathname, search } = new URL(request.url)
    asked.push(pathname + search)
    const found = Object.entries(answers).find(([end]) => pathname.endsWith(end))
    return found ? answer(found[1]) : answer({ code: 'not_found', detail: 'There is no such bar.' }, 404)
  })
  return asked
}

describe('the facts of a section', () => {
  const verse = { label: 'Verse', first_bar: 1, bars: 3, words: 'As the first verse.', notes: [] } as unknown as Section
  const chorus = { label: 'Chorus', first_bar: 4, bars: 1, words: '', notes: [] } as unknown as Section
  const doubt = hit('1/4', 'snare', { status: 'doubtful' })
  const song: Score = {
    ...score([bar(1, [hit('0', 'kick'), doubt]), bar(2, [hit('0', 'kick')]), bar(3), bar(4, [doubt])]),
    sections: [verse, chorus],
    findings: ['Tempo from 40 beats.'],
  }
  const phrase: Phrase = { first_bar: 1, bars: 3, length: 1, words: '1 bar, 3 times', odds: 2.2, notes: [] }
  const ghost = hit('3/8', 'snare', { ghost: true, bar: 2, status: 'inferred' })
  const grooves: Grooves = {
    revision: 1,
    sections: [
      {
        stamp: 'a',
        first_bar: 1,
        label: 'Verse',
        phrases: [phrase],
        names: [{ words: 'samba', tradition: 'Brazil' }],
        facts: [{ words: 'The kick is alone on 1.', notes: [{ bar: 0, position: '0', instrument: 'kick' }] }],
        difficulty: { value: 2.5, words: 'speed of a hand', spots: [] },
        unplayable: [],
        changes: [{ bar: 3, words: 'From bar 3 the kick leaves the one.', evidence: '4 of 4 bars against 0 of 4' }],
        kinds: [],
        proposals: [{ kind: 'pattern', words: 'A ghost belongs here.', hits: [ghost] }],
      },
    ],
    variants: [{ layer: 'Kick', words: 'Full in choruses.' }],
    review: [],
    settled_bars: [2],
    lessons: [4, 1],
  }

  function panel(change: Record<string, unknown> = {}, at = 1, held = song) {
    const found = {
      ...composedSong(song).found,
      grooves: shallowRef(grooves),
      phrases: ref(new Map<number, BarPhrase>([[1, { phrase, step: 0, notes: [] }]])),
      settled: ref(new Set([2])),
      ...change,
    }
    const open = composedSong(held, { found })
    open.stack.place({ bar: at })
    return { open, found, wrapper: inSong(FactsPanel, open) }
  }
  const button = (wrapper: ReturnType<typeof panel>['wrapper'], words: string) =>
    wrapper.findAll('button').find((item) => item.text().includes(words))

  it('counts what is confirmed among the bars that are played, and the doubts here and in the song', () => {
    const { wrapper } = panel()
    expect(wrapper.text()).toContain('bars 1–3 · 1 of 2 confirmed')
    expect(wrapper.text()).toContain('1 here, 2 uncertain notes in the song. Confirming the section takes it as heard.')
    expect(wrapper.find('[role=progressbar]').attributes('aria-valuenow')).toBe('50')
  })

  it('tells the phrase and how sure its length is, what changes, and the variants', () => {
    const text = panel().wrapper.text()
    for (const told of ['1 bar, 3 times', 'the kick leaves the one', 'Full in choruses', 'As the first verse'])
      expect(text).toContain(told)
    // Log odds of 2.2 against the next likely length are nine to one.
    expect(panel().wrapper.find('dd[title*="sure"]').attributes('title')).toBe('90 % sure of its length')
  })

  it('confirms the played bars only, and the doubts with them', async () => {
    const { wrapper, open } = panel()
    await button(wrapper, 'Confirm section')!.trigger('click')
    expect(open.part.gesture).toHaveBeenCalledWith({ kind: 'confirm', bars: [1, 2] })
  })

  it('goes to another section, to a doubt and to the bars that teach most', async () => {
    const { wrapper, open } = panel()
    await choose(wrapper, 'Section', 'Chorus')
    expect(open.stack.cursor.value.bar).toBe(4)
    await button(wrapper, 'Next uncertain note')!.trigger('click')
    expect(open.doubt).toHaveBeenCalledWith(1)
    await wrapper.find('[aria-label="Go to bar 1"]').trigger('click')
    expect(open.stack.cursor.value.bar).toBe(1)
  })

  it('offers what is inferred; taken, it is an edit', async () => {
    const { wrapper, open } = panel()
    await button(wrapper, 'Write it as inferred')!.trigger('click')
    const [inferred] = open.part.make.mock.calls as unknown as [EditValue[], string][]
    expect(inferred).toMatchObject([[{ before: null }], '1 note inferred from the pattern'])
  })

  it('leads to the review while questions are open', async () => {
    const { wrapper, open } = panel()
    expect(button(wrapper, 'Review')).toBeUndefined()
    open.review.open.value = [{}, {}]
    await wrapper.vm.$nextTick()
    await button(wrapper, 'Review: 2 questions')!.trigger('click')
    expect(open.go).toHaveBeenCalledWith('review')
  })

  it('tells what the groove has in it, how hard it is, and lights the notes of a fact', async () => {
    const { wrapper, found } = panel()
    expect(wrapper.text()).toContain('samba')
    expect(wrapper.text()).toContain('2.5 of 10: speed of a hand.')
    await button(wrapper, 'The kick is alone on 1.')!.trigger('click')
    expect(found.light).toHaveBeenCalledWith('The kick is alone on 1.', phrase, grooves.sections[0]!.facts[0]!.notes)
  })

  it('listens again only when something was confirmed', () => {
    expect(button(panel().wrapper, 'Listen again')!.attributes('disabled')).toBeUndefined()
    const { wrapper } = panel({ settled: ref(new Set()) })
    expect(button(wrapper, 'Listen again')!.attributes('disabled')).toBeDefined()
    const busy = panel({ isRelistening: ref(true) }).wrapper
    expect(button(busy, 'Listening …')!.attributes('disabled')).toBeDefined()
  })

  it('says where no drums are, what failed, and tries again', async () => {
    const nothing = { phrases: ref(new Map()), grooves: shallowRef(null) }
    expect(panel(nothing).wrapper.text()).toContain('Looking for phrases')
    const { wrapper, found } = panel({ ...nothing, problem: ref('The server is away.') })
    expect(wrapper.find('[role=alert]').text()).toContain('The server is away.')
    await button(wrapper, 'Try again')!.trigger('click')
    expect(found.fetchGrooves).toHaveBeenCalledOnce()
    const silent = { ...song, bars: song.bars.map((item) => ({ ...item, hits: [] })) }
    const empty = panel({}, 1, silent).wrapper
    expect(empty.text()).toContain('no drums here')
    expect(empty.find('[role=progressbar]').exists()).toBe(false)
  })
})

describe('the note at the cursor', () => {
  const evidence = {
    bar: 1,
    rows: [
      { instrument: 'snare', strength: [0, 0, 0, 0, 0.9, 0, 0.4] },
      { instrument: 'hihat_closed', strength: [0.8, 0, 0.7] },
    ],
    sources: [{ title: 'Live in the yard', rows: [{ instrument: 'snare', strength: [0, 0, 0, 0, 0.05] }] }],
  }
  const history = [{ words: 'Snare on 2 made a ghost', author: 'mira', at: '2026-02-03T10:00:00Z', undone: true }]

  async function panel(hits: Hit[], position = '1/4', limb: Hit['limb'] = 'LH') {
    const asked = serving({ '/evidence/1': evidence, '/history/1': history })
    const edits: EditValue[] = []
    const open = composedSong(score([bar(1, hits)]))
    open.part.make.mockImplementation(((values: EditValue[]) => edits.push(...values) > 0) as never)
    open.stack.place({ bar: 1, position, limb: limb! })
    const wrapper = inSong(NotePanel, open)
    await atRest()
    return { wrapper, edits, asked }
  }
  const act = (wrapper: Awaited<ReturnType<typeof panel>>['wrapper'], words: string) =>
    wrapper.findAll('.does button').find((item) => item.text().startsWith(words))!

  it('says what it is, how sure, and how strongly each recording speaks for it', async () => {
    const { wrapper } = await panel([hit('1/4', 'snare', { confidence: 0.64, ghost: true, reason: 'heard' })])
    expect(wrapper.find('.what').text()).toBe('snare, ghost')
    expect(wrapper.text()).toContain('64 % sure')
    const meters = wrapper.findAll('.p-metergroup').map((item) => item.attributes('aria-label'))
    expect(meters).toEqual(['snare in The record: 90 of 100', 'snare in Live in the yard: 5 of 100'])
  })

  it('names the likeliest drum where nothing is written, unless it is written in another lane', async () => {
    const free = await panel([], '3/8')
    expect(free.wrapper.text()).toContain('No note here')
    expect(free.wrapper.find('.heard').text()).toContain('snare')
    const taken = await panel([hit('3/8', 'snare', { limb: 'RH' })], '3/8')
    expect(taken.wrapper.find('.heard').text()).not.toContain('snare')
  })

  it('settles a doubt both ways, by the same buttons that name the keys', async () => {
    const doubtful = hit('1/4', 'snare', { status: 'doubtful' })
    const { wrapper, edits } = await panel([doubtful])
    expect(act(wrapper, 'It is there').find('kbd').text()).toBe('Y')
    await act(wrapper, 'It is there').trigger('click')
    await act(wrapper, 'Leave it out').trigger('click')
    expect(edits.map((edit) => [edit.after?.status, edit.after?.settled])).toEqual([
      ['heard', true],
      ['left_out', true],
    ])
  })

  it('gives the reasons for what was left out, and brings it back', async () => {
    const out = hit('1/4', 'snare', { status: 'left_out', reason: 'left out by ear' })
    const { wrapper, edits } = await panel([out])
    await choose(wrapper, 'Why it is left out', 'nobody plays it live')
    expect(edits.at(-1)?.after).toMatchObject({ status: 'left_out', reason: 'nobody plays it live' })
    await act(wrapper, 'Bring it back').trigger('click')
    expect(edits.at(-1)?.after).toMatchObject({ status: 'heard' })
  })

  it('offers the drums of this limb only, by number', async () => {
    const foot = await panel([hit('0', 'kick')], '0', 'RF')
    expect(foot.wrapper.findAll('.choices button').map((item) => item.text())).toEqual(['kick 1'])
    const { wrapper, edits } = await panel([hit('1/4', 'snare')])
    await wrapper.findAll('.choices button')[1]!.trigger('click')
    expect(edits.at(-1)?.after?.instrument).toBe('cross_stick')
  })

  it('tells who decided what here, also what was taken back', async () => {
    const { wrapper, asked } = await panel([])
    await wrapper.find('.folded button').trigger('click')
    expect(wrapper.find('.folded').text()).toContain('Snare on 2 made a ghost (taken back)')
    expect(wrapper.find('.folded').text()).toContain('mira')
    expect(asked).toContain('/api/songs/song/history/1')
  })
})

describe('the count', () => {
  it('is said in the words of the chosen school, which is kept', async () => {
    const asked = serving({ '/saying': { count: '1 & 2 & | 3 e & a', sentences: ['Kick and hat together on 1.'] } })
    const open = composedSong(score([bar(3), bar(4)]))
    open.stack.place({ bar: 4, position: '0' })
    open.stack.anchor.value = { bar: 3, position: '0', limb: 'RH' }
    const wrapper = inSong(SayPanel, open)
    await atRest()
    expect(wrapper.findAll('.count').map((line) => line.text())).toEqual(['1 & 2 &', '3 e & a'])
    expect(wrapper.text()).toContain('Bars 3–4, said')
    expect(wrapper.text()).toContain('Kick and hat together on 1.')
    await choose(wrapper, 'Words of your school', SCHOOLS['e-and-da']!)
    await atRest()
    expect(asked.at(-1)).toBe('/api/songs/song/saying?first=3&last=4&school=e-and-da')
    expect(localStorage.getItem('orchesis.school')).toBe('e-and-da')
  })

  it('says so where no two limbs play, and tells what is wrong', async () => {
    serving({ '/saying': { count: '1', sentences: [] } })
    const open = composedSong(score([bar(1)]))
    const wrapper = inSong(SayPanel, open)
    await atRest()
    expect(wrapper.text()).toContain('Nothing is played by two limbs here.')
    serving({})
    open.part.score.value = { ...open.part.score.value!, revision: 2 }
    await atRest()
    expect(wrapper.find('[role=alert]').text()).toBe('There is no such bar.')
  })
})

describe('the kin of a groove', () => {
  const relative = (change: Partial<Relative>): Relative => ({
    song: 'song',
    title: 'This one',
    bar: 9,
    section: 'Chorus',
    kin: 'the same',
    distance: 0,
    more: 0,
    ...change,
  })
  const kin: Kin = {
    compared: 480,
    relatives: [
      relative({ kin: 'contains it', distance: 3, song: 'other', title: 'Another', bar: 2, section: '' }),
      relative({ more: 7 }),
      relative({ kin: 'one note away', distance: 1, bar: 12 }),
    ],
  }
  const chain = { stages: [{ words: 'Add the kick on the & of 3.', notes: 1, song: null, title: '', bar: null }] }

  async function panel(answers: Record<string, unknown>) {
    const asked = serving(answers)
    const open = composedSong(score([bar(1), bar(2), bar(12)]))
    const wrapper = inSong(KinPanel, open)
    await atRest()
    return { wrapper, asked, open }
  }

  it('puts what is nearest first and says where it is', async () => {
    const { wrapper } = await panel({ '/kin/1': kin })
    expect(wrapper.findAll('h4').map((item) => item.text())).toEqual([
      'The same groove',
      'One note away',
      'What it unlocks: this, and more',
    ])
    expect(wrapper.findAll('.go').map((item) => item.text())).toEqual([
      'Chorus bar 9 and 7 more',
      'Chorus bar 12',
      'Another, bar 2',
    ])
    expect(wrapper.text()).toContain('compared with 480 bars')
  })

  it('goes to a bar of this song, or opens the other one', async () => {
    const { wrapper, open } = await panel({ '/kin/1': kin })
    await wrapper.findAll('.go')[1]!.trigger('click')
    expect(open.stack.cursor.value.bar).toBe(12)
    await wrapper.findAll('.go')[2]!.trigger('click')
    expect(push).toHaveBeenCalledWith('/songs/other')
  })

  it('shows the stages to a kin under its own heading, and forgets them when the bar changes', async () => {
    const { wrapper, asked, open } = await panel({ '/kin/1': kin, '/kin/1/chain': chain, '/kin/2': kin })
    await wrapper.find('[aria-label="3 notes: stages to Another, bar 2"]').trigger('click')
    await flushPromises()
    expect(asked.at(-1)).toBe('/api/songs/song/kin/1/chain?to_song=other&to_bar=2')
    expect(wrapper.find('.stages').text()).toContain('Add the kick on the & of 3.')
    open.stack.place({ bar: 2 })
    await atRest()
    expect(wrapper.find('.stages').exists()).toBe(false)
  })

  it('says that there is none, or what went wrong', async () => {
    expect((await panel({ '/kin/1': { compared: 8, relatives: [] } })).wrapper.text()).toContain('No similar grooves yet')
    expect((await panel({})).wrapper.find('[role=alert]').text()).toBe('There is no such bar.')
  })
})
