"""Swing: how much longer the first of two equal-looking notes lasts than the second.

A ratio of 1.0 is straight, 2.0 is the triplet feel; measured from where the off-beat strokes
fall between the beats (Friberg and Sundstroem, "Swing ratios and ensemble timing in jazz
performance", Music Perception 2002). Eighths swing when the strokes between beats lean late and
hardly any fall in the middle; sixteenths swing within the eighths.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from orchesis.music.values import Feel

SWUNG_FROM = 1.25
"""Below this ratio triplets would say more swing than there is."""

MOST_SWING = 2.9
"""Above it the off-beat would come after an even last sixteenth."""

FEWEST_PAIRS = 8
"""With fewer pairs no ratio is given."""

SWUNG_SHARE = 3.0
"""Late off-beats must outnumber those in the middle by this factor to be swung eighths."""

SHUFFLED_SHARE = 3.0
"""And those on the middle third: where ghost notes fill it the song is written in triplets."""


def swing_from_phases(phases: Sequence[float]) -> Feel:
    """Swing of eighths and sixteenths from places within the beat (0 to 1) of all strokes."""
    place = np.asarray(phases, dtype=float)
    middle = place[(place > 0.44) & (place < 0.56)]
    # Up to 0.72: a straight sixteenth falls at 0.75 and is no late eighth.
    late = place[(place >= 0.56) & (place < 0.72)]
    early = place[(place > 0.27) & (place < 0.40)]
    swung = len(late) >= FEWEST_PAIRS and len(late) > SWUNG_SHARE * len(middle)
    if swung and len(late) > SHUFFLED_SHARE * len(early):
        return Feel(swing_8=_ratio(float(np.median(late))), swing_16=None)
    swing_8 = _ratio(float(np.median(middle))) if len(middle) >= FEWEST_PAIRS else None
    sixteenths = int(
        (((place > 0.18) & (place <= 0.27)) | ((place >= 0.72) & (place < 0.90))).sum()
    )
    thirds = len(late) + len(early)
    if len(late) >= FEWEST_PAIRS and len(late) > len(early) / 2 and thirds > sixteenths:
        # Strokes on both thirds are triplets; sixteenths that swing come after the first and late
        # after the middle.
        return Feel(swing_8=swing_8, swing_16=None)
    offs = np.concatenate(
        [
            2 * place[(place > 0.18) & (place < 0.40)],
            2 * place[(place > 0.68) & (place < 0.90)] - 1.0,
        ]
    )
    swing_16 = _ratio(float(np.median(offs))) if len(offs) >= FEWEST_PAIRS else None
    return Feel(swing_8=swing_8, swing_16=swing_16)


def _ratio(place: float) -> float:
    return place / (1.0 - place)


def warp(place: float, feel: Feel) -> float:
    """Where a written place within the beat (0 to 1) sounds under this feel.

    Sixteenths are even where eighths swing: a stroke on the middle third is a triplet there.
    """
    half = _share(feel.swing_8)
    quarter = _share(feel.swing_16)
    if SWUNG_FROM <= (feel.swing_8 or 1.0) < MOST_SWING and feel.swing_16 is None:
        knots = [0.0, 0.25, half, 0.75, 1.0]
    else:
        knots = [0.0, half * quarter, half, half + (1.0 - half) * quarter, 1.0]
    return float(np.interp(place, [0.0, 0.25, 0.5, 0.75, 1.0], knots))


def _share(ratio: float | None) -> float:
    return 0.5 if ratio is None else ratio / (1.0 + ratio)
