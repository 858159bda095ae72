/** What can be done with the notes at the cursor, or with all that are selected. */
import { isHalfOpen } from '@/score/opening'
import { computed, ref } from 'vue'
import type { Bar, Hit, Instrument, Limb, Ornament } from '@/api/client'
import type { EditValue } from '@/score/edits'
import { HALF_OPENING, INSTRUMENT_NAMES, LIMBS, PLAYED_BY } from '@/api/vocabulary'
import { fraction, hitAt, leftOutAt } from '@/score/place'
import type { useScore } from '@/score/useScore'
import { nextDivision, type Parts } from './divisions'
import type { StackCursor } from './useCursor'

export const USUAL_VELOCITY = 84
export const GHOST_VELOCITY = 34
export const ACCENT_VELOCITY = 112

const MOST_LIKE_EDITS = 200

export const REASONS_TO_LEAVE_OUT = [
  'left out by ear',
  'it is the record’s delay',
  'nobody plays it live',
  'another instrument, not the kit',
] as const

/** The limb that plays a drum where nothing else is said. */
const LIMB_OF: Partial<Record<Instrument, Limb>> = Object.fromEntries(
  LIMBS.flatMap((limb) => PLAYED_BY[limb].map((instrument) => [instrument, limb] as const)).reverse(),
)

const FEET: readonly Instrument[] = ['kick', 'hihat_foot', 'hihat_splash']
export const isFoot = (instrument: Instrument) => FEET.includes(instrument)

type Part = Pick<ReturnType<typeof useScore>, 'score' | 'make' | 'gesture' | 'divideBeats' | 'lastEdits' | 'notice'>

/** `heardIn`: the title of the recording that is listened to or shaded, where it is not the song's own. */
export function useNotes(stack: StackCursor, part: Part, heardIn: () => string = () => '') {
  /** Bars that were copied, to be laid over others. */
  const copied = ref<number[]>([])
  const leftOut = computed(() => {
    const { cursor, bar, hit } = stack
    return !hit.value && bar.value ? leftOutAt(bar.value, cursor.value.limb, cursor.value.position) : undefined
  })

  /** What a limb would most likely play here: what it plays elsewhere in this bar. */
  function likely(limb: Limb, at: Bar): Instrument {
    const own = at.hits.filter((item) => item.limb === limb && item.status !== 'left_out')
    const counts = new Map<Instrument, number>()
    for (const item of own) counts.set(item.instrument, (counts.get(item.instrument) ?? 0) + 1)
    const best = [...counts].sort((one, other) => other[1] - one[1])[0]
    return best?.[0] ?? PLAYED_BY[limb][0]!
  }

  function newHit(at: Bar, instrument: Instrument, limb: Limb, ghost = false): Hit {
    const { position } = stack.cursor.value
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
      ornament: null,
      settled: true,
      source: heardIn(),
    }
  }

  /** A drum can sound once at a place: what is there already, sounding or left out. */
  function sameDrum(at: Bar, instrument: Instrument, position = stack.cursor.value.position): Hit | undefined {
    return at.hits.find((item) => item.position === position && item.instrument === instrument)
  }

  function add(at: Bar, instrument: Instrument, limb: Limb, ghost = false): void {
    const there = sameDrum(at, instrument)
    const wanted = newHit(at, instrument, limb, ghost)
    part.make([{ before: there ?? null, after: there ? { ...wanted, time: there.time } : wanted }])
  }

  function toggleNote(): void {
    const at = stack.bar.value
    if (!at) return
    if (stack.targets.value.length) return remove()
    const { limb } = stack.cursor.value
    const wanted = likely(limb, at)
    const free = [wanted, ...PLAYED_BY[limb]].find((item) => {
      const there = sameDrum(at, item)
      return !there || there.status === 'left_out'
    })
    if (free) add(at, free, limb)
  }

  function remove(): void {
    const many = stack.targets.value.length
    part.make(
      stack.targets.value.map((before) => ({ before, after: null })),
      many > 1 ? `${many} notes removed` : undefined,
    )
  }

  /** Change all notes that are meant, as one step. Where they differ, the first decides. */
  function change(how: (hit: Hit) => Partial<Hit>, words: string): boolean {
    const targets = stack.targets.value
    const edits: EditValue[] = targets
      .map((before) => ({ before, after: { ...before, settled: true, ...how(before) } }))
      .filter(({ before, after }) => JSON.stringify(before) !== JSON.stringify(after))
    return part.make(edits, edits.length > 1 ? `${edits.length} notes ${words}` : undefined)
  }

  function toggleGhost(): void {
    const at = stack.bar.value
    const first = stack.targets.value[0]
    if (!at) return
    if (!first) return add(at, likely(stack.cursor.value.limb, at), stack.cursor.value.limb, true)
    const ghost = !first.ghost
    change(
      (hit) => ({
        ghost,
        accent: false,
        velocity: ghost ? Math.min(hit.velocity, GHOST_VELOCITY) : USUAL_VELOCITY,
      }),
      ghost ? 'made ghosts' : 'no longer ghosts',
    )
  }

  function toggleAccent(): void {
    const first = stack.targets.value[0]
    if (!first) return
    const accent = !first.accent
    change(
      (hit) => ({
        accent,
        ghost: false,
        velocity: accent ? Math.max(hit.velocity, ACCENT_VELOCITY) : USUAL_VELOCITY,
      }),
      accent ? 'accented' : 'no longer accented',
    )
  }

  function toggleOrnament(ornament: Ornament): void {
    const first = stack.targets.value[0]
    if (!first) return
    const next = first.ornament === ornament ? null : ornament
    change(() => ({ ornament: next }), next ? `with a ${next}` : 'played plain')
  }

  /** A struck hat half open, or as wide as it goes again. */
  function toggleHalfOpen(): void {
    const hats = stack.targets.value.filter((hit) => hit.instrument === 'hihat_open' || hit.instrument === 'hihat_closed')
    if (!hats[0]) {
      part.notice.value = 'Go to a hat that is struck: it can be half open.'
      return
    }
    const opening = isHalfOpen(hats[0]) ? null : HALF_OPENING
    part.make(
      hats.map((before) => ({ before, after: { ...before, instrument: 'hihat_open' as const, opening, settled: true } })),
      opening === null ? 'wide open' : 'half open',
    )
  }

  /** Play what is at the cursor on another drum, in the same lane; or add it there. */
  function playOn(instrument: Instrument, limb = stack.cursor.value.limb): void {
    const at = stack.bar.value
    if (!at) return
    const targets = stack.targets.value
    if (targets.length === 0) {
      const there = sameDrum(at, instrument)
      if (!there || there.status === 'left_out') add(at, instrument, limb)
      return
    }
    retype(targets, instrument)
  }

  /** Notes become another drum's; one that is written there already is left out, and all is told. */
  function retype(targets: readonly Hit[], instrument: Instrument): void {
    const bars = new Map((part.score.value?.bars ?? []).map((bar) => [bar.number, bar]))
    const name = INSTRUMENT_NAMES[instrument]
    const others = targets.filter((hit) => hit.instrument !== instrument)
    const meant = others.filter((hit) => isFoot(hit.instrument) === isFoot(instrument))
    if (meant.length === 0) {
      part.notice.value = others.length ? `A hand and a foot do not share a drum: nothing here can be ${name}` : `All of it is ${name} already`
      return
    }
    const edits: EditValue[] = []
    let inTheWay = 0
    for (const before of meant) {
      const there = sameDrum(bars.get(before.bar)!, instrument, before.position)
      if (there && there.status !== 'left_out') {
        inTheWay += 1
        const reason = `the ${name} is written there already`
        edits.push({ before, after: { ...before, status: 'left_out', settled: true, reason } })
        continue
      }
      if (there) edits.push({ before: there, after: null })
      edits.push({ before, after: { ...before, instrument, settled: true } })
    }
    const changed = meant.length - inTheWay
    const words = [
      changed && `${changed} ${changed === 1 ? 'note is' : 'notes are'} ${name} now`,
      inTheWay && `${inTheWay} left out, where ${name} is written already`,
    ]
    part.make(edits, meant.length > 1 || inTheWay ? words.filter(Boolean).join('; ') : undefined)
  }

  /** One key a voice: it adds the drum, or takes it away again; what is selected becomes that drum. */
  function voice(instrument: Instrument): void {
    const at = stack.bar.value
    if (!at) return
    if (stack.selection.value && stack.targets.value.length) return retype(stack.targets.value, instrument)
    const there = sameDrum(at, instrument)
    const limb = there?.limb ?? LIMB_OF[instrument] ?? 'RH'
    stack.place({ limb })
    if (there && there.status !== 'left_out') part.make([{ before: there, after: null }])
    else add(at, instrument, limb)
  }

  /** The reason after the one a note was left out for: the same key again goes through them. */
  function nextReason(before: Hit | undefined): string {
    const index = REASONS_TO_LEAVE_OUT.findIndex((reason) => reason === before?.reason)
    return REASONS_TO_LEAVE_OUT[(index + 1) % REASONS_TO_LEAVE_OUT.length]!
  }

  function settle(status: 'heard' | 'inferred' | 'doubtful' | 'left_out', why?: string): void {
    const reason =
      why ??
      {
        heard: 'confirmed by ear',
        inferred: 'inferred by ear',
        doubtful: 'doubted by ear',
        left_out: nextReason(stack.targets.value.length ? undefined : leftOut.value),
      }[status]
    const decided = { status, reason, settled: status !== 'doubtful', source: heardIn() }
    const back = leftOut.value
    if (back && stack.targets.value.length === 0) {
      const words = status === 'left_out' ? `Bar ${back.bar}: left out, since: ${reason}` : undefined
      part.make([{ before: back, after: { ...back, ...decided } }], words)
      return
    }
    change(() => decided, `marked ${status.replace('_', ' ')}`)
  }

  /** Move what is meant by counts or lanes; nothing moves where one of them cannot. */
  function move(counts: number, lanes: number): void {
    const bars = part.score.value?.bars ?? []
    const edits: EditValue[] = []
    for (const before of stack.targets.value) {
      const at = bars.find((item) => item.number === before.bar)
      const index = at?.cells.findIndex((cell) => cell.position === before.position) ?? -1
      const cell = at?.cells[index + counts]
      const limb = LIMBS[LIMBS.indexOf(before.limb ?? 'RH') + lanes]
      if (!at || index < 0 || !cell || !limb) return
      edits.push({
        before,
        after: { ...before, limb, settled: true, position: cell.position, time: counts ? Math.max(0, cell.time) : before.time },
      })
    }
    // Along the way nobody may stand where somebody still stands.
    edits.sort((one, other) => counts * (fraction(other.before!.position) - fraction(one.before!.position)))
    if (!part.make(edits, edits.length > 1 ? `${edits.length} notes moved` : undefined)) return
    const { anchor, cursor } = stack
    const moved = edits[0]!.after!
    if (!anchor.value) cursor.value = { ...cursor.value, position: moved.position, limb: moved.limb! }
    else anchor.value = null
  }

  /** The beat at the cursor, from 0. */
  const beat = computed(() => Math.floor(fraction(stack.cursor.value.position) * (stack.bar.value?.beats.length ?? 1)))
  const division = computed(() => stack.bar.value?.divisions[beat.value] ?? 4)

  /** Divide the beat at the cursor, or all beats of the selected bars, and go to where it begins. */
  async function divide(parts: Parts, like = false): Promise<void> {
    const at = stack.bar.value
    if (!at) return
    const one = stack.selection.value ? null : beat.value
    const start = at.cells.findLast((cell) => fraction(cell.position) * at.beats.length <= beat.value + 1e-6)
    const done = await part.divideBeats({ bars: stack.bars.value, parts, beat: one, like })
    if (done && one !== null && start) stack.place({ position: start.position })
  }

  async function toLikeBars(): Promise<void> {
    const edits = part.lastEdits.value
    if (edits.length > MOST_LIKE_EDITS) part.notice.value = `The same goes to like bars for up to ${MOST_LIKE_EDITS} notes at once.`
    else if (edits.length) await part.gesture({ kind: 'like', edits: [...edits] })
    else part.notice.value = 'Change a note first: then the same goes to the bars like its own.'
  }

  function copy(): void {
    copied.value = [...stack.bars.value]
    part.notice.value = `Bar ${copied.value.join(', ')} copied: go to a bar and paste.`
  }

  /** The copied bars over this one and those after it, as far as the song goes: one step. */
  async function paste(): Promise<void> {
    const start = stack.cursor.value.bar
    const there = new Set(part.score.value?.bars.map((item) => item.number))
    const pairs = copied.value
      .map((source, step) => ({ source, bar: start + step }))
      .filter(({ source, bar }) => there.has(source) && there.has(bar))
    if (pairs.length === 0) {
      part.notice.value = 'Copy bars first: then they can be pasted here.'
      return
    }
    await part.gesture({
      kind: 'copy',
      source_bars: pairs.map((pair) => pair.source),
      bars: pairs.map((pair) => pair.bar),
    })
  }

  return {
    leftOut,
    copied,
    toggleNote,
    remove,
    toggleGhost,
    toggleAccent,
    toggleOrnament,
    toggleHalfOpen,
    playOn,
    voice,
    settle,
    move,
    beat,
    division,
    divide,
    divideOtherwise: () => divide(nextDivision(division.value)),
    toLikeBars,
    copy,
    paste,
    asPhrase: () => part.gesture({ kind: 'phrase', bars: stack.bars.value }),
    confirmBars: (settled: boolean) => part.gesture({ kind: settled ? 'confirm' : 'reopen', bars: stack.bars.value }),
    isThere: computed(() => Boolean(stack.bar.value && hitAt(stack.bar.value, stack.cursor.value.limb, stack.cursor.value.position))),
  }
}

export type StackNotes = ReturnType<typeof useNotes>
