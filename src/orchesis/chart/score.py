"""A written chart as a value: measures with repeats, endings, signs and cues, before any engraver.

Screen, paper, MusicXML and plain text are all made from this, so that they agree. `play_through`
follows the signs as a reader would and says which bars of the song come out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from fractions import Fraction

from orchesis.chart.options import ChartOptions
from orchesis.music.instruments import Instrument, Ornament, Status
from orchesis.music.values import Feel, Hit, Meter

Stroke = tuple[Fraction, Instrument, bool, bool, Ornament | None, bool, bool]
"""Position, instrument, ghost, accent, ornament, half open, doubtful."""

Content = tuple[Meter, frozenset[Stroke]]
"""What is written in a bar: two bars with the same one look alike on paper."""


def content_of(meter: Meter, hits: Sequence[Hit]) -> Content:
    """What a bar looks like."""
    return (
        meter,
        frozenset(
            (
                hit.position,
                hit.instrument,
                hit.ghost,
                hit.accent,
                hit.ornament,
                hit.is_half_open,
                hit.status is Status.DOUBTFUL,
            )
            for hit in hits
        ),
    )


class Kind(StrEnum):
    """What stands in a measure: notes, a sign that repeats, a rest of many bars."""

    WRITTEN = "written"
    REPEAT = "repeat"
    REST = "rest"


@dataclass(frozen=True, slots=True)
class Heading:
    """What stands over the measure where something begins: its name, and what is said of it."""

    label: str
    start: float
    bars: int
    words: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Measure:
    """One measure of the chart.

    number : of the song's bar that is written. hits : of that bar, in order, as they are written.
    span : how many bars a repeat sign or a rest stands for. plays : for each pass the number of
    the first bar of the song that it stands for. times : at a closing repeat, how often all is
    played. ending : passes that play it; none: each.
    """

    number: int
    meter: Meter
    hits: tuple[Hit, ...] = ()
    kind: Kind = Kind.WRITTEN
    span: int = 1
    plays: tuple[int, ...] = ()
    opens_repeat: bool = False
    times: int = 0
    ending: tuple[int, ...] = ()
    ending_opens: bool = False
    ending_closes: bool = False
    heading: Heading | None = None
    cues: tuple[str, ...] = ()
    divisions: tuple[int, ...] = ()

    @property
    def content(self) -> Content:
        """What it looks like."""
        return content_of(self.meter, self.hits)


@dataclass(frozen=True, slots=True)
class Credits:
    """Who took it off, what version this is, and of which day (in words)."""

    transcriber: str = ""
    version: int = 0
    date: str = ""


@dataclass(frozen=True, slots=True)
class Score:
    """A chart: its measures, and what stands at its head and foot."""

    title: str
    tempo_bpm: float
    meter: Meter
    feel: Feel
    feel_words: str
    measures: tuple[Measure, ...]
    options: ChartOptions
    credits: Credits = field(default_factory=Credits)


def play_through(measures: Sequence[Measure]) -> list[Content]:
    """The bars that a reader plays who follows every sign, in order.

    Raises ValueError where a sign makes no sense: a repeat of more bars than were played.
    """
    played: list[Content] = []
    index = 0
    while index < len(measures):
        if measures[index].opens_repeat:
            index = _play_repeat(measures, index, played)
        else:
            _play(measures[index], played)
            index += 1
    return played


def _play_repeat(measures: Sequence[Measure], start: int, played: list[Content]) -> int:
    """Play what stands between repeat bars as often as they say; returns where to go on."""
    end = start
    while not measures[end].times:
        end += 1
    times = measures[end].times
    stop = end + 1
    while stop < len(measures) and measures[stop].ending and not measures[stop].opens_repeat:
        stop += 1
    for number in range(1, times + 1):
        for measure in measures[start:stop]:
            if not measure.ending or number in measure.ending:
                _play(measure, played)
    return stop


def _play(measure: Measure, played: list[Content]) -> None:
    if measure.kind is Kind.REST:
        played.extend([(measure.meter, frozenset())] * measure.span)
    elif measure.kind is Kind.REPEAT:
        if len(played) < measure.span:
            raise ValueError("a sign repeats more bars than there are before it")
        played.extend(played[-measure.span :])
    else:
        played.append(measure.content)
