"""Where fills land: a beat on which time is kept again after snare and toms have led to it.

Drummers fill towards the one. Of all that tells beats apart this is among the surest, and it speaks
where the groove itself is the same from half bar to half bar.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Heard, Onset
from orchesis.music.instruments import TIMEKEEPERS, TOMS, Instrument

FILLING = TOMS | {Instrument.SNARE}
AROUND = 16
"""Beats on either side that say what is usual."""

USUAL = 75
"""Percentile of the strokes a beat: a backbeat has them on every other."""

LONGEST = 8
"""Beats: what goes on for longer is a groove on the toms."""

PLAIN = 4.0
"""Strokes beyond what is usual that make a fill plain."""

EARLY = 0.04
"""Seconds by which a stroke may come before the beat that it belongs to."""

Levels = npt.NDArray[np.float64]


def landings(heard: Heard, beats: npt.NDArray[np.float64]) -> Levels:
    """How plainly a fill ends on each beat.

    Parameters
    ----------
    heard : its strokes.
    beats : shape (beats,), seconds, ascending.

    Returns
    -------
    Shape (beats,), 0 to 1.
    """
    count = len(beats)
    found = np.zeros(count)
    if count < 2 * AROUND:
        return found
    filling = _a_beat(beats, (o for o in heard.onsets if o.instrument in FILLING))
    steady = _a_beat(beats, (o for o in heard.onsets if o.instrument in TIMEKEEPERS))
    extra, gone = np.zeros(count), np.zeros(count, bool)
    for beat in range(count):
        near = slice(max(0, beat - AROUND), beat + AROUND + 1)
        extra[beat] = filling[beat] - np.percentile(filling[near], USUAL)
        gone[beat] = steady[beat] < 0.5 * np.median(steady[near])
    fills = (extra >= 1) & (gone | (extra >= 2))
    beat = 0
    while beat < count:
        if not fills[beat]:
            beat += 1
            continue
        end = beat
        while end < count and fills[end]:
            end += 1
        # Time must be kept again: what the song ends with lands nowhere.
        if end - beat <= LONGEST and end < count and steady[end] + filling[end] > 0:
            found[end] = min(1.0, extra[beat:end].sum() / PLAIN)
        beat = end
    return found


def changes_of_half(landed: Levels) -> int:
    """How often a fill lands half a bar of four off from where the one before made one expect it.

    Parameters
    ----------
    landed : shape (beats,), as `landings` gives it.

    Returns
    -------
    How many times. A single extra half bar changes it once; in bars of two beats it changes
    whenever there is an odd number of them between two fills.
    """
    places = np.flatnonzero(landed >= 1.0)
    return int((np.diff(places) % 4 == 2).sum())


def _a_beat(beats: npt.NDArray[np.float64], onsets: Iterable[Onset]) -> Levels:
    """Strokes from each beat to the next."""
    times = np.array([onset.time for onset in onsets])
    index = np.searchsorted(beats, times + EARLY, side="right") - 1
    return np.bincount(index[index >= 0], minlength=len(beats)).astype(float)
