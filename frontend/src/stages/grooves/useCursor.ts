/** The cursor of the bar stack: a bar, a count and a limb; arrows move it, edits happen at it. */
import { useSessionStorage } from '@vueuse/core'
import { computed, type ShallowRef } from 'vue'
import type { Bar, Hit, Instrument, Limb, Score } from '@/api/client'
import { hitAt, LIMBS, PLAYED_BY } from '@/score/place'

export interface Cursor {
  bar: number
  position: string
  limb: Limb
}

type Edit = (before: Hit | null, after: Hit | null) => void

export const USUAL_VELOCITY = 84
export const GHOST_VELOCITY = 34
export const ACCENT_VELOCITY = 112

export function useCursor(songId: string, score: ShallowRef<Score | null>, edit: Edit) {
  const cursor = useSessionStorage<Cursor>(`orchesis.cursor.${songId}`, {
    bar: score.value?.bars[0]?.number ?? 1,
    position: '0',
    limb: 'LH',
  })
  const bar = computed<Bar | undefined>(
    () => score.value?.bars.find((item) => item.number === cursor.value.bar) ?? score.value?.bars[0],
  )
  const hit = computed(() => bar.value && hitAt(bar.value, cursor.value.limb, cursor.value.position))

  function place(to: Partial<Cursor>): void {
    cursor.value = { ...cursor.value, ...to }
  }

  /** One count left or right; past the end of a bar comes the next one. */
  function alongCounts(step: -1 | 1): void {
    const bars = score.value?.bars
    if (!bars || !bar.value) return
    const index = bar.value.cells.findIndex((cell) => cell.position === cursor.value.position) + step
    const cell = bar.value.cells[index]
    if (cell) return place({ position: cell.position })
    const next = bars[bars.indexOf(bar.value) + step]
    if (next) place({ bar: next.number, position: next.cells.at(step > 0 ? 0 : -1)!.position })
  }

  function alongLimbs(step: -1 | 1): void {
    const index = LIMBS.indexOf(cursor.value.limb) + step
    if (LIMBS[index]) place({ limb: LIMBS[index] })
    else alongBars(step, step > 0 ? 'RH' : 'LF')
  }

  function alongBars(step: -1 | 1, limb = cursor.value.limb): void {
    const bars = score.value?.bars
    if (!bars || !bar.value) return
    const next = bars[bars.indexOf(bar.value) + step]
    if (!next) return
    const same = next.cells.some((cell) => cell.position === cursor.value.position)
    place({ bar: next.number, limb, position: same ? cursor.value.position : '0' })
  }

  /** What a limb would most likely play here: what it plays elsewhere in this bar. */
  function likely(limb: Limb, at: Bar): Instrument {
    const own = at.hits.filter((item) => item.limb === limb && item.status !== 'left_out')
    const counts = new Map<Instrument, number>()
    for (const item of own) counts.set(item.instrument, (counts.get(item.instrument) ?? 0) + 1)
    const best = [...counts].sort((one, other) => other[1] - one[1])[0]
    return best?.[0] ?? PLAYED_BY[limb][0]!
  }

  function newHit(at: Bar, instrument: Instrument, ghost = false): Hit {
    const { position, limb } = cursor.value
    return {
      time: Math.max(0, at.cells.find((cell) => cell.position === position)?.time ?? at.start),
      instrument,
      velocity: ghost ? GHOST_VELOCITY : USUAL_VELOCITY,
      ghost,
      accent: false,
      confidence: 1,
      status: 'heard',
      bar: at.number,
      position,
      limb,
      reason: 'added by hand',
    }
  }

  /** The instrument may sound here already with another limb: then there is nothing to add. */
  function isTaken(at: Bar, instrument: Instrument): boolean {
    const { position } = cursor.value
    return at.hits.some((item) => item.position === position && item.instrument === instrument)
  }

  function toggleNote(): void {
    if (!bar.value) return
    if (hit.value) return edit(hit.value, null)
    const wanted = likely(cursor.value.limb, bar.value)
    const free = [wanted, ...PLAYED_BY[cursor.value.limb]].find((item) => !isTaken(bar.value!, item))
    if (free) edit(null, newHit(bar.value, free))
  }

  function toggleGhost(): void {
    if (!bar.value) return
    const now = hit.value
    if (!now) {
      const wanted = likely(cursor.value.limb, bar.value)
      if (!isTaken(bar.value, wanted)) edit(null, newHit(bar.value, wanted, true))
      return
    }
    edit(now, {
      ...now,
      ghost: !now.ghost,
      accent: false,
      velocity: now.ghost ? USUAL_VELOCITY : Math.min(now.velocity, GHOST_VELOCITY),
    })
  }

  function toggleAccent(): void {
    const now = hit.value
    if (!now) return
    edit(now, {
      ...now,
      accent: !now.accent,
      ghost: false,
      velocity: now.accent ? USUAL_VELOCITY : Math.max(now.velocity, ACCENT_VELOCITY),
    })
  }

  function playOn(instrument: Instrument): void {
    if (!bar.value || isTaken(bar.value, instrument)) return
    if (hit.value) edit(hit.value, { ...hit.value, instrument })
    else edit(null, newHit(bar.value, instrument))
  }

  /** The next note that the tool doubts, after the cursor and round again. */
  function nextDoubt(step: -1 | 1): Hit | null {
    const order = (number: number, position: string) => {
      const [top, bottom] = position.split('/')
      return number + Number(top) / Number(bottom ?? 1)
    }
    const doubts = (score.value?.bars ?? [])
      .flatMap((item) => item.hits.filter((one) => one.status === 'doubtful'))
      .sort((one, other) => order(one.bar, one.position) - order(other.bar, other.position))
    if (doubts.length === 0) return null
    const here = order(cursor.value.bar, cursor.value.position)
    const found =
      step > 0
        ? (doubts.find((one) => order(one.bar, one.position) > here) ?? doubts[0]!)
        : (doubts.findLast((one) => order(one.bar, one.position) < here) ?? doubts.at(-1)!)
    place({ bar: found.bar, position: found.position, limb: found.limb ?? 'RH' })
    return found
  }

  function settle(status: 'heard' | 'left_out'): void {
    const now = hit.value
    if (now)
      edit(now, { ...now, status, reason: status === 'heard' ? 'confirmed by ear' : 'left out by hand' })
  }

  return {
    cursor,
    bar,
    hit,
    place,
    alongCounts,
    alongLimbs,
    alongBars,
    toggleNote,
    toggleGhost,
    toggleAccent,
    playOn,
    nextDoubt,
    settle,
  }
}

export type StackCursor = ReturnType<typeof useCursor>
