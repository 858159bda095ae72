"""Same and different: what sections that are alike have apart, in a sentence."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from orchesis.groove.alike import Pattern, patterns
from orchesis.music.instruments import SPOKEN_NAMES
from orchesis.music.values import Bar, Fill, Hit, Section, written

MOSTLY = 0.6
"""Beyond this share of bars that differ, listing them says nothing."""


@dataclass(frozen=True, slots=True)
class Comparison:
    """A section against the first like it. `differing` are bars counted from 1 in the section."""

    section: int
    like: int
    differing: tuple[int, ...]
    words: str


def compare_sections(
    sections: Sequence[Section], hits: Sequence[Hit], fills: Sequence[Fill]
) -> tuple[Comparison, ...]:
    """Each section that has a like one before it, against that."""
    notes = patterns(hits)
    with_fill = {fill.bar for fill in fills}
    first_of: dict[str, int] = {}
    result = []
    for index, section in enumerate(sections):
        if not section.mark:
            continue
        like = first_of.setdefault(section.mark, index)
        if like != index:
            result.append(_compare(sections, like, index, notes, with_fill))
    return tuple(result)


def _compare(
    sections: Sequence[Section], like: int, index: int, notes: dict[int, Pattern], fills: set[int]
) -> Comparison:
    one, other = sections[like], sections[index]
    fill_bars, by_drum = [], defaultdict(list)
    for step in range(min(one.bars, other.bars)):
        before = notes.get(one.first_bar + step, frozenset())
        after = notes.get(other.first_bar + step, frozenset())
        if before == after:
            continue
        if other.first_bar + step in fills or one.first_bar + step in fills:
            fill_bars.append(step + 1)
            continue
        drums = Counter(drum for _, drum in before ^ after)
        by_drum[drums.most_common(1)[0][0] if len(drums) == 1 else None].append(step + 1)
    differing = tuple(sorted(fill_bars + [bar for bars in by_drum.values() for bar in bars]))
    played = sum(len(bars) for bars in by_drum.values())
    if played > MOSTLY * one.bars:
        words = f"{other.label} is like {one.label}, but {played} of its bars are played otherwise."
        return Comparison(index, like, differing, words)
    parts = []
    if fill_bars:
        parts.append(f"{_bars(fill_bars)} ({'fill' if len(fill_bars) == 1 else 'fills'})")
    for drum, bars in by_drum.items():
        if drum is None:
            parts.append(_bars(bars))
        else:
            parts.append(f"the {SPOKEN_NAMES[drum]} in {_bars(bars)}")
    words = f"{other.label} = {one.label}"
    if one.bars != other.bars:
        parts.append(f"its length: {other.bars} bars, not {one.bars}")
    if parts:
        words += ", except " + (
            parts[0] if len(parts) == 1 else ", ".join(parts[:-1]) + " and " + parts[-1]
        )
    else:
        words += ", note for note"
    return Comparison(index, like, differing, words + ".")


def _bars(numbers: Sequence[int]) -> str:
    """Bars as people say them: "bar 4", "bars 1 to 3 and 6"."""
    runs: list[list[int]] = []
    for number in sorted(numbers):
        if runs and number == runs[-1][-1] + 1:
            runs[-1].append(number)
        else:
            runs.append([number])
    parts: list[str] = []
    for run in runs:
        parts += [f"{run[0]} to {run[-1]}"] if len(run) > 2 else [str(number) for number in run]
    if len(parts) == 1:
        return ("bar " if len(numbers) == 1 else "bars ") + parts[0]
    return "bars " + ", ".join(parts[:-1]) + f" and {parts[-1]}"


@dataclass(frozen=True, slots=True)
class FormNote:
    """Something about the form that gets people lost, with the bar where it is."""

    bar: int
    kind: str
    words: str


def form_notes(
    bars: Sequence[Bar], sections: Sequence[Section], hits: Sequence[Hit]
) -> tuple[FormNote, ...]:
    """Odd lengths, odd bars, and where the drums enter, stop and return."""
    found: list[FormNote] = []
    for index, section in enumerate(sections):
        # A last chord, or two bars to begin with, lead nobody astray.
        outer = index in (0, len(sections) - 1) and section.bars in (1, 2)
        if section.bars % 4 and section.mark and not outer:
            where = f"{section.label} has {section.bars} bars"
            near = 4 * round(section.bars / 4)
            gap = section.bars - near
            more = f"{'one' if abs(gap) == 1 else abs(gap)} {'more' if gap > 0 else 'fewer'}"
            odd = f", {more} than {near}" if near else ", an odd length"
            found.append(FormNote(section.first_bar, "odd length", where + odd + "."))
    usual = Counter(bar.meter for bar in bars).most_common(1)[0][0] if bars else None
    for bar in bars:
        if bar.meter != usual and bar.number > 0:
            found.append(FormNote(bar.number, "odd bar", f"Bar {bar.number} is in {bar.meter}."))
    sounding = {hit.bar for hit in written(hits)}
    previous: bool | None = None
    for bar in bars:
        here = bar.number in sounding
        if here and previous is False:
            again = any(number < bar.number for number in sounding)
            what = "come back" if again else "enter"
            found.append(FormNote(bar.number, "drums", f"The drums {what} in bar {bar.number}."))
        elif previous and not here:
            found.append(FormNote(bar.number, "drums", f"The drums stop before bar {bar.number}."))
        previous = here
    return tuple(sorted(found, key=lambda note: note.bar))


def phrase_lengths(section: Section, fills: Sequence[Fill]) -> tuple[int, ...]:
    """How a section falls into phrases: fours, with what is left over at its end.

    A fill that ends four to seven bars after the last phrase closes one there.
    """
    ends = {fill.bar - section.first_bar + 1 for fill in fills}
    lengths: list[int] = []
    done = 0
    while done < section.bars:
        left = section.bars - done
        closing = [n for n in range(3, 8) if done + n in ends and n != 4 and n <= left]
        step = 4 if left >= 4 else left
        if closing and done + 4 not in ends and left - closing[0] != 1:
            step = closing[0]
        if left in (5, 6, 7) and not closing:
            step = left
        lengths.append(step)
        done += step
    return tuple(lengths)
