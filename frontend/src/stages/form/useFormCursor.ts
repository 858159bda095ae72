/** The place in the form: a section and a bar of it; every change is made from there. */
import { computed, ref, type ShallowRef, watch } from 'vue'
import type { FormChange, Score, Section } from '@/api/client'

export function useFormCursor(
  score: ShallowRef<Score | null>,
  send: (change: FormChange) => Promise<boolean>,
  even: (bar: number) => Promise<boolean> = async () => false,
) {
  const at = ref({ row: 0, bar: 1 })
  const naming = ref(false)
  /** A section that was just renamed: its twins may get the name too. */
  const renamed = ref<{ first_bar: number; label: string } | null>(null)
  const sections = computed(() => score.value?.sections ?? [])
  const section = computed<Section | undefined>(() => sections.value[at.value.row])
  const cell = computed(() => section.value?.cells[at.value.bar - 1])

  /** Sections with the letter of the renamed one that are called otherwise. */
  const twins = computed(() => {
    const one = sections.value.find((item) => item.first_bar === renamed.value?.first_bar)
    if (!one?.mark) return []
    return sections.value.filter((item) => item !== one && item.mark === one.mark && item.label !== renamed.value?.label)
  })

  function place(row: number, bar = 1): void {
    const inRow = Math.min(Math.max(0, row), Math.max(0, sections.value.length - 1))
    const bars = sections.value[inRow]?.bars ?? 1
    at.value = { row: inRow, bar: Math.min(Math.max(1, bar), bars) }
    naming.value = false
  }

  /** Past the last bar of a section comes the first of the next. */
  function alongBars(by: -1 | 1): void {
    const bar = at.value.bar + by
    if (bar < 1 && at.value.row > 0) place(at.value.row - 1, sections.value[at.value.row - 1]!.bars)
    else if (section.value && bar > section.value.bars && at.value.row < sections.value.length - 1) place(at.value.row + 1)
    else place(at.value.row, bar)
  }

  async function change(value: FormChange): Promise<void> {
    await send(value)
  }

  function split(): void {
    if (section.value && at.value.bar > 1 && cell.value) void change({ kind: 'split', first_bar: cell.value.number })
  }
  function merge(): void {
    if (section.value && at.value.row > 0) void change({ kind: 'merge', first_bar: section.value.first_bar })
  }
  function move(by: -1 | 1): void {
    if (section.value && at.value.row > 0) {
      void change({ kind: 'move', first_bar: section.value.first_bar, to: section.value.first_bar + by })
    }
  }
  /** Enter and leaving the field both end the naming: only the first of them counts. */
  function rename(label: string): void {
    if (!naming.value) return
    naming.value = false
    if (section.value && label.trim() && label.trim() !== section.value.label) {
      renamed.value = { first_bar: section.value.first_bar, label: label.trim() }
      void change({ kind: 'rename', first_bar: section.value.first_bar, label })
    }
  }
  /** The sections that are the same music get the name that one of them just got, or keep theirs. */
  function renameTwins(also: boolean): void {
    const one = renamed.value
    renamed.value = null
    if (one && also) void change({ kind: 'rename', ...one, twins: true })
  }
  /** The same music as another section; null: as none of them. */
  function sameAs(to: number | null): void {
    if (section.value) void change({ kind: 'same_as', first_bar: section.value.first_bar, to })
  }
  /** The bar at the cursor has as many beats as the others again. */
  function evenOut(): void {
    if (cell.value?.meter) void even(cell.value.number)
  }
  function confirm(row = at.value.row): void {
    const chosen = sections.value[row]
    if (chosen) void change({ kind: 'confirm', first_bar: chosen.first_bar, confirmed: !chosen.confirmed })
  }

  watch(sections, () => place(at.value.row, at.value.bar))

  return {
    at,
    naming,
    renamed,
    twins,
    section,
    cell,
    place,
    alongRows: (by: -1 | 1) => place(at.value.row + by, at.value.bar),
    alongBars,
    split,
    merge,
    move,
    rename,
    renameTwins,
    sameAs,
    evenOut,
    confirm,
    name: () => (naming.value = true),
  }
}

export type FormCursor = ReturnType<typeof useFormCursor>
