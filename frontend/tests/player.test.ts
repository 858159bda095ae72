/** The player of a song page and the transport that works it, over a sound card that is not there. */
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { type EffectScope, effectScope, nextTick, ref, shallowRef } from 'vue'
import type { Score, Source } from '@/api/client'
import TransportBar from '@/transport/TransportBar.vue'
import { usePlayer } from '@/transport/usePlayer'
import { answer, bar, hit, score, withOwnClockAndStore } from './composing'
import { choose, composedSong, inSong, recordings } from './opening'

/** What the sound card was told; `missing` are sounds that cannot be fetched. */
const card = vi.hoisted(() => ({
  missing: new Set<string>(),
  loaded: [] as string[],
  began: [] as { from: number; counted: unknown }[],
  heard: [] as string[],
  told: [] as unknown[],
  focus: null as { moments: unknown[] } | null,
  strokes: [] as { instrument: string }[],
}))
vi.mock('@/engine/player', async (original) => ({
  ...(await original<object>()),
  Player: class {
    duration = 8
    position = 0
    level = 0
    isPlaying = false
    rate = 1
    loop: unknown = null
    clicks: unknown[] = []
    onEnd = () => {}
    set strokes(strokes: { instrument: string }[]) {
      card.strokes = strokes
    }
    async load(url: string) {
      if (card.missing.has(url)) throw new Error('The recording could not be fetched.')
      card.loaded.push(url)
    }
    exchange = this.load
    async play(from: number, counted: unknown) {
      card.began.push({ from, counted })
      this.position = from
      this.isPlaying = true
    }
    pause() {
      this.isPlaying = false
    }
    seek(to: number) {
      this.position = to
    }
    hear(what: string) {
      card.heard.push(what)
    }
    only(focus: { moments: unknown[] } | null) {
      card.focus = focus
    }
    replan() {}
    adjust(change: unknown) {
      card.told.push(change)
    }
    async close() {}
  },
}))
vi.mock('signalsmith-stretch', () => ({ default: {} }))
vi.mock('signalsmith-stretch?url', () => ({ default: '' }))

withOwnClockAndStore()
beforeEach(() => {
  card.missing.clear()
  Object.assign(card, { loaded: [], began: [], heard: [], told: [], focus: null, strokes: [] })
})

const ghost = hit('3/8', 'snare', { ghost: true })
const song: Score = score([
  bar(1, [hit('0', 'kick'), hit('1/4', 'snare')]),
  bar(2, [hit('0', 'kick'), ghost, hit('1/2', 'snare', { status: 'left_out' })]),
  bar(3, [hit('0', 'kick')]),
  bar(4),
])

let open: EffectScope[] = []
afterEach(() => {
  for (const scope of open) scope.stop()
  open = []
})

function made(id = 'song') {
  const scope = effectScope()
  open.push(scope)
  return scope.run(() => usePlayer(id, shallowRef<Score | null>(song)))!
}

describe('playing a song', () => {
  it('loads the record when one first wishes to hear it, and only once', async () => {
    const player = made()
    expect(card.loaded).toEqual([])
    await player.play()
    player.pause()
    await player.play()
    expect(card.loaded).toEqual(['/api/songs/song/audio'])
    expect(card.began).toHaveLength(2)
  })

  it('begins where one is, or at the loop when one is outside it', async () => {
    const player = made()
    player.seek(5)
    await player.play()
    player.pause()
    player.setLoop({ first: 2, last: 2 })
    expect(player.position.value).toBe(2)
    player.position.value = 7.5
    await player.play()
    expect(card.began.map((one) => one.from)).toEqual([5, 2])
  })

  it('comes half a beat before a part of a bar, so that one hears it come', () => {
    const player = made()
    player.setLoop({ first: 2, last: 2, from: 0.25, to: 0.5 })
    expect(player.loopTimes.value).toEqual({ start: 2.25, end: 3 })
  })

  it('counts in a bar as long as the one that follows', async () => {
    const player = made()
    player.settings.value.countIn = true
    await player.play()
    expect(card.began[0]!.counted).toEqual({ length: 2, beats: 4, bars: 1 })
  })

  it('begins anew from the end', async () => {
    const player = made()
    player.seek(7.99)
    await player.play()
    expect(card.began[0]!.from).toBe(0)
  })

  it('keeps its settings for the song, and only for it', async () => {
    const player = made('kept')
    player.settings.value.speed = 60
    player.setLoop({ first: 3, last: 4 })
    await nextTick()
    expect(made('kept').settings.value).toMatchObject({ speed: 60, loop: { first: 3, last: 4 } })
    expect(made('another').settings.value).toMatchObject({ speed: 100, loop: null })
  })

  it('says so when the record cannot be fetched, and can be tried again', async () => {
    card.missing.add('/api/songs/song/audio')
    const player = made()
    await player.play()
    expect(player.problem.value).toBe('The recording could not be fetched.')
    expect(player.isPlaying.value).toBe(false)
    card.missing.clear()
    await player.play()
    expect(player.problem.value).toBe('')
    expect(card.began).toHaveLength(1)
  })

  it('falls back on the record when the version that was heard last is gone', async () => {
    card.missing.add('/api/songs/song/audio/drums-down')
    const player = made()
    player.settings.value.hearing = 'drums-down'
    await player.play()
    expect(card.loaded).toEqual(['/api/songs/song/audio'])
    expect(player.settings.value.hearing).toBe('record')
  })
})

describe('what one hears', () => {
  it('is the chart without what was left out, without limbs that are muted, without a note', async () => {
    const player = made()
    player.settings.value.hearing = 'kit'
    await player.play()
    const played = () => card.strokes.map((stroke) => stroke.instrument)
    expect(played()).toEqual(['kick', 'snare', 'kick', 'snare', 'kick'])
    player.toggleLimb('RF')
    await nextTick()
    expect(played()).toEqual(['snare', 'snare'])
    expect(player.hearWithout({ ...ghost, bar: 2 })).toContain('without the')
    await nextTick()
    expect(played()).toEqual(['snare'])
  })

  it('is one limb alone, and all of them again', () => {
    const player = made()
    player.toggleLimb('LH', true)
    expect(player.settings.value.limbs).toEqual({ RH: false, LH: true, RF: false, LF: false })
    player.toggleLimb('LH', true)
    expect(player.settings.value.limbs).toEqual({ RH: true, LH: true, RF: true, LF: true })
  })

  it('is one drum at its moments, from the drums brought forward', async () => {
    const player = made()
    await player.play()
    player.hearOnly('snare')
    await flushPromises()
    expect(card.loaded.at(-1)).toBe('/api/songs/song/audio/drums-forward')
    expect(card.focus!.moments).toHaveLength(2)
    player.hearOnly('snare')
    await flushPromises()
    expect(card.loaded.at(-1)).toBe('/api/songs/song/audio')
    expect(card.focus).toBeNull()
  })

  it('has a new speed and a new loop at once', async () => {
    const player = made()
    await player.play()
    player.settings.value.speed = 50
    player.setLoop({ first: 2, last: 3 })
    await nextTick()
    expect(card.told).toEqual([{ rate: 0.5 }, { loop: { start: 2, end: 6 } }])
  })

  it('clicks where the grid of the song is', async () => {
    vi.stubGlobal('fetch', async (request: Request) =>
      request.url.endsWith('/clicks/eighths') ? answer([{ time: 0, strength: 2 }]) : answer({}, 404),
    )
    const player = made()
    player.settings.value.click = 'eighths'
    await player.play()
    await flushPromises()
    expect(player.problem.value).toBe('')
    player.settings.value.click = 'triplets'
    await nextTick()
    await flushPromises()
    expect(player.problem.value).toBe('The click could not be fetched.')
  })
})

describe('the transport', () => {
  const live = { id: 7, title: 'Live in the yard', state: 'ready', words: '' } as Source

  function transport(parts = ['drums-down']) {
    const player = made()
    const open = composedSong({ ...score([bar(1)]), parts: parts as never }, {
      player,
      sources: recordings(live, { ...live, id: 8, state: 'refused' }),
      drums: ref(['snare', 'kick']),
    })
    return { player, open, wrapper: inSong(TransportBar, open) }
  }

  it('offers the versions of the record that were made, and the recordings that are lined up', async () => {
    const { wrapper } = transport()
    await wrapper.find('[aria-label="What you hear"]').trigger('click')
    await nextTick()
    const offered = wrapper.findAll('[role=option]').map((option) => option.attributes('aria-label')!)
    const names = ['Record', 'Drums down', 'Chart kit', 'Left / right', 'In turn', 'Live in the yard']
    expect(offered).toHaveLength(names.length)
    for (const [index, name] of names.entries()) expect(offered[index]).toContain(name)
  })

  it('plays and pauses', async () => {
    const { wrapper } = transport()
    const play = wrapper.find('[data-test=play]')
    expect(play.attributes('aria-label')).toBe('Play')
    await play.trigger('click')
    await flushPromises()
    expect(play.attributes('aria-label')).toBe('Pause')
    await play.trigger('click')
    expect(play.attributes('aria-label')).toBe('Play')
  })

  it('says which bars are looped, and ends the loop', async () => {
    const { player, wrapper } = transport()
    player.setLoop({ first: 2, last: 4 })
    await nextTick()
    expect(wrapper.text()).toContain('bars 2–4')
    player.setLoop({ first: 3, last: 3, from: 0, to: 0.5 })
    await nextTick()
    expect(wrapper.text()).toContain('in bar 3')
    await wrapper.find('[aria-label="End the loop"]').trigger('click')
    expect(player.settings.value.loop).toBeNull()
  })

  it('shows the limbs where the kit plays, and the drums where one is heard alone', async () => {
    const { player, wrapper } = transport(['drums-forward'])
    expect(wrapper.find('.limbs').exists()).toBe(false)
    await choose(wrapper, 'What you hear', 'Left / right')
    await wrapper.find('[aria-label="left foot"]').trigger('click')
    expect(player.settings.value.limbs.LF).toBe(false)
    await choose(wrapper, 'What you hear', 'Only this drum')
    await choose(wrapper, 'Which drum', 'kick')
    expect(player.settings.value.only).toBe('kick')
  })

  it('tells whether every edit is stored', async () => {
    const { wrapper, open } = transport()
    const saved = wrapper.find('[data-test=saved]')
    expect(saved.text()).toBe('Every edit saved')
    Object.assign(open.part.saveState, { value: 'kept' })
    open.part.waiting.value = 1
    await nextTick()
    expect(saved.text()).toBe('1 edit kept here until Orchesis answers')
    open.part.waiting.value = 3
    await nextTick()
    expect(saved.text()).toBe('3 edits kept here until Orchesis answers')
  })
})
