"""What a change of a song is, and the one place that makes changes: `perform`.

A change is a class: which bars it needs, who may make it, and what comes of it. The rest is done
here for all of them, in this order: permission, transaction, holding what is needed, finding a
repetition, writing, the song's counter (by which every answer that was worked out is stale), what
was taken back and cannot be put back any more, the log.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from orchesis.edits.gesture import Gesture, apply_gesture, gesture_to_json
from orchesis.errors import OrchesisError
from orchesis.music.json import hit_from_json, hit_to_json, to_json
from orchesis.music.values import Transcription
from studio.actions.locking import count_up, lock_bars, lock_song, write_bars
from studio.models import EditEntry, Song, SongBar, SongChange
from studio.values.access import Role, role_of
from studio.values.decided import changed_keys, decided_parts
from studio.values.stored import load_transcription

MOST_KEPT = 40
"""Changes of a whole song that are kept for undo."""

Header = dict[str, Any]
"""A transcription as JSON, without its hits."""

BarHits = dict[int, list[Any]]
"""The hits of each bar, as JSON, by the bar's number."""


class NotYours(OrchesisError):
    """Somebody may not make this change of this song."""


@dataclass(frozen=True)
class Held:
    """What is held while a change is made: the song as it is now, and the bars asked for."""

    song: Song
    rows: dict[int, SongBar]
    author: User

    @property
    def header(self) -> Header:
        """The transcription without its hits; only songs that have one are changed."""
        assert self.song.header is not None
        header: Header = self.song.header
        return header

    def score(self) -> Transcription:
        """The whole song as an object of the core."""
        return load_transcription(self.song)


@dataclass(frozen=True)
class Outcome:
    """What comes of a change: edits of the bars that are held, or the whole song as it shall be."""

    words: str
    gesture: Gesture | None = None
    header: Header | None = None
    """None: as it is."""

    hits: BarHits | None = None
    """Of all bars; None: as they are."""

    score: Transcription | None = None
    """The same as an object, where there is one."""


@dataclass(frozen=True)
class Done:
    """A change that was made: its bars as they are now, in order; or, where it was one of the whole
    song, that, as an object where it is at hand.
    """

    song: Song
    words: str
    bars: tuple[SongBar, ...] = ()
    is_whole: bool = False
    score: Transcription | None = None


class Action(ABC):
    """One change of a song that people make."""

    def may(self, song: Song, author: User) -> bool:
        """Whether somebody may make it."""
        return role_of(song, author) >= Role.EDITOR

    @abstractmethod
    def bars(self, song: Song) -> tuple[int, ...] | None:
        """The bars that it needs to hold; none of them: only the song's row; None: all of it."""

    def repeated(self, held: Held) -> Done | None:
        """What it did, where it has been made already: then it is not made again."""
        return None

    @abstractmethod
    def outcome(self, held: Held) -> Outcome | None:
        """What comes of it; None: nothing, which is not logged. What it raises changes nothing."""

    @abstractmethod
    def log(self, held: Held, outcome: Outcome, before: Before) -> None:
        """Enter it in the log, by which it is taken back."""


@dataclass(frozen=True)
class Before:
    """What a change of the whole song has changed: the values as they were and as they are."""

    old: Header
    new: Header
    hits: BarHits | None


def perform(song: Song, author: User, action: Action) -> Done:
    """Make a change, all or nothing.

    Raises NotYours, EditConflict where a bar no longer holds what an edit expects, NotNow where it
    does not fit the state of the song, InvalidTranscription for what cannot be meant.
    """
    if not action.may(song, author):
        raise NotYours("this song is somebody else's")
    with transaction.atomic():
        held = _hold(song, author, action.bars(song))
        known = action.repeated(held)
        if known is not None:
            return known
        outcome = action.outcome(held)
        if outcome is None:
            return Done(held.song, "nothing changed", is_whole=True)
        before = _written(held, outcome)
        if not isinstance(action, OfHistory):
            forget_redo(held.song, author)
        action.log(held, outcome, before)
    bars = tuple(held.rows.values()) if outcome.gesture is not None else ()
    whole = outcome.gesture is None
    return Done(held.song, outcome.words, bars, is_whole=whole, score=outcome.score)


def _hold(song: Song, author: User, bars: tuple[int, ...] | None) -> Held:
    """Hold what a change needs; always bars before the song's row (`locking`)."""
    if bars is None:
        whole, rows = lock_song(song)
        return Held(whole, rows, author)
    if not bars:
        return Held(Song.objects.select_for_update().get(pk=song.pk), {}, author)
    rows = lock_bars(song, bars)
    # Read while the bars are held: the grid under them stays.
    return Held(Song.objects.get(pk=song.pk), rows, author)


def _written(held: Held, outcome: Outcome) -> Before:
    """Write what comes of a change, and count the song up."""
    if outcome.gesture is not None:
        _edit_bars(held, outcome.gesture)
        return Before({}, {}, None)
    song, header = held.song, outcome.header if outcome.header is not None else held.header
    keys = changed_keys(held.header, header)
    old = {name: held.header[name] for name in keys if name in held.header}
    new = {name: header[name] for name in keys if name in header}
    hits = (
        {number: row.hits for number, row in held.rows.items()}
        if outcome.hits is not None
        else None
    )
    song.header = header
    song.tempo_bpm = header["tempo_bpm"]
    song.meter = "/".join(map(str, header["meter"]))
    song.revision += 1
    if outcome.hits is not None:
        write_bars(song, held.rows, outcome.hits)
    song.save(update_fields=["header", "tempo_bpm", "meter", "revision", "updated_at"])
    return Before(old, new, hits)


def _edit_bars(held: Held, gesture: Gesture) -> None:
    before = {n: [hit_from_json(hit) for hit in row.hits] for n, row in held.rows.items()}
    for number, hits in apply_gesture(before, gesture).items():
        row = held.rows[number]
        row.hits = [hit_to_json(hit) for hit in hits]
        row.groove = None
        row.revision += 1
    SongBar.objects.bulk_update(held.rows.values(), ["hits", "groove", "revision"])
    count_up(held.song)


def forget_redo(song: Song, author: User) -> None:
    """Something new was done: what was taken back cannot be put back any more.

    Only the rows that change are written: those of whole songs are long.
    """
    for kind in (EditEntry, SongChange):
        kind.objects.filter(song=song, author=author, redoable=True).update(redoable=False)


class OfHistory(Action):
    """Taking back and putting back: what else was taken back can still be put back."""


class WholeSong(Action):
    """A change of the whole song, given as the transcription that shall be."""

    words: str

    def bars(self, song: Song) -> None:
        """All of it: the grid under every bar may change."""
        return

    @abstractmethod
    def change(self, song: Song, score: Transcription) -> Transcription:
        """The song as it shall be."""

    def outcome(self, held: Held) -> Outcome:
        """The whole song as JSON, and which parts of it people have now decided."""
        old = held.score()
        new = self.change(held.song, old)
        header, hits = in_bars(new)
        header = {**held.header, **header}
        parts = decided_parts(held.header, header)
        if parts:
            header["decided"] = sorted(parts | set(header.get("decided", [])))
        moved = new.hits != old.hits or new.bars != old.bars
        return Outcome(self.words, header=header, hits=hits if moved else None, score=new)

    def log(self, held: Held, outcome: Outcome, before: Before) -> None:
        """One step of the author's."""
        log_change(held.song, held.author, outcome, before)


def in_bars(score: Transcription) -> tuple[Header, BarHits]:
    """A transcription as it is stored: the header, and the hits of each bar.

    Fills are not: they follow from the notes and from what people said of them, at each reading.
    """
    data = to_json(score)
    del data["fills"]
    hits: BarHits = {bar["number"]: [] for bar in data["bars"]}
    for hit in data.pop("hits"):
        hits[hit["bar"]].append(hit)
    return data, hits


def log_change(song: Song, author: User, outcome: Outcome, before: Before) -> None:
    """Enter a change of the whole song in the log, which forgets the oldest ones."""
    SongChange.objects.create(
        song=song,
        author=author,
        words=outcome.words[:200],
        before={"header": before.old, "hits": _listed(before.hits)},
        after={"header": before.new, "hits": _listed(outcome.hits)},
    )
    changes = SongChange.objects.filter(song=song)
    too_old = list(changes.order_by("-id").values_list("pk", flat=True)[MOST_KEPT:])
    changes.filter(pk__in=too_old).delete()


def log_gesture(held: Held, outcome: Outcome, client_id: Any) -> None:
    """Enter edits of bars in the log."""
    assert outcome.gesture is not None
    EditEntry.objects.create(
        song=held.song,
        author=held.author,
        client_id=client_id,
        bar_number=outcome.gesture.bars[0],
        edit=gesture_to_json(outcome.gesture),
        words=outcome.words,
    )


def _listed(rows: BarHits | None) -> list[list[Any]] | None:
    """JSON objects have text keys: bars are listed as pairs instead."""
    return None if rows is None else [[number, hits] for number, hits in sorted(rows.items())]
