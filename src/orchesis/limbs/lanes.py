"""Lanes: which limb's line a drum is shown on, written or only heard."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from orchesis.limbs.assign import foot_of
from orchesis.music.instruments import CYMBALS, FEET, TIMEKEEPERS, Instrument, Limb
from orchesis.music.values import Hit

Strengths = npt.NDArray[np.float64]

LIMB_NAMES: dict[Limb, str] = {
    Limb.RIGHT_HAND: "right hand",
    Limb.LEFT_HAND: "left hand",
    Limb.RIGHT_FOOT: "right foot",
    Limb.LEFT_FOOT: "left foot",
}

PLAYED_BY: dict[Limb, tuple[Instrument, ...]] = {
    Limb.RIGHT_HAND: (
        Instrument.HIHAT_CLOSED,
        Instrument.HIHAT_OPEN,
        Instrument.RIDE,
        Instrument.RIDE_BELL,
        Instrument.CRASH,
        Instrument.TOM_FLOOR,
        Instrument.SNARE,
    ),
    Limb.LEFT_HAND: (
        Instrument.SNARE,
        Instrument.CROSS_STICK,
        Instrument.TOM_HIGH,
        Instrument.TOM_MID,
        Instrument.TOM_FLOOR,
        Instrument.HIHAT_CLOSED,
        Instrument.CRASH,
    ),
    Limb.RIGHT_FOOT: (Instrument.KICK,),
    Limb.LEFT_FOOT: (Instrument.HIHAT_FOOT, Instrument.HIHAT_SPLASH),
}
"""What a limb can play, the likeliest first: one key writes the first of them."""


def lane_of(instrument: Instrument) -> Limb:
    """The lane in which a drum is expected where no note says otherwise."""
    if instrument in FEET:
        return foot_of(instrument)
    right = instrument in TIMEKEEPERS or instrument in CYMBALS
    return Limb.RIGHT_HAND if right else Limb.LEFT_HAND


def lane_strengths(
    positions: Sequence[str], heard: Strengths, drums: Sequence[Instrument], hits: Sequence[Hit]
) -> dict[Limb, Strengths]:
    """How strongly something was heard in each cell of a bar, by the lane where it would be shown.

    Parameters
    ----------
    positions : the cells' places in the bar, as fractions in words.
    heard : shape (cells, drums), 0 to 1, as `cell_strengths` gives it.
    drums : what the columns of `heard` are.
    hits : what is written in the bar: a drum that another limb plays is shown where it is written.

    Returns
    -------
    Of each limb an array of shape (cells,), 0 to 1.
    """
    lanes = {limb: np.zeros(len(positions)) for limb in Limb}
    for column, instrument in enumerate(drums):
        lane = lanes[lane_of(instrument)]
        np.maximum(lane, heard[:, column], out=lane)
    place_of = {position: index for index, position in enumerate(positions)}
    for hit in hits:
        index = place_of.get(str(hit.position))
        if index is None or hit.limb is None or hit.instrument not in drums:
            continue
        value = heard[index, list(drums).index(hit.instrument)]
        lanes[hit.limb][index] = max(lanes[hit.limb][index], value)
    return lanes
