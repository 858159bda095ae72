"""The values that everything passes on: metres, hits, bars, sections, transcriptions.

Conventions: times are seconds from the start of the audio file; a position is an exact
fraction of its bar, 0 <= position < 1; bars are numbered from 1; velocities run from 1 to 127;
swing ratios are long:short (1.0 straight, 2.0 triplet).
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import Instrument, Limb, Ornament, Status


@dataclass(frozen=True, slots=True)
class Meter:
    """A time signature: `beats` of one `unit` (4 = quarter) a bar."""

    beats: int
    unit: int

    def __post_init__(self) -> None:
        if not 1 <= self.beats <= 32:
            raise InvalidTranscription(f"a bar of {self.beats} beats is not supported (1 to 32)")
        if self.unit not in (1, 2, 4, 8, 16):
            raise InvalidTranscription(f"a beat cannot be a 1/{self.unit} note")

    def __str__(self) -> str:
        return f"{self.beats}/{self.unit}"

    @property
    def is_compound(self) -> bool:
        """True where three eighths make one felt beat: 6/8, 9/8, 12/8."""
        return self.unit == 8 and self.beats in (6, 9, 12)

    @property
    def pulses(self) -> int:
        """Felt beats a bar: 4 in 4/4, 2 in 6/8."""
        return self.beats // 3 if self.is_compound else self.beats

    @property
    def pulse(self) -> Fraction:
        """The length of a felt beat as a fraction of a whole note."""
        return Fraction(self.beats, self.unit) / self.pulses


UNCERTAIN_BELOW = 0.6
"""A note that is less likely there than this is uncertain."""

HALF_OPEN_BELOW = 0.5
"""A hat that is open by less is written as half open."""

HALF_OPENING = 0.4
"""Of a hat that somebody called half open."""


@dataclass(frozen=True, slots=True)
class Hit:
    """One stroke: when it sounded, on what, how loud, and where in the bar it is written.

    settled : a person decided it; the tool never changes it by itself. source : the recording it
        was heard in, where that is not the song's own. opening : how far a hat that is struck open
        is open, 0 hardly to 1 as far as it goes; None where that was not measured.
    """

    time: float
    instrument: Instrument
    velocity: int
    bar: int
    position: Fraction
    ghost: bool = False
    accent: bool = False
    confidence: float = 1.0
    status: Status = Status.HEARD
    limb: Limb | None = None
    reason: str = ""
    ornament: Ornament | None = None
    settled: bool = False
    source: str = ""
    opening: float | None = None

    def __post_init__(self) -> None:
        if not 1 <= self.velocity <= 127:
            raise InvalidTranscription(f"velocity {self.velocity} is outside 1 to 127")
        # The same as 0 <= position < 1, which takes longer than all the rest of making a hit.
        if not 0 <= self.position.numerator < self.position.denominator:
            raise InvalidTranscription(f"position {self.position} is outside its bar")
        if not 0.0 <= self.confidence <= 1.0:
            raise InvalidTranscription(f"confidence {self.confidence} is outside 0 to 1")
        if not (self.time >= 0.0 and self.time < 1e6):
            raise InvalidTranscription(f"a hit at {self.time} s is not in the recording")
        if self.opening is not None and not 0.0 <= self.opening <= 1.0:
            raise InvalidTranscription(f"a hat cannot be open by {self.opening} (0 to 1)")

    @property
    def is_uncertain(self) -> bool:
        """Whether it may well not be there, and nobody decided; it need not be marked for that."""
        if self.settled:
            return False
        faint = self.status is Status.HEARD and self.confidence < UNCERTAIN_BELOW
        return faint or self.status is Status.DOUBTFUL

    @property
    def is_half_open(self) -> bool:
        """Whether it is a hat that is struck half open."""
        return (
            self.opening is not None
            and self.instrument is Instrument.HIHAT_OPEN
            and self.opening < HALF_OPEN_BELOW
        )

    @property
    def place(self) -> tuple[int, Fraction, Instrument]:
        """Bar, position and instrument: no two hits of a transcription share it."""
        return (self.bar, self.position, self.instrument)


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar of the grid.

    `beats` holds the time of each felt beat of the bar, in seconds; `divisions` says into how many
    equal parts each beat is written (2 eighths, 3 triplets, 4 sixteenths, 6 sextuplets).
    """

    number: int
    start: float
    end: float
    meter: Meter
    beats: tuple[float, ...]
    divisions: tuple[int, ...]

    def __post_init__(self) -> None:
        if not self.start < self.end:
            raise InvalidTranscription(f"bar {self.number} ends before it starts")
        count = self.meter.pulses
        if len(self.beats) != count or len(self.divisions) != count:
            raise InvalidTranscription(f"bar {self.number} does not have {count} beats")

    def time_at(self, position: Fraction | float) -> float:
        """Time in seconds of a place in the bar, following the beats as they were played."""
        place = float(position) * len(self.beats)
        index = min(int(place), len(self.beats) - 1)
        edges = (*self.beats, self.end)
        return edges[index] + (place - index) * (edges[index + 1] - edges[index])

    def stroke_at(self, position: Fraction | float) -> float:
        """The same for a stroke: none is before the recording, though a first bar may begin so."""
        return max(0.0, self.time_at(position))


@dataclass(frozen=True, slots=True)
class Section:
    """A stretch of the form with a label and its number of bars.

    mark : a letter; sections with the same one are the same music. confirmed : the user said so.
    """

    label: str
    start: float
    end: float
    bars: int
    first_bar: int
    mark: str = ""
    confirmed: bool = False


@dataclass(frozen=True, slots=True)
class Fill:
    """A fill: from `start` to `end` seconds; it ends in the bar of that number.

    first_bar : the bar in which it begins; 0: the one in which it ends. at, until : where in those
    bars, as shares of them. settled : a person said that this is a fill, and from where to where.
    """

    start: float
    end: float
    bar: int
    first_bar: int = 0
    at: Fraction = Fraction(0)
    until: Fraction = Fraction(1)
    settled: bool = False

    @property
    def begins_in(self) -> int:
        """The number of the bar in which it begins."""
        return self.first_bar or self.bar


@dataclass(frozen=True, slots=True)
class FillDecision:
    """What a person said of a stretch of the recording, in seconds: it is one fill, or none.

    In seconds, so that it holds however the song is counted later.
    """

    start: float
    end: float
    is_fill: bool


@dataclass(frozen=True, slots=True)
class Cue:
    """Words that a person put over a place of the song, such as "vocals in"; in seconds."""

    time: float
    words: str


@dataclass(frozen=True, slots=True)
class PartDecision:
    """Whether a person wants these bars as a part of their own; in seconds, as with fills."""

    start: float
    end: float
    wanted: bool


@dataclass(frozen=True, slots=True)
class Feel:
    """Swing of eighths and of sixteenths (None: there are no such pairs), half-time or not."""

    swing_8: float | None = None
    swing_16: float | None = None
    half_time: bool = False


@dataclass(frozen=True, slots=True)
class ReadingSummary:
    """One way to count the song, and what speaks for it. The first of a song's is the one taken.

    key : level, metre and phase. downbeats : indices among the beats of its level.
    """

    key: str
    words: str
    tempo_bpm: float
    meter: Meter
    evidence: tuple[str, ...] = ()
    downbeats: tuple[int, ...] = ()
    half_time: bool = False


@dataclass(frozen=True, slots=True)
class Transcription:
    """All that is known of a song's drum part."""

    tempo_bpm: float
    meter: Meter
    beats: tuple[float, ...]
    bars: tuple[Bar, ...]
    sections: tuple[Section, ...] = ()
    hits: tuple[Hit, ...] = ()
    fills: tuple[Fill, ...] = ()
    fill_decisions: tuple[FillDecision, ...] = ()
    cues: tuple[Cue, ...] = ()
    part_decisions: tuple[PartDecision, ...] = ()
    feel: Feel = field(default_factory=Feel)
    title: str = ""
    duration: float = 0.0
    findings: tuple[str, ...] = ()
    readings: tuple[ReadingSummary, ...] = ()
    tracked_beats: tuple[float, ...] = ()

    @property
    def downbeats(self) -> tuple[float, ...]:
        """The time of the one of each bar, in seconds."""
        return tuple(bar.start for bar in self.bars)

    @property
    def length(self) -> float:
        """Seconds that the song lasts: the recording, or its bars where no recording is known."""
        return max(self.duration, self.bars[-1].end if self.bars else 0.0)

    def bar(self, number: int) -> Bar:
        """The bar of that number. Raises InvalidTranscription where there is none."""
        if self.bars:
            index = number - self.bars[0].number
            if 0 <= index < len(self.bars):
                return self.bars[index]
        raise InvalidTranscription(f"there is no bar {number}")

    def hits_of(self, number: int) -> tuple[Hit, ...]:
        """The hits written in the bar of that number, in order."""
        return tuple(hit for hit in self.hits if hit.bar == number)

    @property
    def confirmed_spans(self) -> list[tuple[float, float]]:
        """The stretches of the sections that somebody confirmed, in seconds."""
        return [(section.start, section.end) for section in self.sections if section.confirmed]

    def section_of(self, number: int) -> Section | None:
        """The section that a bar is in, if any."""
        return next(
            (s for s in self.sections if s.first_bar <= number < s.first_bar + s.bars), None
        )

    def bars_in(self, section: Section) -> tuple[Bar, ...]:
        """The bars of a section."""
        last = section.first_bar + section.bars
        return tuple(bar for bar in self.bars if section.first_bar <= bar.number < last)

    def hits_in(self, section: Section) -> tuple[Hit, ...]:
        """The hits of a section; hits are in order of their bars."""
        first = bisect_left(self.hits, section.first_bar, key=_bar_of)
        last = bisect_left(self.hits, section.first_bar + section.bars, key=_bar_of)
        return self.hits[first:last]

    def with_hits(self, hits: Iterable[Hit]) -> Transcription:
        """The same song with other hits, put in order."""
        return replace(self, hits=tuple(sorted(hits, key=in_order)))


def _bar_of(hit: Hit) -> int:
    return hit.bar


def in_order(hit: Hit) -> tuple[int, float, str]:
    """Sort key: bar, position, instrument. As a float the place sorts the same, and faster."""
    return (hit.bar, hit.position.numerator / hit.position.denominator, hit.instrument.value)


def written(hits: Sequence[Hit]) -> list[Hit]:
    """The hits that are part of the chart: all but those left out."""
    return [hit for hit in hits if hit.status is not Status.LEFT_OUT]
