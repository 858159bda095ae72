"""Changing the form: split, merge, move a boundary, rename, say what is the same. All as values.

A section is named by the number of its first bar. Every function returns all sections anew, so that
every bar stays in exactly one of them. InvalidTranscription says what cannot be done, and why.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orchesis.errors import InvalidTranscription
from orchesis.music.values import Bar, Section

Sections = tuple[Section, ...]
LONGEST_LABEL = 40


def index_of(sections: Sequence[Section], first_bar: int) -> int:
    """The index of the section that begins with that bar."""
    for index, section in enumerate(sections):
        if section.first_bar == first_bar:
            return index
    raise InvalidTranscription(f"no section begins with bar {first_bar}")


def _spanning(section: Section, bars: Sequence[Bar], first: int, last: int) -> Section:
    """The section over the bars with numbers `first` to `last`."""
    inside = [bar for bar in bars if first <= bar.number <= last]
    return replace(
        section,
        start=inside[0].start,
        end=inside[-1].end,
        bars=len(inside),
        first_bar=inside[0].number,
    )


def split(sections: Sequence[Section], bars: Sequence[Bar], at: int) -> Sections:
    """Begin a new section with bar `at`."""
    for index, section in enumerate(sections):
        last = section.first_bar + section.bars - 1
        if section.first_bar < at <= last:
            one = _spanning(section, bars, section.first_bar, at - 1)
            other = replace(_spanning(section, bars, at, last), mark=free_mark(sections))
            return (*sections[:index], one, other, *sections[index + 1 :])
    raise InvalidTranscription(f"a section begins with bar {at} already, or there is no such bar")


def merge(sections: Sequence[Section], bars: Sequence[Bar], first_bar: int) -> Sections:
    """Join a section to the one before it."""
    index = index_of(sections, first_bar)
    if index == 0:
        raise InvalidTranscription("the first section has none before it")
    before, section = sections[index - 1], sections[index]
    joined = _spanning(before, bars, before.first_bar, section.first_bar + section.bars - 1)
    return (*sections[: index - 1], joined, *sections[index + 1 :])


def move(sections: Sequence[Section], bars: Sequence[Bar], first_bar: int, to: int) -> Sections:
    """Let a section begin with bar `to` instead; the one before it gives or takes the bars."""
    index = index_of(sections, first_bar)
    if index == 0:
        raise InvalidTranscription("the first section begins with the song")
    before, section = sections[index - 1], sections[index]
    last = section.first_bar + section.bars - 1
    if not before.first_bar < to <= last:
        raise InvalidTranscription("a boundary stays between its two sections")
    return (
        *sections[: index - 1],
        _spanning(before, bars, before.first_bar, to - 1),
        _spanning(section, bars, to, last),
        *sections[index + 1 :],
    )


def rename(
    sections: Sequence[Section], first_bar: int, label: str, *, twins: bool = False
) -> Sections:
    """Give a section another name; and all sections that have its letter, if that is asked."""
    index = index_of(sections, first_bar)
    label = " ".join(label.split())
    if not 1 <= len(label) <= LONGEST_LABEL:
        raise InvalidTranscription(f"a section's name has 1 to {LONGEST_LABEL} letters")
    mark = sections[index].mark
    return tuple(
        replace(section, label=label)
        if number == index or (twins and mark and section.mark == mark)
        else section
        for number, section in enumerate(sections)
    )


def same_as(sections: Sequence[Section], first_bar: int, like: int | None) -> Sections:
    """Say that a section is the same music as another; None: as none of them."""
    index = index_of(sections, first_bar)
    mark = free_mark(sections) if like is None else sections[index_of(sections, like)].mark
    return (*sections[:index], replace(sections[index], mark=mark), *sections[index + 1 :])


def confirm(sections: Sequence[Section], first_bar: int, confirmed: bool) -> Sections:
    """Mark a section as settled by the user, or not."""
    index = index_of(sections, first_bar)
    changed = replace(sections[index], confirmed=confirmed)
    return (*sections[:index], changed, *sections[index + 1 :])


def free_mark(sections: Sequence[Section]) -> str:
    """A letter that no section has."""
    used = {section.mark for section in sections}
    for number in range(26):
        if chr(ord("A") + number) not in used:
            return chr(ord("A") + number)
    return f"Z{len(sections)}"


@dataclass(frozen=True, slots=True)
class FormChange:
    """A change of the form as it is asked for; which of the values it needs depends on its kind.

    kind : split, merge, move, rename, same_as or confirm.
    first_bar : first bar of the section; to split, of the new one.
    to : move: the bar to which the boundary goes; same_as: first bar of the other section.
    twins : rename: all sections with the same letter.
    """

    kind: str
    first_bar: int
    to: int | None = None
    label: str = ""
    confirmed: bool = True
    twins: bool = False

    def words(self) -> str:
        """In words, for the log."""
        first = self.first_bar
        return {
            "split": f"Section split at bar {first}",
            "merge": f"Section at bar {first} joined to the one before",
            "move": f"Boundary moved from bar {first} to bar {self.to}",
            "rename": f"Section at bar {first}{' and those like it' if self.twins else ''} named "
            f"{self.label}",
            "same_as": f"Section at bar {first} set beside another",
            "confirm": f"Section at bar {first} confirmed",
        }[self.kind]


def changed(sections: Sequence[Section], bars: Sequence[Bar], change: FormChange) -> Sections:
    """The sections after a change. Raises InvalidTranscription."""
    first = change.first_bar
    match change.kind:
        case "split":
            return split(sections, bars, first)
        case "merge":
            return merge(sections, bars, first)
        case "rename":
            return rename(sections, first, change.label, twins=change.twins)
        case "same_as":
            return same_as(sections, first, change.to)
        case "confirm":
            return confirm(sections, first, change.confirmed)
        case "move" if change.to is not None:
            return move(sections, bars, first, change.to)
    raise InvalidTranscription("to move a boundary, say to which bar")
