"""The form: sections with a letter for sameness, a proposed name, and their bars."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from orchesis.fills.find import fill_shares, find_fills
from orchesis.form.describe import describe_bars, through_stops
from orchesis.form.label import bar_likeness, in_alphabetical_order, letters, names
from orchesis.form.segment import divide
from orchesis.listening.ear import Heard
from orchesis.music.values import Bar, Fill, Hit, Section


def find_sections(
    bars: Sequence[Bar], hits: Sequence[Hit], heard: Heard | None = None
) -> tuple[tuple[Section, ...], tuple[Fill, ...]]:
    """The sections and the fills of a song, in order. Every bar is in exactly one section."""
    if not bars:
        return (), ()
    described = through_stops(describe_bars(bars, hits, heard))
    # A pick-up is no bar of the form: it stands before it.
    lead = 1 if bars[0].number == 0 and len(bars) > 1 else 0
    # First without, then with the fills, which can be told only against their section's groove.
    likeness = bar_likeness(described)
    fills: tuple[Fill, ...] = ()
    spans: list[range] = []
    for _ in range(2):
        fills = find_fills(bars, hits, spans)
        division = divide(described.after(lead), fill_shares(bars, fills)[lead:])
        spans = [
            range(a + lead, b + lead) for a, b in pairwise((*division.starts, len(bars) - lead))
        ]
    if len(spans) > 1 and len(spans[-1]) == 1:
        # A last chord is the end of what it ends, not a section.
        spans[-2:] = [range(spans[-2].start, spans[-1].stop)]
    fills = find_fills(bars, hits, spans)
    marks = letters(likeness, spans)
    labels, marks = in_alphabetical_order(names(described, spans, marks), marks)
    sections = tuple(
        section_of(label, mark, [bars[i] for i in span])
        for label, mark, span in zip(labels, marks, spans, strict=True)
    )
    if lead:
        sections = (section_of("Pick-up", "", bars[:1]), *sections)
    return sections, fills


def section_of(label: str, mark: str, bars: Sequence[Bar]) -> Section:
    """A section of these bars."""
    return Section(label, bars[0].start, bars[-1].end, len(bars), bars[0].number, mark)
