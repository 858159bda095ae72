"""From probabilities to strokes: what is kept, and which of two rivals."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from orchesis.listening.candidates import Candidates
from orchesis.listening.ear import Onset
from orchesis.music.instruments import TOMS, Instrument

RIVALS: tuple[frozenset[Instrument], ...] = (
    frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN}),
    frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_FOOT}),
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK}),
    frozenset({Instrument.RIDE, Instrument.RIDE_BELL}),
    frozenset({Instrument.RIDE, Instrument.HIHAT_CLOSED}),
    frozenset({Instrument.RIDE, Instrument.HIHAT_OPEN}),
    TOMS,
)
"""Drums of which one stroke sounds like the other, or that one hand plays: of two at once the surer
one is kept."""

RIVAL_SECONDS = 0.025


def keep(
    found: Candidates,
    probability: npt.NDArray[np.float64],
    threshold: npt.NDArray[np.float64],
    classes: Sequence[Instrument],
    reasons: Sequence[str] | None = None,
) -> list[Onset]:
    """The strokes among the candidates, in order of time.

    Parameters
    ----------
    probability, threshold : shape (n,): how likely each is, and the least that counts.
    reasons : n words, see `Onset`.
    """
    chosen: list[tuple[float, Onset]] = []
    for index in np.flatnonzero(probability >= threshold).tolist():
        onset = Onset(
            time=float(found.time[index]),
            instrument=classes[int(found.column[index])],
            loudness=float(found.loudness[index]),
            confidence=float(probability[index]),
            reason=reasons[index] if reasons else "network",
        )
        chosen.append((float(probability[index] - threshold[index]), onset))
    # Surest first; those kept lie in bins as wide as rivals reach, so that few are compared.
    kept: dict[int, list[Onset]] = defaultdict(list)
    for _, onset in sorted(chosen, key=lambda item: -item[0]):
        place = int(onset.time / RIVAL_SECONDS)
        near = (other for at in (place - 1, place, place + 1) for other in kept.get(at, ()))
        if not any(_rivals(onset, other) for other in near):
            kept[place].append(onset)
    return sorted((onset for bin_ in kept.values() for onset in bin_), key=lambda item: item.time)


def _rivals(one: Onset, other: Onset) -> bool:
    return (
        abs(one.time - other.time) < RIVAL_SECONDS
        and one.instrument is not other.instrument
        and any(one.instrument in pair and other.instrument in pair for pair in RIVALS)
    )
