"""Undo and redo: each person goes through his own steps, edits and changes of the song together.

A change is kept as the values that it changed. Taking it back gives those values back and leaves
alone whatever else was decided since; where its own values have changed since, it is refused.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User

from orchesis.edits.gesture import BarConflict, Gesture, gesture_from_json, inverted
from orchesis.edits.threeway import MISSING, Clash, merged_value
from studio.actions.action import BarHits, Before, Done, Header, Held, OfHistory, Outcome, perform
from studio.models import EditEntry, Song, SongChange
from studio.queueing import NotNow
from studio.values.decided import changed_keys

MOST_TRIES = 5
MOST_NAMED = 6
"""Bars that a refusal names one by one."""

Step = EditEntry | SongChange


class _Taken(Exception):
    """Another request of the same author took this step first."""


def undo(song: Song, author: User) -> Done:
    """Take back the author's last step that stands.

    Raises NotNow where there is none, EditConflict where others have built on it.
    """
    return _travel(song, author, back=True)


def redo(song: Song, author: User) -> Done:
    """Put back what the author took back last. Raises as `undo`."""
    return _travel(song, author, back=False)


def _travel(song: Song, author: User, *, back: bool) -> Done:
    for _ in range(MOST_TRIES):
        step = _next_step(song, author, back=back)
        if step is None:
            raise NotNow(f"there is nothing to {'undo' if back else 'redo'}")
        kind = EditStep if isinstance(step, EditEntry) else ChangeStep
        try:
            return perform(song, author, kind(step, back))  # type: ignore[arg-type]
        except _Taken:
            continue
    raise NotNow("this song is being changed just now: try again")


def _next_step(song: Song, author: User, *, back: bool) -> Step | None:
    """What comes next, of edits and changes of the whole song together."""
    entries = EditEntry.objects.filter(song=song, author=author)
    changes = SongChange.objects.filter(song=song, author=author)
    steps: list[Step | None] = (
        [entries.filter(undone=False).last(), changes.filter(undone=False).last()]
        if back
        else [
            entries.filter(undone=True, redoable=True).first(),
            changes.filter(undone=True, redoable=True).first(),
        ]
    )
    there = [step for step in steps if step is not None]
    latest_first = sorted(there, key=lambda step: step.created_at, reverse=back)
    return latest_first[0] if latest_first else None


@dataclass(frozen=True)
class EditStep(OfHistory):
    """Edits of notes taken back, or put back."""

    entry: EditEntry
    back: bool

    @property
    def _gesture(self) -> Gesture:
        gesture = gesture_from_json(self.entry.edit)
        return inverted(gesture) if self.back else gesture

    def bars(self, song: Song) -> tuple[int, ...]:
        """Those that the edits are in."""
        return self._gesture.bars

    def outcome(self, held: Held) -> Outcome:
        """The edits the other way round."""
        mine = EditEntry.objects.select_for_update().filter(pk=self.entry.pk, undone=not self.back)
        if not mine.exists():
            raise _Taken
        return Outcome(_words(self.entry, self.back), gesture=self._gesture)

    def log(self, held: Held, outcome: Outcome, before: Before) -> None:
        """The step stands, or not."""
        _mark(self.entry, self.back)


@dataclass(frozen=True)
class ChangeStep(OfHistory):
    """A change of the whole song taken back, or put back."""

    entry: SongChange
    back: bool

    def bars(self, song: Song) -> None:
        """All of the song."""
        return

    def outcome(self, held: Held) -> Outcome:
        """The values that it changed, as they were, and no others."""
        if not SongChange.objects.filter(pk=self.entry.pk, undone=not self.back).exists():
            raise _Taken
        expected, target = self.entry.before, self.entry.after
        if self.back:
            expected, target = target, expected
        return Outcome(
            _words(self.entry, self.back),
            header=_merged_header(held.header, expected["header"], target["header"]),
            hits=_given_back(held, expected, target),
        )

    def log(self, held: Held, outcome: Outcome, before: Before) -> None:
        """The step stands, or not."""
        _mark(self.entry, self.back)


def _words(step: Step, back: bool) -> str:
    return f"{'Undone' if back else 'Redone'}: {step.words}"


def _mark(step: Step, back: bool) -> None:
    step.undone = step.redoable = back
    step.save(update_fields=["undone", "redoable"])


def _merged_header(now: Header, expected: Header, target: Header) -> Header:
    """The header with the values that a change changed brought to `target`.

    Raises NotNow where one of them is not as expected any more.
    """
    header = dict(now)
    for name in changed_keys(expected, target):
        try:
            header[name] = merged_value(
                header.get(name, MISSING),
                expected=expected.get(name, MISSING),
                target=target.get(name, MISSING),
            )
        except Clash as error:
            raise NotNow(
                "the same has been changed since, by somebody else: that would be lost"
            ) from error
        if header[name] is MISSING:
            del header[name]
    return header


def _given_back(held: Held, expected: dict[str, Any], target: dict[str, Any]) -> BarHits | None:
    """The bars as they were, where the change wrote them anew.

    Raises BarConflict where one of them has been changed since.
    """
    if target["hits"] is None:
        return None
    known = dict(map(tuple, expected["hits"]))
    now = {number: row.hits for number, row in held.rows.items()}
    changed = sorted(n for n in known.keys() | now.keys() if known.get(n) != now.get(n))
    if changed:
        named = ", ".join(map(str, changed[:MOST_NAMED]))
        more = " and more" if len(changed) > MOST_NAMED else ""
        raise BarConflict(
            f"the notes of bar {named}{more} have been changed since: that would be lost", changed
        )
    return dict(map(tuple, target["hits"]))
