/** The cursor of the bar stack: a bar, a count and a limb; with Shift it selects a stretch. */
import { useSessionStorage } from '@vueuse/core'
import { computed, ref, type ShallowRef, watch } from 'vue'
import type { Bar, Hit, Limb, Score } from '@/api/client'
import { LIMBS } from '@/api/vocabulary'
import { fraction, hitAt, laneOf } from '@/score/place'

export interface Cursor {
  bar: number
  position: string
  limb: Limb
}

/** A stretch of counts in a stretch of lanes. */
export interface Selection {
  from: { bar: number; place: number }
  to: { bar: number; place: number }
  limbs: readonly Limb[]
}

export function isSelected(selection: Selection | null, bar: number, place: number, limb: Limb): boolean {
  if (!selection?.limbs.includes(limb)) return false
  const { from, to } = selection
  const after = bar > from.bar || (bar === from.bar && place >= from.place - 1e-9)
  const before = bar < to.bar || (bar === to.bar && place <= to.place + 1e-9)
  return after && before
}

/** Where one begins: at the first bar that is played, since a bar of rest has nothing to look at. */
function firstPlayed(score: Score | null): number {
  const bars = score?.bars ?? []
  return (bars.find((bar) => bar.hits.some((hit) => hit.status !== 'left_out')) ?? bars[0])?.number ?? 1
}

export function useCursor(songId: string, score: ShallowRef<Score | null>) {
  const key = `orchesis.cursor.${songId}`
  const isFirstVisit = sessionStorage.getItem(key) === null
  const cursor = useSessionStorage<Cursor>(key, { bar: firstPlayed(score.value), position: '0', limb: 'LH' })
  if (isFirstVisit && !score.value) {
    // Before the browser draws it: the stack then opens where the playing begins.
    watch(score, (part) => (cursor.value = { ...cursor.value, bar: firstPlayed(part) }), { once: true, flush: 'sync' })
  }
  /** The other end of the selection. */
  const anchor = ref<Cursor | null>(null)
  const bar = computed<Bar | undefined>(
    () => score.value?.bars.find((item) => item.number === cursor.value.bar) ?? score.value?.bars[0],
  )
  const hit = computed(() => bar.value && hitAt(bar.value, cursor.value.limb, cursor.value.position))

  const selection = computed<Selection | null>(() => {
    if (!anchor.value) return null
    const ends = [anchor.value, cursor.value]
      .map((end) => ({ bar: end.bar, place: fraction(end.position) }))
      .sort((one, other) => one.bar - other.bar || one.place - other.place)
    const lanes = [anchor.value, cursor.value].map((end) => LIMBS.indexOf(end.limb))
    return {
      from: ends[0]!,
      to: ends[1]!,
      limbs: LIMBS.slice(Math.min(...lanes), Math.max(...lanes) + 1),
    }
  })

  /** What an edit is about: the selected notes, or the one at the cursor. */
  const targets = computed<Hit[]>(() => {
    const range = selection.value
    if (!range) return hit.value ? [hit.value] : []
    return (score.value?.bars ?? [])
      .filter((item) => item.number >= range.from.bar && item.number <= range.to.bar)
      .flatMap((item) =>
        item.hits.filter(
          (one) =>
            one.status !== 'left_out' && isSelected(range, item.number, fraction(one.position), laneOf(one.limb)),
        ),
      )
  })

  /** The numbers of the bars that are selected, or the cursor's. */
  const bars = computed(() => {
    const range = selection.value
    const first = range?.from.bar ?? cursor.value.bar
    const last = range?.to.bar ?? cursor.value.bar
    return (score.value?.bars ?? []).map((item) => item.number).filter((number) => number >= first && number <= last)
  })

  function place(to: Partial<Cursor>, selecting = false): void {
    anchor.value = selecting ? (anchor.value ?? { ...cursor.value }) : null
    cursor.value = { ...cursor.value, ...to }
  }

  /** One count left or right; past the end of a bar comes the next one. */
  function alongCounts(step: -1 | 1, selecting = false): void {
    const list = score.value?.bars
    if (!list || !bar.value) return
    const index = bar.value.cells.findIndex((cell) => cell.position === cursor.value.position) + step
    const cell = bar.value.cells[index]
    if (cell) return place({ position: cell.position }, selecting)
    const next = list[list.indexOf(bar.value) + step]
    if (next) place({ bar: next.number, position: next.cells.at(step > 0 ? 0 : -1)!.position }, selecting)
  }

  function alongLimbs(step: -1 | 1, selecting = false): void {
    const index = LIMBS.indexOf(cursor.value.limb) + step
    if (LIMBS[index]) place({ limb: LIMBS[index] }, selecting)
    else if (!selecting) alongBars(step, false, step > 0 ? 'RH' : 'LF')
  }

  function alongBars(step: -1 | 1, selecting = false, limb = cursor.value.limb): void {
    const list = score.value?.bars
    if (!list || !bar.value) return
    const next = list[list.indexOf(bar.value) + step]
    if (!next) return
    const same = next.cells.some((cell) => cell.position === cursor.value.position)
    place({ bar: next.number, limb, position: same ? cursor.value.position : '0' }, selecting)
  }

  /** To the first bar of the next section, or of the one before. */
  function alongSections(step: -1 | 1): void {
    const starts = (score.value?.sections ?? []).map((section) => section.first_bar)
    const here = cursor.value.bar
    const to = step > 0 ? starts.find((start) => start > here) : starts.findLast((start) => start < here)
    if (to !== undefined) place({ bar: to, position: '0' })
  }

  /** The whole bar, all four limbs. */
  function selectBar(): void {
    if (!bar.value) return
    anchor.value = { bar: bar.value.number, position: '0', limb: 'RH' }
    cursor.value = { bar: bar.value.number, position: bar.value.cells.at(-1)!.position, limb: 'LF' }
  }

  /** The next note that the tool doubts, of those that are meant, after the cursor and round again. */
  function nextDoubt(step: -1 | 1, isMeant: (hit: Hit) => boolean = () => true): Hit | null {
    const order = (number: number, position: string) => number + fraction(position)
    const doubts = (score.value?.bars ?? [])
      .flatMap((item) => item.hits.filter((one) => one.status === 'doubtful' && isMeant(one)))
      .sort((one, other) => order(one.bar, one.position) - order(other.bar, other.position))
    if (doubts.length === 0) return null
    const here = order(cursor.value.bar, cursor.value.position)
    const found =
      step > 0
        ? (doubts.find((one) => order(one.bar, one.position) > here) ?? doubts[0]!)
        : (doubts.findLast((one) => order(one.bar, one.position) < here) ?? doubts.at(-1)!)
    place({ bar: found.bar, position: found.position, limb: laneOf(found.limb) })
    return found
  }

  return {
    cursor,
    anchor,
    selection,
    targets,
    bars,
    bar,
    hit,
    place,
    alongCounts,
    alongLimbs,
    alongBars,
    alongSections,
    selectBar,
    nextDoubt,
  }
}

export type StackCursor = ReturnType<typeof useCursor>
