"""Sections in their first form: what comes before the drums, the song, what comes after."""

from __future__ import annotations

from collections.abc import Sequence

from orchesis.music.values import Bar, Hit, Section


def first_sections(bars: Sequence[Bar], hits: Sequence[Hit]) -> tuple[Section, ...]:
    """One section for the song, with bars without drums before and after it set apart."""
    if not bars:
        return ()
    sounding = sorted({hit.bar for hit in hits})
    if not sounding:
        return (_section("No drums", bars),)
    parts = [
        ("No drums", [bar for bar in bars if bar.number < sounding[0]]),
        ("Song", [bar for bar in bars if sounding[0] <= bar.number <= sounding[-1]]),
        ("No drums", [bar for bar in bars if bar.number > sounding[-1]]),
    ]
    return tuple(_section(label, members) for label, members in parts if members)


def _section(label: str, bars: Sequence[Bar]) -> Section:
    return Section(label, bars[0].start, bars[-1].end, len(bars), bars[0].number)
