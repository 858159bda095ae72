"""Changes of how a song is counted, and of what of it is confirmed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from orchesis.fills.decide import FillAsked, decided
from orchesis.form.edit import FormChange, changed
from orchesis.groove.alike import kinds_of_bars
from orchesis.limbs.assign import assign_limbs
from orchesis.listening.judge import load_judge
from orchesis.music.values import Transcription
from orchesis.pipeline import on_tapped_grid
from orchesis.rhythm.beat_notation import BeatNotation, rewrite_beats
from orchesis.rhythm.divide import divide_beats
from orchesis.rhythm.downbeats import even_out_bar, shift_downbeats
from orchesis.rhythm.rewrite import move_downbeat, take_reading
from orchesis.rhythm.tapped import on_taps
from orchesis.rhythm.typed import on_tempo
from studio.actions.action import Action, Before, Held, Outcome, WholeSong, log_change
from studio.models import Song
from studio.values.evidence import own_evidence
from studio.values.kits import song_player


@dataclass(frozen=True)
class TakeReading(WholeSong):
    """Count the song in another of its readings."""

    key: str
    words = "Counted another way"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same strokes on other lines."""
        return take_reading(score, self.key)


@dataclass(frozen=True)
class LayTaps(WholeSong):
    """Lay the grid by tapped beats."""

    taps: list[float]
    """Seconds."""

    beats_a_bar: int
    words = "Grid laid by tapping"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """What was written, on the tapped beats; where nothing could be, what was heard."""
        evidence = own_evidence(song)
        if score.bars or evidence is None:
            return on_taps(score, self.taps, self.beats_a_bar, score.confirmed_spans)
        return on_tapped_grid(score, evidence, load_judge(), self.taps, self.beats_a_bar)


@dataclass(frozen=True)
class LayTempo(WholeSong):
    """Lay the grid near a tempo, through the strokes; confirmed sections keep their beats."""

    bpm: float
    beats_a_bar: int

    @property
    def words(self) -> str:  # type: ignore[override]
        """Which tempo."""
        return f"Grid laid near {self.bpm:g} beats a minute"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """On the beats that the strokes have near that tempo."""
        return on_tempo(score, self.bpm, self.beats_a_bar, score.confirmed_spans)


@dataclass(frozen=True)
class DrawBarLine(WholeSong):
    """Draw a bar line to where it belongs; the ends of confirmed sections stay."""

    bar: int
    time: float
    """Seconds."""

    @property
    def words(self) -> str:  # type: ignore[override]
        """Which, and whereto."""
        return f"Bar {self.bar} drawn to {self.time:.2f} s"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The lines beside it move with it."""
        fixed = [time for span in score.confirmed_spans for time in span]
        return move_downbeat(score, self.bar, self.time, fixed)


@dataclass(frozen=True)
class ShiftDownbeats(WholeSong):
    """Begin every bar some beats later."""

    beats: int

    @property
    def words(self) -> str:  # type: ignore[override]
        """By how many."""
        return f"The one {self.beats} {'beat' if self.beats == 1 else 'beats'} later"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same beats with other bar lines."""
        return shift_downbeats(score, self.beats)


@dataclass(frozen=True)
class EvenOutBar(WholeSong):
    """Mend a bar that has more or fewer beats than the others."""

    bar: int

    @property
    def words(self) -> str:  # type: ignore[override]
        """Which."""
        return f"Bar {self.bar} evened out"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """Its beats spread evenly, or bars counted on from it."""
        return even_out_bar(score, self.bar)


@dataclass(frozen=True)
class RewriteBeats(WholeSong):
    """Write beats that fall in three in another of the three ways."""

    notation: BeatNotation

    @property
    def words(self) -> str:  # type: ignore[override]
        """Which."""
        return f"Written in {NOTATION_NAMES[self.notation]}"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same strokes."""
        return rewrite_beats(score, self.notation)


NOTATION_NAMES = {
    BeatNotation.COMPOUND: "compound time",
    BeatNotation.TRIPLETS: "triplets",
    BeatNotation.SWUNG: "swung eighths",
}


@dataclass(frozen=True)
class DivideBeats(WholeSong):
    """Divide beats into other parts.

    bars : their numbers. beat : from 0; None: all. like : in all bars that play the same, too.
    """

    bars_meant: Sequence[int]
    parts: int
    beat: int | None = None
    like: bool = False

    @property
    def words(self) -> str:  # type: ignore[override]
        """Which, and into what."""
        first, last = min(self.bars_meant), max(self.bars_meant)
        where = f"bar {first}" if first == last else f"bars {first} to {last}"
        if self.beat is not None:
            where = f"beat {self.beat + 1} of {where}"
        more = " and bars like it" if self.like else ""
        return f"{where[0].upper()}{where[1:]}{more} in {DIVISION_NAMES[self.parts]}"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same strokes, each on the part that is nearest."""
        meant = set(self.bars_meant)
        if self.like:
            for kind in kinds_of_bars(score.bars, score.hits):
                if meant & set(kind.bars):
                    meant |= set(kind.bars)
        return divide_beats(score, sorted(meant), self.parts, beat=self.beat)


DIVISION_NAMES = {
    1: "quarters",
    2: "eighths",
    3: "triplets",
    4: "sixteenths",
    5: "quintuplets",
    6: "sextuplets",
    8: "thirty-seconds",
    12: "triplets of thirty-seconds",
}


@dataclass(frozen=True)
class ChangeForm(WholeSong):
    """Split, merge, move, rename, say what is the same, confirm."""

    asked: FormChange

    @property
    def words(self) -> str:  # type: ignore[override]
        """As the core says it."""
        return self.asked.words()

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same bars in other sections."""
        return replace(score, sections=changed(score.sections, score.bars, self.asked))


@dataclass(frozen=True)
class DecideFill(WholeSong):
    """Say where a fill is, or that there is none."""

    asked: FillAsked
    in_words: str

    @property
    def words(self) -> str:  # type: ignore[override]
        """As the core says it."""
        return self.in_words

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same notes, with this said of them."""
        return decided(score, self.asked)


@dataclass(frozen=True)
class GiveHands(WholeSong):
    """Find hands and feet anew, for the player that the song is for; settled notes keep theirs.

    sixteenths : with how many hands fast cymbals are played, see `limbs.kit.SIXTEENTHS`; empty: as
    the player has it.
    """

    sixteenths: str = ""

    @property
    def words(self) -> str:  # type: ignore[override]
        """For what."""
        how = f", sixteenths {self.sixteenths}" if self.sixteenths else ""
        return f"Sticking recalculated for this kit{how}"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same notes by other limbs."""
        player = song_player(song)
        if self.sixteenths:
            player = replace(player, sixteenths=self.sixteenths)
        given = assign_limbs(score.hits, score.meter.pulses, player)
        return score.with_hits(
            old if old.settled and old.limb is not None else new
            for old, new in zip(score.hits, given, strict=True)
        )


SHOWN = {"tempo": "Tempo", "meter": "Metre", "first beat": "First beat", "feel": "Feel"}
"""The findings as the screen calls them."""


@dataclass(frozen=True)
class ConfirmFinding(Action):
    """Settle a finding about the whole song, or open it again."""

    finding: str
    confirmed: bool

    def bars(self, song: Song) -> tuple[int, ...]:
        """None of them: a confirmed tempo is the same tempo."""
        return ()

    def outcome(self, held: Held) -> Outcome | None:
        """Nothing where it stands so already."""
        before = set(held.header.get("confirmed", []))
        names = before | {self.finding} if self.confirmed else before - {self.finding}
        if names == before:
            return None
        words = f"{SHOWN[self.finding]} {'confirmed' if self.confirmed else 'open again'}"
        return Outcome(words, header={**held.header, "confirmed": sorted(names)})

    def log(self, held: Held, outcome: Outcome, before: Before) -> None:
        """One step of the author's."""
        log_change(held.song, held.author, outcome, before)
