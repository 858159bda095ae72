"""The review: all that is uncertain in a song, as questions in the order of what they change.

One answer settles as much as it can: the name of a voice before its single strokes, a kind of note
before one of them. What a larger question asks about, a smaller one leaves out.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from orchesis.edits.doubts import cost_of, expected_cost
from orchesis.edits.edit import Edit
from orchesis.edits.gesture import Gesture
from orchesis.edits.naming import Naming, naming_questions
from orchesis.edits.questions import Asked, questions
from orchesis.edits.review import ReviewPlace, Why, review_places
from orchesis.errors import InvalidTranscription
from orchesis.groove.echo import echo_suspects
from orchesis.listening.evidence import Evidence
from orchesis.music.instruments import SPOKEN_NAMES, Instrument, Status
from orchesis.music.values import Hit, Transcription, written

MOST_QUESTIONS = 20
LEAST_COST = 1.0
"""A third of a wrong kick or snare: what would change less is not asked about."""

MOST_PLACES = 60
WRONG_NAME, WRONG_LOOSE = 0.28, 0.5
"""How often the name of a voice that is asked about is wrong (21 of 74, `naming`); of hats that
are always open nothing is known."""

WRONG_LAYER, WRONG_ECHO = 0.5, 0.5
FEWEST_OF_A_KIND = 3

YES, NO, NOT_PLAYED = "yes", "no", "not_played"


class Kind(StrEnum):
    """What a question is about."""

    VOICE = "voice"
    """Which instrument all strokes of a voice are."""

    LAYER = "layer"
    """Whether a voice that doubles another is there at all."""

    ECHO = "echo"
    """Whether strokes are the delay of the record."""

    ALIKE = "alike"
    """Whether uncertain notes of one kind are there."""

    SPOT = "spot"
    """Whether a note is there in one bar or a few, or is missing there."""


@dataclass(frozen=True, slots=True)
class ReviewQuestion:
    """One question, the notes that it is about, and the answers that it takes.

    key : stays the same as long as the notes in question do. hits : as they stand; those of a
    missing note (`is_missing`) are proposed. examples : which to listen to, the most telling first.
    answers : names of instruments for a voice, with NOT_PLAYED; YES and NO for all others.
    cost : what a wrong answer costs the chart, times how likely the present one is wrong.
    """

    kind: Kind
    words: str
    hits: tuple[Hit, ...]
    examples: tuple[Hit, ...]
    answers: tuple[str, ...]
    cost: float
    is_missing: bool = False

    @property
    def key(self) -> str:
        """Names the question: its kind and a short hash of its places."""
        places = sorted(f"{hit.bar} {hit.position} {hit.instrument.value}" for hit in self.hits)
        identity = " ".join([self.kind.value, *places])
        return f"{self.kind.value}-{hashlib.sha256(identity.encode()).hexdigest()[:10]}"


def review_queue(
    song: Transcription, evidence: Evidence | None, most: int = MOST_QUESTIONS
) -> tuple[ReviewQuestion, ...]:
    """The questions of a song, the costliest first.

    evidence : what the ear noted down; without it no voice is asked about by name.
    """
    asked: set[tuple[object, ...]] = set()
    found: list[ReviewQuestion] = []

    def take(question: ReviewQuestion, least: int = 1) -> None:
        hits = tuple(hit for hit in question.hits if hit.place not in asked)
        if len(hits) < least:
            return
        asked.update(hit.place for hit in hits)
        examples = tuple(hit for hit in question.examples if hit in hits) or hits[:1]
        share = len(hits) / len(question.hits)
        found.append(replace(question, hits=hits, examples=examples, cost=share * question.cost))

    for echo in echo_suspects(song.bars, song.hits):
        opened = [hit for hit in echo.hits if not hit.settled]
        if opened:
            take(_of_hits(Kind.ECHO, echo.words, opened, WRONG_ECHO))
    for naming in naming_questions(song, evidence) if evidence else ():
        take(_of_voice(naming))
    kinds = questions(song)
    for one in kinds:
        if one.kind is Asked.LAYER:
            take(_of_hits(Kind.LAYER, _sentence(one.words), one.hits, WRONG_LAYER))
    places = review_places(song, most=MOST_PLACES)
    for place in places:
        if place.why is not Why.UNCERTAIN:
            take(_of_place(place))
    for one in kinds:
        if one.kind is Asked.ALIKE:
            take(_of_kind(one.words, one.hits), least=FEWEST_OF_A_KIND)
    for place in places:
        if place.why is Why.UNCERTAIN:
            take(_of_place(place))
    worthy = [question for question in found if question.cost >= LEAST_COST]
    return tuple(sorted(worthy, key=lambda question: -question.cost)[:most])


def answer_question(
    song: Transcription, evidence: Evidence | None, key: str, answer: str
) -> Gesture:
    """What an answer changes, as one gesture.

    Raises
    ------
    InvalidTranscription : the question is no longer open, or takes no such answer.
    """
    question = next((one for one in review_queue(song, evidence) if one.key == key), None)
    if question is None:
        raise InvalidTranscription("this question is answered, or its notes have changed meanwhile")
    if answer not in question.answers:
        raise InvalidTranscription(f"this question takes no answer {answer!r}")
    if question.kind is Kind.VOICE and answer != NOT_PLAYED:
        return _name_voice(song, question, Instrument(answer))
    is_there = answer == YES if question.kind is not Kind.ECHO else answer == NO
    return _decide(question, is_there=is_there)


def _name_voice(song: Transcription, question: ReviewQuestion, name: Instrument) -> Gesture:
    taken = {hit.place for hit in written(song.hits)}
    edits = []
    for hit in question.hits:
        named = replace(
            hit, instrument=name, status=Status.HEARD, settled=True, reason="named by ear"
        )
        if name is not hit.instrument:
            named = replace(named, opening=None)
            if named.place in taken:
                # Two things sound there, and the other is written already.
                reason = f"the {SPOKEN_NAMES[name]} is written there already"
                named = replace(hit, status=Status.LEFT_OUT, settled=True, reason=reason)
        edits.append(Edit(hit, named))
    return Gesture(
        tuple(edits), f"{_count(len(edits), 'stroke')} named by ear: {SPOKEN_NAMES[name]}"
    )


def _decide(question: ReviewQuestion, *, is_there: bool) -> Gesture:
    status, reason = (
        (Status.HEARD, "confirmed by ear") if is_there else (Status.LEFT_OUT, "left out by ear")
    )
    if question.kind is Kind.ECHO and not is_there:
        reason = "it is the record’s delay"
    edits = tuple(
        Edit(
            None if question.is_missing else hit,
            replace(hit, status=status, settled=True, reason=reason),
        )
        for hit in question.hits
    )
    outcome = "confirmed" if is_there else "left out"
    if question.is_missing:
        outcome = "written" if is_there else "not played"
    return Gesture(edits, f"{_count(len(edits), 'note')} {outcome} by ear")


def _of_voice(naming: Naming) -> ReviewQuestion:
    wrong = WRONG_LOOSE if naming.margin is None else WRONG_NAME
    # Examples for either name in turn: the ear compares them.
    pairs = zip(naming.like_itself, naming.like_rival, strict=False)
    examples = tuple(dict.fromkeys(hit for pair in pairs for hit in pair))
    return ReviewQuestion(
        Kind.VOICE,
        naming.words,
        naming.hits,
        examples,
        (*(one.value for one in naming.family), NOT_PLAYED),
        wrong * sum(cost_of(hit) for hit in naming.hits),
    )


def _of_hits(kind: Kind, words: str, hits: Sequence[Hit], wrong: float) -> ReviewQuestion:
    cost = wrong * sum(cost_of(hit) for hit in hits)
    return ReviewQuestion(kind, words, tuple(hits), _telling(hits), (YES, NO), cost)


def _of_kind(words: str, hits: Sequence[Hit]) -> ReviewQuestion:
    cost = sum(expected_cost(hit) for hit in hits)
    asked = f"{_sentence(words)}: are they there?"
    return ReviewQuestion(Kind.ALIKE, asked, tuple(hits), _telling(hits), (YES, NO), cost)


def _of_place(place: ReviewPlace) -> ReviewQuestion:
    is_missing = place.why is Why.MISSING
    return ReviewQuestion(
        Kind.SPOT,
        place.words,
        place.hits,
        place.hits[:3],
        (YES, NO),
        place.cost,
        is_missing=is_missing,
    )


def _telling(hits: Iterable[Hit]) -> tuple[Hit, ...]:
    """The surest, the least sure, and the one between: what holds for them holds for the rest."""
    order = sorted(hits, key=lambda hit: -hit.confidence)
    return tuple(dict.fromkeys((order[0], order[-1], order[len(order) // 2])))


def _sentence(words: str) -> str:
    return words[0].upper() + words[1:]


def _count(many: int, what: str) -> str:
    return f"{many} {what}{'' if many == 1 else 's'}"


ANSWER_WORDS: dict[Kind, tuple[str, str]] = {
    Kind.LAYER: ("It is there", "It is not"),
    Kind.ECHO: ("Leave them out", "They are played"),
    Kind.ALIKE: ("All are there", "None is"),
    Kind.SPOT: ("It is there", "It is not"),
}
MISSING_WORDS = ("Write it", "It is not played")


def answer_words(question: ReviewQuestion, answer: str) -> str:
    """An answer as a drummer would give it."""
    if answer == NOT_PLAYED:
        return "Not played"
    if question.kind is Kind.VOICE:
        return _sentence(SPOKEN_NAMES[Instrument(answer)])
    yes, no = MISSING_WORDS if question.is_missing else ANSWER_WORDS[question.kind]
    return yes if answer == YES else no
