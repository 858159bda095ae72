"""What of the lexicon is in a bar: by its rows, with the distance in notes.

A row of an entry is looked for in one voice; a row that any one voice may strike is tried on each.
A pattern is looked for as it is written and from every beat, so that one which begins half a bar
later is found and said to.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from math import lcm
from pathlib import Path

from orchesis.errors import InvalidTranscription
from orchesis.music.instruments import TIMEKEEPERS, TOMS, Instrument

ENTRIES = Path(__file__).with_name("entries.json")

VOICES: dict[str, frozenset[Instrument]] = {
    "kick": frozenset({Instrument.KICK}),
    "snare": frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP}),
    "hat": frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN}),
    "open": frozenset({Instrument.HIHAT_OPEN}),
    "ride": frozenset({Instrument.RIDE, Instrument.RIDE_BELL}),
    "foot": frozenset({Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH}),
    "tom": TOMS,
    "cowbell": frozenset({Instrument.COWBELL}),
}

ANY_OF = ("snare", "kick", "cowbell", "tom")
BELLS = ("cowbell", "ride", "snare")
"""Voices on which a pattern of one voice, or of a bell, is looked for, in this order."""

VOICE_WORDS = {
    "kick": "the kick",
    "snare": "the snare",
    "hat": "the hat",
    "open": "the open hat",
    "ride": "the ride",
    "foot": "the foot hat",
    "tom": "the toms",
    "cowbell": "the cowbell",
}

MOST_APART = 1
"""Notes by which a bar may differ from an entry and still be called by its name."""

FEWEST_STROKES = 3
"""A row with fewer is found everywhere: it names nothing by itself."""

MOST_NAMED = 3

PLAIN_FAMILIES = frozenset({"backbeat", "figure", "train", "reggae"})
"""Their names say what is played, or are of a groove that says so by kick and snare together."""

FEWEST_OF_TIME = 3
"""Strokes of hat, ride or crash in a bar by which a hand keeps time."""

MOST_OF_HALF_TIME = 3
"""Snares in a bar of half-time: the backbeat, and a ghost or two."""

Place = tuple[Fraction, Instrument]


@dataclass(frozen=True, slots=True)
class Entry:
    """A rhythm with a name. rows : places of each voice, in beats from its beginning.

    tempo : in which it is played, slowest and fastest, in beats a minute; None: any. needs : voices
    that accompany it, however they play.
    """

    name: str
    family: str
    beats: int
    rows: tuple[tuple[str, frozenset[Fraction]], ...]
    tradition: str
    own: bool = False
    tempo: tuple[float, float] | None = None
    needs: tuple[str, ...] = ()

    @property
    def is_traditional(self) -> bool:
        """Whether its name claims a tradition, and is no plain description of what is played."""
        return not self.own and self.family not in PLAIN_FAMILIES

    @property
    def strokes(self) -> int:
        """How many strokes tell it."""
        return sum(len(places) for _, places in self.rows)


@dataclass(frozen=True, slots=True)
class Match:
    """An entry found: on which voice (where it is of one), how far off, from which beat on."""

    entry: Entry
    voice: str
    apart: int
    shift: int

    @property
    def words(self) -> str:
        """As one says it: "the three-side of a clave on the snare, one note apart"."""
        on = f" on {VOICE_WORDS[self.voice]}" if self.voice else ""
        from_beat = f", from {self.shift + 1} on" if self.shift else ""
        apart = {0: "", 1: ", one note apart"}.get(self.apart, f", {self.apart} notes apart")
        return f"{self.entry.name}{on}{from_beat}{apart}"


@lru_cache(maxsize=1)
def entries() -> tuple[Entry, ...]:
    """All entries that ship."""
    data = json.loads(ENTRIES.read_text(encoding="utf-8"))
    return tuple(entry_of(item) for item in data["entries"])


def entry_of(item: dict[str, object]) -> Entry:
    """Read an entry. Raises InvalidTranscription where it is none."""
    try:
        rows = item["rows"]
        assert isinstance(rows, dict)
        beats = int(str(item["beats"]))
        made = []
        for voice, signs in rows.items():
            text = str(signs)
            if (voice != "strike" and voice not in VOICES) or set(text) - set("x."):
                raise InvalidTranscription(f"a row of {voice!r} is written with x and .")
            made.append(
                (
                    str(voice),
                    frozenset(
                        Fraction(cell * beats, len(text))
                        for cell, sign in enumerate(text)
                        if sign == "x"
                    ),
                )
            )
        return Entry(
            str(item["name"]),
            str(item.get("family", "")),
            beats,
            tuple(made),
            str(item.get("tradition", "")),
            bool(item.get("own", False)),
            _range(item.get("tempo")),
            tuple(str(voice) for voice in item.get("needs", ())),  # type: ignore[attr-defined]
        )
    except (KeyError, ValueError, AssertionError) as error:
        raise InvalidTranscription(f"this is no rhythm: {error!r}") from error


def _range(value: object) -> tuple[float, float] | None:
    if value is None:
        return None
    assert isinstance(value, list)
    slowest, fastest = value
    return float(slowest), float(fastest)


def entry_from(name: str, bars: Sequence[frozenset[Place]], beats_a_bar: int) -> dict[str, object]:
    """What is played in some bars as an entry of one's own, as `entry_of` reads it.

    Raises InvalidTranscription where too little is played to know it again by.
    """
    total = len(bars) * beats_a_bar
    played = {voice: _places(bars, beats_a_bar, drums) for voice, drums in VOICES.items()}
    played.pop("open")
    rows = {voice: places for voice, places in played.items() if places}
    if sum(len(places) for places in rows.values()) < FEWEST_STROKES:
        raise InvalidTranscription("too little is played here to know it again by")
    parts = lcm(*(place.denominator for places in rows.values() for place in places))
    return {
        "name": name,
        "beats": total,
        "tradition": "your own",
        "own": True,
        "rows": {
            voice: "".join(
                "x" if Fraction(cell, parts) in places else "." for cell in range(total * parts)
            )
            for voice, places in rows.items()
        },
    }


def matches(
    bars: Sequence[frozenset[Place]],
    beats_a_bar: int,
    more: Sequence[Entry] = (),
    tempo: float | None = None,
) -> tuple[Match, ...]:
    """What of the lexicon a phrase is, or has in one voice: the surest first, MOST_NAMED at most.

    A name that claims a tradition is told only where the whole kit bears it out: in its tempo, with
    what accompanies it, note for note where it is of one voice, and not of a kick below a backbeat.

    bars : of the phrase, the notes of each. more : entries besides those that ship. tempo : beats a
    minute; None: not known. A phrase that was asked about before is not looked up again: most edits
    leave it as it is.
    """
    return _matches(tuple(bars), beats_a_bar, tuple(more), tempo)


@lru_cache(maxsize=1024)
def _matches(
    bars: tuple[frozenset[Place], ...],
    beats_a_bar: int,
    more: tuple[Entry, ...],
    tempo: float | None,
) -> tuple[Match, ...]:
    found: list[Match] = []
    has_backbeat = _has_backbeat(bars)
    for entry in (*entries(), *more):
        size, rest = divmod(entry.beats, beats_a_bar)
        if rest and beats_a_bar % entry.beats:
            continue
        best = _best(entry, bars, beats_a_bar, max(1, size))
        if best is not None and _is_borne_out(best, bars, has_backbeat, tempo):
            found.append(best)
    # One's own names come first, then what is exact and says most; of one voice only the best
    # name is told.
    found.sort(key=lambda m: (not m.entry.own, m.apart, -m.entry.strokes, m.shift, m.entry.name))
    told: list[Match] = []
    taken: set[str] = set()
    for match in found:
        voices = {match.voice} if match.voice else {voice for voice, _ in match.entry.rows}
        if not voices & taken:
            told.append(match)
            taken |= voices
    return tuple(told[:MOST_NAMED])


def _is_borne_out(
    match: Match, bars: Sequence[frozenset[Place]], has_backbeat: bool, tempo: float | None
) -> bool:
    """Whether the kit as a whole says what a voice of it seems to say."""
    entry = match.entry
    if entry.own:
        return True
    if entry.tempo and tempo is not None and not entry.tempo[0] <= tempo <= entry.tempo[1]:
        return False
    drums = {instrument for bar in bars for _, instrument in bar}
    if any(not drums & VOICES[voice] for voice in entry.needs):
        return False
    voices = {match.voice or name for name, _ in entry.rows}
    if match.apart and len(voices) == 1:
        return False
    if not entry.is_traditional or not has_backbeat:
        return True
    # Over a backbeat a name is of that groove only where it says what the snare does, or is
    # played on something that is there for it.
    return match.apart == 0 and bool(voices & {"snare", "cowbell", "tom"})


def _has_backbeat(bars: Sequence[frozenset[Place]]) -> bool:
    """A snare on 2 and 4, or on 3 alone, below a hand that keeps time: rock, pop, funk, soul."""
    if not bars:
        return False
    keeps_time = sum(
        sum(instrument in TIMEKEEPERS for _, instrument in bar) >= FEWEST_OF_TIME for bar in bars
    )
    backbeats = 0
    for bar in bars:
        snare = {place for place, instrument in bar if instrument in VOICES["snare"]}
        full = {Fraction(1, 4), Fraction(3, 4)} <= snare
        half = Fraction(1, 2) in snare and Fraction(0) not in snare
        kick = any(instrument is Instrument.KICK and place == 0 for place, instrument in bar)
        backbeats += full or (half and kick and len(snare) <= MOST_OF_HALF_TIME)
    return 2 * backbeats > len(bars) and 2 * keeps_time > len(bars)


def _best(
    entry: Entry, bars: Sequence[frozenset[Place]], beats_a_bar: int, size: int
) -> Match | None:
    if size > len(bars):
        # A pattern of two bars may be one bar of the phrase, over and over.
        bars = [bars[i % len(bars)] for i in range(size)]
    total = len(bars) * beats_a_bar
    any_voice = BELLS if entry.family == "bell" else ANY_OF
    choices = any_voice if entry.rows[0][0] == "strike" else ("",)
    found: list[Match] = []
    for voice in choices:
        rows = [(voice or name, places) for name, places in entry.rows]
        if max(len(places) for _, places in rows) < FEWEST_STROKES and len(rows) == 1:
            continue
        played = {name: _places(bars, beats_a_bar, VOICES[name]) for name, _ in rows}
        if not all(played.values()):
            continue
        rounds = max(1, total // entry.beats)
        # So many notes too many or too few cannot be made good by beginning elsewhere.
        lacking = sum(
            abs(len(places) * total - len(played[name]) * entry.beats) for name, places in rows
        )
        if lacking > MOST_APART * rounds * entry.beats:
            continue
        for shift in range(min(entry.beats, total)):
            apart = sum(
                len(_repeated(places, entry.beats, shift, total) ^ played[name])
                for name, places in rows
            )
            # Over a longer phrase it may be off once each time that it comes round.
            if apart <= MOST_APART * rounds and apart * 5 <= entry.strokes * rounds:
                found.append(Match(entry, voice, -(-apart // rounds), shift))
    return min(found, key=lambda m: (m.apart, m.shift), default=None)


def _places(
    bars: Sequence[frozenset[Place]], beats_a_bar: int, drums: frozenset[Instrument]
) -> frozenset[Fraction]:
    return frozenset(
        (index + position) * beats_a_bar
        for index, bar in enumerate(bars)
        for position, instrument in bar
        if instrument in drums
    )


def _repeated(
    places: frozenset[Fraction], beats: int, shift: int, total: int
) -> frozenset[Fraction]:
    """An entry over and over through so many beats, beginning `shift` beats later."""
    return frozenset(
        (place + shift + turn * beats) % total
        for place in places
        for turn in range(-(-total // beats))
    )
