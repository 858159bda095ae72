"""Grace notes: flams, drags and buzzes, as the ear's curves show them around a stroke.

Nobody's hands play one drum twice within 50 ms in time: a soft stroke that close before a firmer
one is its grace note, two are a drag, and a few ever softer ones right after it are the bounces of
a buzz. They are marked on the stroke that they belong to and are no strokes of their own. Two
strokes 20 ms apart are one peak to a picker that keeps peaks apart, but the curve is plainly wider
before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Onset
from orchesis.music.instruments import TOMS, Instrument, Ornament

Curve = npt.NDArray[np.float32]

GRACED = frozenset({Instrument.SNARE, *TOMS})
"""Drums on which grace notes are played."""

LEAST = 0.3
"""Height of the curve that is a grace note, three to five frames before the stroke: without one it
is .01 there on average. This and what follows were chosen on composed songs of kits that were
trained on, for few false ones (docs/measurements.md)."""

LEAST_AT_ONCE = 0.4
"""... and two frames before it, where the stroke itself begins to show."""

SOFTER = 0.6
"""A grace note is at most so loud, as a share of its stroke."""

FLAM_SECONDS, DRAG_SECONDS, BUZZ_SECONDS = 0.06, 0.115, 0.2


def with_graces(
    onsets: Sequence[Onset],
    curves: Curve,
    loudness: Curve,
    classes: Sequence[Instrument],
    frame_rate: float,
) -> list[Onset]:
    """The strokes with their ornaments, without the grace notes themselves.

    Parameters
    ----------
    onsets : the strokes, grace notes among them.
    curves, loudness : shape (frames, classes), 0 to 1.
    classes : the drums of the columns.
    frame_rate : frames a second.

    Returns
    -------
    The strokes that stay, in order of time.
    """
    marked: list[Onset] = []
    swallowed: dict[Instrument, list[tuple[float, float]]] = {}
    for onset in onsets:
        found: Ornament | None = None
        if onset.instrument in GRACED:
            column = classes.index(onset.instrument)
            frame = round(onset.time * frame_rate)
            found = ornament_at(frame, curves[:, column], loudness[:, column])
        if found is None:
            marked.append(onset)
            continue
        marked.append(replace(onset, ornament=found))
        before = DRAG_SECONDS if found is Ornament.DRAG else FLAM_SECONDS
        span = (
            (onset.time, onset.time + BUZZ_SECONDS)
            if found is Ornament.BUZZ
            else (onset.time - before, onset.time)
        )
        swallowed.setdefault(onset.instrument, []).append(span)
    return [
        onset
        for onset in marked
        if not any(start < onset.time < end for start, end in swallowed.get(onset.instrument, ()))
    ]


def ornament_at(frame: int, curve: Curve, loudness: Curve) -> Ornament | None:
    """What decorates the stroke at a frame of its drum's curve.

    Parameters
    ----------
    frame : of the stroke.
    curve, loudness : of its drum, shape (frames,), 0 to 1.

    Returns
    -------
    The ornament, or None.
    """
    if not 0 < frame < len(curve):
        return None
    firm = float(loudness[max(0, frame - 1) : frame + 2].max())
    near = _grace(curve, loudness, frame - 5, frame - 2, firm, LEAST)
    if near is None:
        near = _grace(curve, loudness, frame - 2, frame - 1, firm, LEAST_AT_ONCE)
    if near is not None:
        farther = _grace(curve, loudness, near - 5, near - 2, firm, LEAST)
        return Ornament.FLAM if farther is None else Ornament.DRAG
    bounce = _grace(curve, loudness, frame + 3, frame + 6, firm, LEAST)
    if bounce is None:
        return None
    again = _grace(curve, loudness, bounce + 3, bounce + 6, float(loudness[bounce]), LEAST)
    return None if again is None else Ornament.BUZZ


def _grace(
    curve: Curve, loudness: Curve, first: int, last: int, firm: float, least: float
) -> int | None:
    """The frame from `first` to before `last` that shows a softer stroke, or None."""
    first, last = max(0, first), min(len(curve), last)
    if last <= first:
        return None
    frame = first + int(np.argmax(curve[first:last]))
    if curve[frame] < least or loudness[frame] > SOFTER * firm:
        return None
    # A flank is no grace note: of a stroke farther away, as in a fast roll, or of the stroke itself
    # where it lies between two frames.
    before = curve[frame - 1] if frame else 0.0
    after = curve[frame + 1] if frame + 1 < len(curve) else 0.0
    return frame if curve[frame] >= max(before, after) else None
