/** Loops and speed as the song page's keys and buttons ask for them. */
import { watch } from 'vue'
import { fraction } from '@/score/place'
import type { StackCursor } from '@/stages/grooves/useCursor'
import { FASTEST, SLOWEST, type SongPlayer } from '@/transport/usePlayer'

/** Percent: so slowly a doubt is looped. Whoever goes slower already stays there. */
export const DOUBT_SPEED = 70

export function useLoops(player: SongPlayer, stack: StackCursor) {
  function loopBars(first: number, last: number): void {
    const loop = player.settings.value.loop
    if (loop?.first === first && loop.last === last) player.setLoop(null)
    else player.setLoop({ first, last })
  }

  function extendLoop(): void {
    const bar = stack.cursor.value.bar
    const loop = player.settings.value.loop
    if (loop) player.setLoop({ first: Math.min(loop.first, bar), last: Math.max(loop.last, bar) })
    else player.setLoop({ first: bar, last: bar })
  }

  function faster(by: number): void {
    const speed = player.settings.value.speed + by
    player.settings.value.speed = Math.min(FASTEST, Math.max(SLOWEST, speed))
  }

  /** The beat at the cursor, or what is selected, with a small lead-in. */
  function loopHere(): void {
    const { selection, cursor, bar } = stack
    const home = bar.value
    if (!home) return
    const range = selection.value
    const place = fraction(cursor.value.position)
    const beats = home.beats.length
    const cell = 1 / (beats * 4)
    const loop = range
      ? { first: range.from.bar, last: range.to.bar, from: range.from.place, to: Math.min(1, range.to.place + cell) }
      : {
          first: home.number,
          last: home.number,
          from: Math.floor(place * beats + 1e-9) / beats,
          to: (Math.floor(place * beats + 1e-9) + 1) / beats,
        }
    player.setLoop(loop)
  }

  /** From a place of one bar to one of another; asked for again, the loop ends. */
  function loopStretch(stretch: { first_bar: number; at: string; bar: number; until: string }): void {
    const wanted = {
      first: stretch.first_bar,
      last: stretch.bar,
      from: fraction(stretch.at),
      to: fraction(stretch.until),
    }
    const loop = player.settings.value.loop
    const isSame = loop && loop.first === wanted.first && loop.last === wanted.last && loop.from === wanted.from
    player.setLoop(isSame ? null : wanted)
    if (!isSame) void player.play()
  }

  /** What speed was before doubts were looked through; null when they are not. */
  let speedBefore: number | null = null

  /** A bar in doubt, slowly. The first one begins to sound; whoever then pauses goes on in silence. */
  function loopDoubt(bar: number): void {
    const isFirst = speedBefore === null
    speedBefore ??= player.settings.value.speed
    player.settings.value.speed = Math.min(player.settings.value.speed, DOUBT_SPEED)
    player.setLoop({ first: bar, last: bar })
    if (isFirst) void player.play()
  }

  /** One stroke and what is about it, slowly, over and over: to hear what made it. */
  function loopStroke(bar: number, position: string): void {
    speedBefore ??= player.settings.value.speed
    player.settings.value.speed = Math.min(player.settings.value.speed, DOUBT_SPEED)
    const beats = stack.bar.value?.beats.length ?? 4
    const place = fraction(position)
    const to = Math.min(1, place + 1 / beats)
    player.setLoop({ first: bar, last: bar, from: Math.max(0, to - 1 / beats), to })
    void player.play()
  }

  watch(
    () => player.settings.value.loop,
    (loop) => {
      if (loop || speedBefore === null) return
      // A speed that was chosen meanwhile stays.
      if (player.settings.value.speed === DOUBT_SPEED) player.settings.value.speed = speedBefore
      speedBefore = null
    },
    { flush: 'sync' },
  )

  function compare(): void {
    const now = player.settings.value
    now.hearing = now.hearing === 'kit' ? 'record' : 'kit'
  }

  return { loopBars, extendLoop, loopHere, loopDoubt, loopStretch, loopStroke, faster, compare }
}
