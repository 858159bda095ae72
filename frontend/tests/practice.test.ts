/** Practising: what is played, at which rung, what is asked for, what is entered in the log. */
import { describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref, shallowRef } from 'vue'
import { barIsSilent, countIn } from '@/engine/timeline'
import { useControls } from '@/stages/practice/useControls'
import { useRun } from '@/stages/practice/useRun'
import type { Tape } from '@/transport/usePlayer'
import { composedPractice } from './opening'

function practising(change = {}) {
  localStorage.clear()
  const practice = composedPractice(change)
  const count = ref(0)
  const player = {
    tape: shallowRef<Tape | null>(null),
    position: ref(0),
    isPlaying: ref(false),
    passes: () => count.value,
    play: vi.fn(async () => void (player.isPlaying.value = true)),
    pause: vi.fn(() => void (player.isPlaying.value = false)),
  }
  const scope = effectScope()
  const run = scope.run(() => useRun(practice as never, player as never, 'song', () => true))!
  practice.isOpen.value = true
  async function pass(): Promise<void> {
    count.value += 1
    player.position.value += 0.01
    await nextTick()
  }
  return { practice, player, run, pass, count, scope }
}

describe('a step that is practised', () => {
  it('is looped at the lowest rung, with its notes, without the record', async () => {
    const { player } = practising()
    await nextTick()
    const tape = player.tape.value!
    expect([tape.start, tape.end, tape.rate]).toEqual([0, 2, 0.5])
    expect(tape.strokes).toHaveLength(8)
    expect(tape.balance).toEqual({ record: 0, kit: 1 })
  })

  it('goes up a rung after as many passes as it asks for, counted in anew, and says so in the log', async () => {
    const { run, player, practice, pass, count } = practising()
    vi.spyOn(performance, 'now').mockReturnValueOnce(0)
    player.isPlaying.value = true
    await nextTick()
    vi.spyOn(performance, 'now').mockReturnValue(9000)
    await pass()
    expect(run.rung.value).toBe(0)
    await pass()
    expect(run.rung.value).toBe(1)
    expect(practice.enter).toHaveBeenCalledWith(expect.objectContaining({ share: 0.5, bpm: 60, loops: 2, minutes: 0.15 }))
    expect(player.play).toHaveBeenCalled()
    count.value = 0
    vi.restoreAllMocks()
  })

  it('is cut to two beats and grown again by one key', async () => {
    const { run, player } = practising()
    run.zoom()
    await nextTick()
    expect([player.tape.value!.start, player.tape.value!.end]).toEqual([1, 2])
    expect(player.tape.value!.strokes).toHaveLength(4)
    run.zoom()
    run.zoom()
    await nextTick()
    expect(player.tape.value!.strokes).toHaveLength(8)
  })

  it('leaves a muted limb and what is not asked for in this pass away', async () => {
    const { run, player } = practising()
    run.detail.value = 'ghosts'
    await nextTick()
    expect(player.tape.value!.strokes.filter((stroke) => stroke.everyOther)).toHaveLength(1)
    expect(run.wanted(2)).toHaveLength(15)
    run.toggleLimb('RH')
    await nextTick()
    expect(player.tape.value!.strokes).toHaveLength(0)
  })

  it('asks for its strokes in the time in which they are played', () => {
    const { run } = practising()
    expect(run.wanted(2).map((item) => item.time).slice(0, 9)).toEqual([0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4])
  })

  it('enters nothing that was hardly begun', async () => {
    const { run, practice } = practising()
    run.next()
    expect(practice.enter).not.toHaveBeenCalled()
    expect(practice.goTo).toHaveBeenCalledWith(1)
  })

  it('begins where the log says that one was', () => {
    const practice = composedPractice()
    practice.overview.value = { session: [{ target: 'section-1', step: 'limb_by_limb-0', share: 0.75 }] }
    const player = { tape: shallowRef(null), position: ref(0), isPlaying: ref(false), passes: () => 0, play: vi.fn(), pause: vi.fn() }
    const run = effectScope().run(() => useRun(practice as never, player as never, 'song', () => false))!
    expect(run.rung.value).toBe(1)
  })
})

describe('pedals', () => {
  it('learn a key, do what it was learnt for, and do one thing each', async () => {
    localStorage.clear()
    const acts = { play: vi.fn(), next: vi.fn(), faster: vi.fn(), slower: vi.fn(), zoom: vi.fn() }
    const pads = { onMidi: new Set<(data: Uint8Array) => void>(), openMidi: vi.fn() }
    const controls = effectScope().run(() => useControls(pads as never, acts))!
    controls.learn('next')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'F9' }))
    expect(acts.next).not.toHaveBeenCalled()
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'F9' }))
    expect(acts.next).toHaveBeenCalledOnce()
    controls.learn('zoom')
    for (const send of pads.onMidi) send(new Uint8Array([176, 64, 127]))
    for (const send of pads.onMidi) send(new Uint8Array([176, 64, 0]))
    expect(acts.zoom).not.toHaveBeenCalled()
    for (const send of pads.onMidi) send(new Uint8Array([176, 64, 127]))
    expect(acts.zoom).toHaveBeenCalledOnce()
    controls.learn('faster')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'F9' }))
    expect(controls.learnt.value).toEqual({ zoom: 'midi 176 64', faster: 'key F9' })
  })
})

describe('bars without the click', () => {
  const course = { at: 10, from: 4, rate: 0.5, loop: { start: 4, end: 6 } }
  it('come after three with it, however often the loop turns', () => {
    const rule = { play: 3, rest: 1, barLength: 2 }
    const silent = Array.from({ length: 8 }, (_, bar) => barIsSilent(course, 10 + bar * 4 + 0.1, rule))
    expect(silent).toEqual([false, false, false, true, false, false, false, true])
  })

  it('are counted in by two bars where that is asked for', () => {
    expect(countIn(2, 4, 1, 2).map((point) => point.before)).toEqual([4, 3.5, 3, 2.5, 2, 1.5, 1, 0.5])
    expect(countIn(2, 4, 1, 2).filter((point) => point.strength === 2)).toHaveLength(2)
  })
})
