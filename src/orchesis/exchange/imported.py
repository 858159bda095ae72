"""A drum part from elsewhere as a transcription, and what of it could not be taken.

Whatever the file, its bars are laid at its own tempo from the start; `line_up` puts them on the
bars of a recording.
"""

from __future__ import annotations

import lzma
import zipfile
import zlib
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from orchesis.chart.notation import STAFF
from orchesis.chart.spelling import PARTS, beat_parts
from orchesis.errors import OrchesisError
from orchesis.groove.dynamics import classify_dynamics
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.pedals import player_for
from orchesis.limbs.playable import problems_of
from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Bar, Feel, Hit, Meter, Section, Transcription, in_order

LARGEST_FILE = 8_000_000
"""Bytes of a file that is read; the longest scores have some three million."""

MOST_BARS = 2000
MOST_HITS = 100_000
SLOWEST, FASTEST = 20.0, 400.0
USUAL_TEMPO = 120.0
DEFAULT_VELOCITY = 80


BROKEN_ZIP = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    EOFError,
    KeyError,
    NotImplementedError,
    RuntimeError,
    ValueError,
)
"""Whatever Python's reader raises for an archive that is damaged, cut off, locked, or lies."""


class Refused(OrchesisError):
    """A file that cannot be taken as a drum part; the text says why."""


@dataclass(frozen=True, slots=True)
class Imported:
    """A part that was read: as a transcription, and sentences about what was not taken."""

    song: Transcription
    remarks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class BarRead:
    """A bar as it was read: its metre and its strokes, whose times are not known yet."""

    meter: Meter
    hits: tuple[Hit, ...]
    label: str = ""


GM_KEYS: dict[int, Instrument] = {
    **{place.midi_key: instrument for instrument, place in STAFF.items()},
    44: Instrument.HIHAT_FOOT,
    35: Instrument.KICK,
    40: Instrument.SNARE,
    41: Instrument.TOM_FLOOR,
    43: Instrument.TOM_FLOOR,
    45: Instrument.TOM_LOW,
    47: Instrument.TOM_MID,
    48: Instrument.TOM_MID,
    50: Instrument.TOM_HIGH,
    57: Instrument.CRASH,
    59: Instrument.RIDE,
    82: Instrument.SHAKER,
    69: Instrument.SHAKER,
}
"""Keys of General MIDI's percussion, with those that stand for a drum that we write once."""

_NAMED: tuple[tuple[str, Instrument], ...] = (
    ("cross", Instrument.CROSS_STICK),
    ("side stick", Instrument.CROSS_STICK),
    ("rim", Instrument.CROSS_STICK),
    ("bell", Instrument.RIDE_BELL),
    ("cowbell", Instrument.COWBELL),
    ("foot splash", Instrument.HIHAT_SPLASH),
    ("foot hat", Instrument.HIHAT_FOOT),
    ("pedal", Instrument.HIHAT_FOOT),
    ("open hat", Instrument.HIHAT_OPEN),
    ("open hi", Instrument.HIHAT_OPEN),
    ("hat", Instrument.HIHAT_CLOSED),
    ("splash", Instrument.SPLASH),
    ("china", Instrument.CHINA),
    ("chinese", Instrument.CHINA),
    ("ride", Instrument.RIDE),
    ("crash", Instrument.CRASH),
    ("floor", Instrument.TOM_FLOOR),
    ("low tom", Instrument.TOM_LOW),
    ("mid tom", Instrument.TOM_MID),
    ("high tom", Instrument.TOM_HIGH),
    ("hi tom", Instrument.TOM_HIGH),
    ("tom", Instrument.TOM_MID),
    ("bass drum", Instrument.KICK),
    ("kick", Instrument.KICK),
    ("snare", Instrument.SNARE),
    ("clap", Instrument.CLAP),
    ("shaker", Instrument.SHAKER),
    ("maraca", Instrument.SHAKER),
    ("tambourine", Instrument.TAMBOURINE),
)


def named(words: str) -> Instrument | None:
    """The drum that a name in words means; None where it means none of ours."""
    plain = words.lower().replace("-", " ").replace("_", " ")
    exact = next((drum for drum, name in SPOKEN_NAMES.items() if name == words.lower()), None)
    if exact is not None:
        return exact
    if "cowbell" in plain:
        return Instrument.COWBELL
    return next((drum for part, drum in _NAMED if part in plain), None)


def song_of(
    bars: Sequence[BarRead],
    *,
    title: str,
    tempo_bpm: float,
    swing: Feel | None = None,
    edges: Sequence[float] | None = None,
    by_velocity: bool = False,
) -> Transcription:
    """Bars that were read as a song.

    Parameters
    ----------
    tempo_bpm : felt beats a minute.
    by_velocity : the file has no signs for ghosts and accents: how hard strokes are tells them.
    edges : where each beat falls, in seconds, and the end of the last; None: at the tempo.

    Raises
    ------
    Refused : nothing is left to be played, or it is longer than any song.
    """
    if not any(bar.hits for bar in bars):
        raise Refused("There are no drum strokes in this file that could be read.")
    if len(bars) > MOST_BARS or sum(len(bar.hits) for bar in bars) > MOST_HITS:
        raise Refused(f"This part has {len(bars)} bars: at most {MOST_BARS} can be read.")
    tempo = min(FASTEST, max(SLOWEST, tempo_bpm))
    if edges is None:
        count = sum(bar.meter.pulses for bar in bars)
        edges = [60.0 / tempo * index for index in range(count + 1)]
    grid: list[Bar] = []
    hits: list[Hit] = []
    at = 0
    for number, read in enumerate(bars, 1):
        pulses = read.meter.pulses
        bar = Bar(
            number,
            edges[at],
            edges[at + pulses],
            read.meter,
            tuple(edges[at : at + pulses]),
            _divisions(read),
        )
        at += pulses
        grid.append(bar)
        hits += [
            replace(hit, bar=number, time=bar.stroke_at(hit.position)) for hit in _once(read.hits)
        ]
    song = Transcription(
        tempo_bpm=tempo,
        meter=grid[0].meter,
        beats=tuple(edges[:at]),
        bars=tuple(grid),
        sections=_sections(bars, grid),
        hits=tuple(sorted(hits, key=in_order)),
        feel=swing or Feel(),
        title=title,
        duration=grid[-1].end,
    )
    if by_velocity:
        song = song.with_hits(classify_dynamics(song.hits))
    given = assign_limbs(song.hits, song.meter.pulses, player_for(song.hits))
    return song.with_hits(
        own if own.limb is not None else found for own, found in zip(song.hits, given, strict=True)
    )


def _once(hits: Iterable[Hit]) -> list[Hit]:
    """Of two strokes of one drum at one place the louder."""
    kept: dict[tuple[Fraction, Instrument], Hit] = {}
    for hit in hits:
        place = (hit.position, hit.instrument)
        if place not in kept or kept[place].velocity < hit.velocity:
            kept[place] = hit
    return list(kept.values())


def _divisions(read: BarRead) -> tuple[int, ...]:
    pulses = read.meter.pulses
    found = []
    for beat in range(pulses):
        inside = [
            hit.position * pulses - beat
            for hit in read.hits
            if beat <= hit.position * pulses < beat + 1
        ]
        found.append(max(2, beat_parts(inside)))
    return tuple(found)


def _sections(bars: Sequence[BarRead], grid: Sequence[Bar]) -> tuple[Section, ...]:
    """Where a name stands over a bar a section begins; without any the part is one."""
    starts = [index for index, bar in enumerate(bars) if bar.label]
    if not starts or starts[0] != 0:
        starts = [0, *starts]
    ends = [*starts[1:], len(bars)]
    return tuple(
        Section(
            bars[start].label or "Part",
            grid[start].start,
            grid[end - 1].end,
            end - start,
            grid[start].number,
        )
        for start, end in zip(starts, ends, strict=True)
    )


def nearest_place(place: Fraction, pulses: int) -> Fraction:
    """The place of a bar, in parts that can be written, that is nearest to this one."""
    beats = place * pulses
    beat = beats.numerator // beats.denominator
    within = beats - beat
    if within.denominator in PARTS or beat_parts([within]) % within.denominator == 0:
        return place
    choices = [Fraction(step, parts) for parts in (8, 12) for step in range(parts + 1)]
    best = min(choices, key=lambda choice: (abs(choice - within), choice.denominator))
    if beat + best >= pulses:
        best = Fraction(7, 8)
    return (beat + best) / pulses


def remarks_of(
    song: Transcription, unmapped: Mapping[str, int], others: Iterable[str]
) -> tuple[str, ...]:
    """What was not taken, and what one drummer cannot play, in sentences."""
    found = [
        f"{count} {'note' if count == 1 else 'notes'} of “{name}” {'is' if count == 1 else 'are'} "
        "no drum that is known here: left out."
        for name, count in Counter(dict(unmapped)).most_common()
    ]
    found += list(others)
    problems = problems_of(song.hits, song.meter.pulses)
    if problems:
        bars = sorted({problem.bar for problem in problems})
        named_bars = ", ".join(map(str, bars[:8])) + (" and others" if len(bars) > 8 else "")
        found.append(f"One player cannot play bars {named_bars} as they are written.")
    return tuple(found)
