"""What a person says of the chart itself: words over a bar, parts that he wants or does not."""

from __future__ import annotations

from dataclasses import dataclass, replace

from orchesis.chart.cues import bar_of
from orchesis.errors import InvalidTranscription
from orchesis.music.values import Cue, PartDecision, Transcription
from studio.actions.action import WholeSong
from studio.models import Song

MOST_CUES = 400


@dataclass(frozen=True)
class SetCue(WholeSong):
    """Put words over a bar; empty ones take away what is there."""

    bar: int
    cue: str

    @property
    def words(self) -> str:  # type: ignore[override]
        """What, and where."""
        if not self.cue:
            return f"Cue over bar {self.bar} taken away"
        return f"Cue over bar {self.bar}: {self.cue}"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same notes with other words over them."""
        bar = score.bar(self.bar)
        others = [cue for cue in score.cues if bar_of(score, cue.time) != self.bar]
        if self.cue:
            others.append(Cue(bar.start, self.cue))
        if len(others) > MOST_CUES:
            raise InvalidTranscription(f"a song has at most {MOST_CUES} cues")
        return replace(score, cues=tuple(sorted(others, key=lambda cue: cue.time)))


@dataclass(frozen=True)
class DecidePart(WholeSong):
    """Say that bars are a part to learn, that they are none, or leave it to the tool again."""

    first_bar: int
    count: int
    wanted: bool | None

    @property
    def words(self) -> str:  # type: ignore[override]
        """What, and where."""
        last = self.first_bar + self.count - 1
        where = f"Bar {self.first_bar}" if self.count == 1 else f"Bars {self.first_bar} to {last}"
        said = {True: "as a part", False: "no part", None: "as proposed"}
        return f"{where} {said[self.wanted]}"

    def change(self, song: Song, score: Transcription) -> Transcription:
        """The same notes with this said of them."""
        first = score.bar(self.first_bar)
        last = score.bar(self.first_bar + self.count - 1)
        # By its time, and a hair inside its bars, so that it holds however bars are counted later.
        hair = 0.01 * (last.end - first.start)
        start, end = first.start + hair, last.end - hair
        others = [
            decision
            for decision in score.part_decisions
            if abs(decision.start - start) > 2 * hair or abs(decision.end - end) > 2 * hair
        ]
        if self.wanted is not None:
            others.append(PartDecision(start, end, self.wanted))
        return replace(score, part_decisions=tuple(sorted(others, key=lambda d: d.start)))
