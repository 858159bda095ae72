"""What a song's plates are called, decided once for all of their strokes.

On recorded kits that the networks have never heard most wrong names are wrong all song long: of
crashes struck once a bar and more nearly all were hats, of "open" hats half of the groups closed
ones of a loose pair (docs/measurements.md). What tells them apart needs no lesson: a crash goes on
for seconds, an open hat for some tenths, a closed one not at all. So where the strokes of one name
fade, in the middle, as that name cannot, all of them get the name that fades so; of open hats only
where the network itself is not sure.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from orchesis.listening.candidates import logit
from orchesis.listening.decide import RIVAL_SECONDS
from orchesis.listening.ear import Detail, Onset
from orchesis.listening.opening import Values, fading
from orchesis.listening.second_pass import HeardSong, strongest_near
from orchesis.music.instruments import STRUCK_HATS, Instrument

FEWEST = 6
"""Strokes that fade freely for long enough to be measured; of fewer nothing is said."""

RIDDEN = 0.8
"""A bar. Crashes struck more seldom are accents, whatever they fade like: splashes, chokes."""

CRASH_FADES = 30.0
HAT_SHUTS = 60.0
LOOSE_SHUTS = 70.0
"""Decibels a second above 5 kHz: no ridden crash fades faster than the first; where it fades as
fast as the second it is a closed hat, between them an open one; no open hat fades faster than the
third. Chosen on four kits that were left out of the networks (docs/notebook.md)."""

SURE = 3.0
"""Mean log odds of open over closed from which on the network is believed, whatever the fading: a
band hides the end of a hat, and open ones then fade as fast as 100 dB a second."""

REACH_FRAMES = 2

NAMED = frozenset({Instrument.CRASH, Instrument.HIHAT_OPEN})


def names_by_fading(
    onsets: Sequence[Onset], detail: Detail, song: HeardSong
) -> dict[Instrument, Instrument]:
    """What crashes and open hats of a song are to be called instead, where they are to be.

    Parameters
    ----------
    onsets : the strokes, in order of time. detail : the song's features and masks.
    song : the network's words on it, with its bars.
    """
    if not any(onset.instrument in NAMED for onset in onsets):
        return {}
    fades = fading(onsets, detail, song.frame_rate, NAMED)
    bars = len(song.edges) - 1
    names = {name: name_of(name, fades, onsets, bars) for name in sorted(NAMED)}
    if margin(onsets, song, Instrument.HIHAT_OPEN, Instrument.HIHAT_CLOSED) >= SURE:
        names.pop(Instrument.HIHAT_OPEN)
    return {name: instead for name, instead in names.items() if instead is not name}


def relabel_by_share(onsets: Sequence[Onset]) -> dict[Instrument, Instrument]:
    """What voices are to be called by how often they are struck beside each other, all song long.

    Three things that a drummer knows of a kit: a hat that is open nearly all the time is a loose
    pair played closed; a bell that is struck more often than its ride is the ride; and of toms the
    first to be had are the high one and the floor. The song is asked about once (`edits.naming`).
    """
    count = Counter(onset.instrument for onset in onsets)
    names = {}
    opened, closed = count[Instrument.HIHAT_OPEN], count[Instrument.HIHAT_CLOSED]
    if opened >= FEWEST_OF_VOICE and opened > MOSTLY_OPEN * (opened + closed):
        names[Instrument.HIHAT_OPEN] = Instrument.HIHAT_CLOSED
    bells, rides = count[Instrument.RIDE_BELL], count[Instrument.RIDE]
    if bells >= FEWEST_OF_VOICE and bells > rides:
        names[Instrument.RIDE_BELL] = Instrument.RIDE
    if (
        count[Instrument.TOM_MID]
        and count[Instrument.TOM_HIGH] <= STRAY_SHARE * count[Instrument.TOM_MID]
    ):
        names[Instrument.TOM_MID] = Instrument.TOM_HIGH
    return names


FEWEST_OF_VOICE = 12
"""Strokes: of a voice with fewer nothing is said by its share."""

MOSTLY_OPEN = 0.8
"""Of the struck hats: beyond it they are a loose pair. On songs that nobody here made this and the
two rules beside it lift labels from .785 to .825 (measured outside; docs/measurements.md)."""

STRAY_SHARE = 0.1
"""Strokes of a high tom that are so few beside the middle one are slips of its name."""


def margin(onsets: Sequence[Onset], song: HeardSong, name: Instrument, rival: Instrument) -> float:
    """By how much the network takes the strokes of a name rather for that than for a rival: the
    mean difference of log odds; 0 without strokes.
    """
    times = np.array([onset.time for onset in onsets if onset.instrument is name])
    if not len(times):
        return 0.0
    there = logit(strongest_near(song, times, REACH_FRAMES))
    one, other = (song.classes.index(drum) for drum in (name, rival))
    return float(np.mean(there[:, one] - there[:, other]))


def renamed(
    onsets: Sequence[Onset], names: Mapping[Instrument, Instrument], reason: str = "fading"
) -> list[Onset]:
    """The strokes by their new names, in order; of two strokes of one drum or of one pair of hats
    at once, the surer one.

    reason : why, see `orchesis.listening.decide`.
    """
    if not names:
        return list(onsets)
    called = [
        replace(onset, instrument=names[onset.instrument], reason=reason)
        if onset.instrument in names
        else onset
        for onset in onsets
    ]
    kept: list[Onset] = []
    for onset in called:
        rival = _same_stroke(onset, kept)
        if rival is None:
            kept.append(onset)
        elif kept[rival].confidence < onset.confidence:
            kept[rival] = onset
    return kept


def _same_stroke(onset: Onset, kept: Sequence[Onset]) -> int | None:
    """The place of the stroke before it that is the same one of a pair of hats; None without."""
    for place in reversed(range(len(kept))):
        other = kept[place]
        if onset.time - other.time >= RIVAL_SECONDS:
            return None
        if not {"fading", "share"} & {onset.reason, other.reason}:
            continue
        both = {onset.instrument, other.instrument}
        if both <= STRUCK_HATS or len(both) == 1:
            return place
    return None


def name_of(name: Instrument, fades: Values, onsets: Sequence[Onset], bars: int) -> Instrument:
    """What the strokes of a name are called, by how fast they fade in the middle.

    Parameters
    ----------
    fades : shape (n,), decibels a second, nan where not known. onsets : n strokes. bars : at least
        0.
    """
    mine = np.array([onset.instrument is name for onset in onsets], bool)
    known = fades[mine & ~np.isnan(fades)]
    if len(known) < FEWEST:
        return name
    fade = float(np.median(known))
    if name is Instrument.HIHAT_OPEN:
        return Instrument.HIHAT_CLOSED if fade >= LOOSE_SHUTS else name
    if name is Instrument.CRASH and mine.sum() >= RIDDEN * max(1, bars) and fade >= CRASH_FADES:
        return Instrument.HIHAT_CLOSED if fade >= HAT_SHUTS else Instrument.HIHAT_OPEN
    return name
