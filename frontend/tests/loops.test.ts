import { nextTick, ref } from 'vue'
import { describe, expect, it, vi } from 'vitest'
import { DOUBT_SPEED, useLoops } from '@/song/useLoops'
import type { StackCursor } from '@/stages/grooves/useCursor'
import type { BarLoop, SongPlayer } from '@/transport/usePlayer'

function made(speed = 100) {
  const settings = ref({ speed, loop: null as BarLoop | null, hearing: 'record' })
  const player = {
    settings,
    setLoop: (loop: BarLoop | null) => (settings.value.loop = loop),
    play: vi.fn(),
  }
  const stack = { cursor: ref({ bar: 4, position: '0', limb: 'RH' }), selection: ref(null), bar: ref(undefined) }
  return { settings, player, loops: useLoops(player as unknown as SongPlayer, stack as unknown as StackCursor) }
}

describe('a doubt', () => {
  it('is looped slowly and begins to sound; ending the loop gives the speed back', async () => {
    const { settings, player, loops } = made(100)
    loops.loopDoubt(5)
    expect(settings.value).toMatchObject({ speed: DOUBT_SPEED, loop: { first: 5, last: 5 } })
    expect(player.play).toHaveBeenCalledTimes(1)
    player.setLoop(null)
    await nextTick()
    expect(settings.value.speed).toBe(100)
  })

  it('after the first one leaves it to the player whether it sounds', () => {
    const { settings, player, loops } = made()
    loops.loopDoubt(5)
    loops.loopDoubt(9)
    expect(settings.value.loop).toEqual({ first: 9, last: 9 })
    expect(player.play).toHaveBeenCalledTimes(1)
  })

  it('keeps a speed that is slower already, and one that was chosen meanwhile', async () => {
    const slow = made(40)
    slow.loops.loopDoubt(5)
    expect(slow.settings.value.speed).toBe(40)
    const { settings, player, loops } = made(100)
    loops.loopDoubt(5)
    loops.faster(-20)
    player.setLoop(null)
    await nextTick()
    expect(settings.value.speed).toBe(DOUBT_SPEED - 20)
  })
})

describe('loops by key', () => {
  it('end when the same bars are asked for again, and grow to the cursor', () => {
    const { settings, loops } = made()
    loops.loopBars(2, 3)
    loops.extendLoop()
    expect(settings.value.loop).toEqual({ first: 2, last: 4 })
    loops.loopBars(2, 4)
    expect(settings.value.loop).toBeNull()
  })
})
