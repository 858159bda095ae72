"""From probabilities to strokes: what is kept, and which of two rivals."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from orchesis.listening.candidates import Candidates, logit
from orchesis.listening.ear import Onset
from orchesis.listening.second_pass import sigmoid
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

ONE_STROKE: tuple[frozenset[Instrument], ...] = (
    frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN, Instrument.HIHAT_FOOT}),
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK}),
    frozenset({Instrument.RIDE, Instrument.RIDE_BELL, Instrument.CRASH}),
    TOMS,
)
LEAST_MASS = 0.38
"""A stroke is written where some drum of its family was struck with at least this probability:
half of the F that is reached (Lipton, Elkan and Narayanaswamy, "Optimal thresholding of classifiers
to maximize F1 measure", ECML 2014)."""

LEAST_OF_LIKELIEST = 0.3
"""... as the likeliest drum of the family, if that is as likely as this. Both chosen on composed
songs of kits that were trained on, for the right family first (docs/measurements.md)."""

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
    probability, threshold : shape (n,): how likely each is, and the least that counts; the
        likeliest of a family counts by LEAST_MASS.
    reasons : n words, see `Onset`.
    """
    chosen: list[Onset] = []
    mass, likeliest = family_mass(found, probability, classes)
    least = np.where(likeliest, LEAST_OF_LIKELIEST, threshold)
    likely = (probability >= least) & (mass >= LEAST_MASS)
    for index in np.flatnonzero(likely).tolist():
        onset = Onset(
            time=float(found.time[index]),
            instrument=classes[int(found.column[index])],
            loudness=float(found.loudness[index]),
            confidence=float(probability[index]),
            reason=reasons[index] if reasons else "network",
        )
        chosen.append(onset)
    # Surest first; those kept lie in bins as wide as rivals reach, so that few are compared.
    kept: dict[int, list[Onset]] = defaultdict(list)
    for onset in sorted(chosen, key=lambda item: -item.confidence):
        place = int(onset.time / RIVAL_SECONDS)
        near = (other for at in (place - 1, place, place + 1) for other in kept.get(at, ()))
        if not any(_rivals(onset, other) for other in near):
            kept[place].append(onset)
    return sorted((onset for bin_ in kept.values() for onset in bin_), key=lambda item: item.time)


def as_winners(onsets: Iterable[Onset], won: float) -> list[Onset]:
    """Kept strokes with the confidence that they have as such.

    A candidate's probability is that of a candidate. What is kept has won over its rivals and its
    family speaks for it: of strokes said to be .55 sure .66 were there (docs/measurements.md).

    Parameters
    ----------
    won : what to add to the log odds, fitted on songs by `training.winners`; see `Judge`.
    """
    return [
        replace(onset, confidence=float(sigmoid(logit(np.array(onset.confidence)) + won)))
        for onset in onsets
    ]


def family_mass(
    found: Candidates, probability: npt.NDArray[np.float64], classes: Sequence[Instrument]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.bool_]]:
    """How likely it is that any drum of its family was struck where each candidate is.

    A hat of which it is open whether it was closed or foot is still a hat; a faint foot hat with
    nothing else for it is not.

    Parameters
    ----------
    found : n candidates.
    probability : shape (n,), 0 to 1, of each by itself.
    classes : the drums of `found.column`.

    Returns
    -------
    The mass, shape (n,), 0 to 1; and which are the likeliest of a family of several, shape (n,).
    """
    alone = len(ONE_STROKE)
    kin = [next((k for k, f in enumerate(ONE_STROKE) if name in f), alone) for name in classes]
    family = np.array(kin)[found.column]
    absent = 1.0 - probability
    likeliest = family < alone
    for index in range(len(found)):
        other = index - 1
        while other >= 0 and found.time[index] - found.time[other] < RIVAL_SECONDS:
            if family[other] == family[index] < alone:
                absent[index] *= 1.0 - probability[other]
                absent[other] *= 1.0 - probability[index]
                likeliest[index if probability[other] >= probability[index] else other] = False
            other -= 1
    return np.asarray(1.0 - absent), likeliest


def _rivals(one: Onset, other: Onset) -> bool:
    return (
        abs(one.time - other.time) < RIVAL_SECONDS
        and one.instrument is not other.instrument
        and any(one.instrument in pair and other.instrument in pair for pair in RIVALS)
    )
