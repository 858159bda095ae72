"""What a song's plates are called, decided once for all of their strokes.

On recorded kits that the networks have never heard most wrong names are wrong all song long: of
crashes struck once a bar and more nearly all were hats, of "open" hats half of the groups closed
ones of a loose pair (docs/measurements.md). What tells them apart needs no lesson: a crash goes on
for seconds, an open hat for some tenths, a closed one not at all. So where the strokes of one name
fade, in the middle, as that name cannot, all of them get the name that fades so; of open hats only
where the network itself is not sure.
"""

from __future__ import annotations

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


def renamed(onsets: Sequence[Onset], names: Mapping[Instrument, Instrument]) -> list[Onset]:
    """The strokes by their new names, in order; of two strokes of one pair of hats at once, the
    surer one.
    """
    if not names:
        return list(onsets)
    called = [
        replace(onset, instrument=names[onset.instrument], reason="fading")
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
        if "fading" in (onset.reason, other.reason) and (
            {onset.instrument, other.instrument} <= STRUCK_HATS
        ):
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
