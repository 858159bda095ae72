"""Changes of notes: single edits, and gestures that the core works out as edits."""

from __future__ import annotations

import uuid
from abc import ABC, abstractmethod
from dataclasses import dataclass

from orchesis.edits.ask import confirm_gesture, copy_gesture, like_gesture, phrase_gesture
from orchesis.edits.edit import Edit, EditConflict
from orchesis.edits.gesture import (
    Gesture,
    apply_gesture,
    check_places,
    explain_gesture,
    gesture_from_json,
)
from orchesis.edits.review_queue import answer_question
from orchesis.edits.sticking import apply_sticking, resolve_hand_conflicts
from orchesis.edits.voice import Scope, change_voice
from orchesis.errors import InvalidTranscription
from orchesis.limbs.kit import STANDARD
from orchesis.music.instruments import Instrument
from orchesis.music.json import bar_from_json, hit_from_json
from orchesis.music.values import Bar, Meter, Transcription
from studio.actions.action import Action, Before, Done, Held, Outcome, log_gesture
from studio.models import EditEntry, Song
from studio.values.evidence import own_evidence
from studio.values.kits import song_player
from studio.values.stored import load_transcription


@dataclass(frozen=True)
class EditBars(Action):
    """Edits of notes, made at one stroke. What was stored under the same id is not made twice."""

    client_id: uuid.UUID
    gesture: Gesture

    def bars(self, song: Song) -> tuple[int, ...]:
        """Those that the edits are in."""
        return self.gesture.bars

    def repeated(self, held: Held) -> Done | None:
        """Sent again, since its answer was lost; another change under its id is refused."""
        known = EditEntry.objects.filter(song=held.song, client_id=self.client_id).first()
        if known is None:
            return None
        # Hands that had to give way were added to what was asked for.
        stored = gesture_from_json(known.edit).edits[: len(self.gesture.edits)]
        if known.author_id != held.author.pk or stored != self.gesture.edits:
            raise EditConflict("another edit was stored under this id: send it under a new one")
        return Done(held.song, known.words, tuple(held.rows.values()))

    def outcome(self, held: Held) -> Outcome:
        """The edits, where each note has a place in its bar and each hand one stroke at a time."""
        homes = _homes(held, self.gesture)
        check_places(self.gesture, homes)
        words = explain_gesture(self.gesture, Meter(*held.header["meter"]))
        before = {n: [hit_from_json(hit) for hit in row.hits] for n, row in held.rows.items()}
        after = apply_gesture(before, self.gesture)
        touched = {edit.after.place[:2] for edit in self.gesture.edits if edit.after is not None}
        pulses = {number: bar.meter.pulses for number, bar in homes.items()}
        extra = resolve_hand_conflicts(after, touched, pulses)
        return Outcome(words, gesture=Gesture((*self.gesture.edits, *extra), self.gesture.words))

    def log(self, held: Held, outcome: Outcome, before: Before) -> None:
        """One step of the author's."""
        log_gesture(held, outcome, self.client_id)


def _homes(held: Held, gesture: Gesture) -> dict[int, Bar]:
    """The bars of the grid that a gesture changes."""
    touched = set(gesture.bars)
    homes = (bar_from_json(bar) for bar in held.header["bars"] if bar["number"] in touched)
    return {bar.number: bar for bar in homes}


@dataclass(frozen=True)
class _WorkedOut(ABC):
    """A gesture that is asked for in a word, and becomes edits by the song as it stands."""

    client_id: uuid.UUID

    @abstractmethod
    def worked_out(self, score: Transcription) -> Gesture:
        """The edits. Raises InvalidTranscription where there is nothing to do."""

    def on(self, song: Song) -> EditBars:
        """The same as edits; they say what they expect, so a bar that changes meanwhile is safe."""
        return EditBars(self.client_id, self.worked_out(load_transcription(song)))


@dataclass(frozen=True)
class LikeBars(_WorkedOut):
    """Edits that were made together, in all bars like those that they were made in."""

    edits: tuple[Edit, ...] = ()

    def worked_out(self, score: Transcription) -> Gesture:
        """In every bar that played the same."""
        if not self.edits:
            raise InvalidTranscription("say which edits the like bars shall get")
        return like_gesture(score, self.edits)


@dataclass(frozen=True)
class _InBars(_WorkedOut):
    """A gesture in bars that are named."""

    numbers: tuple[int, ...] = ()

    def worked_out(self, score: Transcription) -> Gesture:
        """In bars that there are."""
        for number in self.numbers:
            score.bar(number)
        return self.made(score)

    @abstractmethod
    def made(self, score: Transcription) -> Gesture:
        """The edits."""


@dataclass(frozen=True)
class AsPhrase(_InBars):
    """Bars made as their phrase has them."""

    def made(self, score: Transcription) -> Gesture:
        """What is typical of each."""
        return phrase_gesture(score, self.numbers)


@dataclass(frozen=True)
class CopyBars(_InBars):
    """Bars copied over others, one after the other, as one step."""

    sources: tuple[int, ...] = ()

    def made(self, score: Transcription) -> Gesture:
        """The first over the first, and so on; a single one over all of them."""
        if not self.sources:
            raise InvalidTranscription("say which bar to copy")
        return copy_gesture(score, self.sources, self.numbers)


@dataclass(frozen=True)
class ConfirmBars(_InBars):
    """All notes of bars settled."""

    def made(self, score: Transcription) -> Gesture:
        """Doubtful ones as heard."""
        return confirm_gesture(score, self.numbers, settled=True)


@dataclass(frozen=True)
class ReopenBars(_InBars):
    """All notes of bars open again."""

    def made(self, score: Transcription) -> Gesture:
        """As they were before they were settled."""
        return confirm_gesture(score, self.numbers, settled=False)


@dataclass(frozen=True)
class StickFill(_WorkedOut):
    """Another sticking for a fill, and for those that are the same again where that is wished."""

    bar: int = 0
    letters: str = ""
    also_kin: bool = False

    def on(self, song: Song) -> EditBars:
        """By the ways of the player that the song is for."""
        score = load_transcription(song)
        made = apply_sticking(
            score, self.bar, self.letters, song_player(song), also_kin=self.also_kin
        )
        return EditBars(self.client_id, made)

    def worked_out(self, score: Transcription) -> Gesture:
        """For the standard player."""
        return apply_sticking(score, self.bar, self.letters, STANDARD, also_kin=self.also_kin)


@dataclass(frozen=True)
class ChangeVoice(_WorkedOut):
    """All strokes of a drum in a section, in all like it, or in the song: another drum, or none."""

    instrument: Instrument = Instrument.HIHAT_CLOSED
    bar: int = 0
    scope: Scope = Scope.SECTION
    to: Instrument | None = None

    def worked_out(self, score: Transcription) -> Gesture:
        """As edits of each stroke."""
        return change_voice(score, self.instrument, self.bar, self.scope, self.to)


@dataclass(frozen=True)
class AnswerQuestion(_WorkedOut):
    """A question of the review answered: all of its notes are settled."""

    question: str = ""
    answer: str = ""

    def on(self, song: Song) -> EditBars:
        """By what the ear noted down of the song."""
        score = load_transcription(song)
        made = answer_question(score, own_evidence(song), self.question, self.answer)
        return EditBars(self.client_id, made)

    def worked_out(self, score: Transcription) -> Gesture:
        """Without what the ear noted down."""
        return answer_question(score, None, self.question, self.answer)


Gestured = (
    AnswerQuestion
    | StickFill
    | ChangeVoice
    | LikeBars
    | AsPhrase
    | CopyBars
    | ConfirmBars
    | ReopenBars
)
