"""Windows of clips changed and mixed while a network learns: other kits, other bands, two drummers.

All of it works on features, so that each pass over a clip is another clip.
"""

from __future__ import annotations

import numpy as np

from orchesis.listening.features import (
    BANDS,
    BANDS_PER_OCTAVE,
    LOW_BANDS,
    LOW_LOWEST_HZ,
    band_centres,
)
from training.fluid import RATE


def normalised(level: np.ndarray) -> np.ndarray:
    """Log10 magnitudes relative to the clip's own loud frames: 0 is 60 dB below them, 1 at them.

    The same as `orchesis.listening.network_ear.normalised`: change both or none.
    """
    top = np.percentile(level[:, :BANDS].max(axis=1).astype(np.float32), 99)
    return np.clip((level.astype(np.float32) - top) / 3.0 + 1.0, 0.0, 1.4)


def placed() -> np.ndarray:
    """Where each input lies among the bands, 0 to BANDS - 1: the low end has places in between."""
    centres = band_centres(RATE)
    low = LOW_LOWEST_HZ * 2.0 ** (np.arange(LOW_BANDS) / BANDS_PER_OCTAVE)
    return np.concatenate([np.arange(BANDS), np.interp(low, centres, np.arange(BANDS))])


PLACES = placed()


def as_another_kit(piece: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The same strokes through another kit and room, roughly: level, range and a random equaliser.

    A stretched range makes everything ring longer or shorter (a decay is a straight line in log
    magnitude); the equaliser is a smooth curve through a few random levels. Empty cells stay so.
    """
    if rng.random() < 0.6:
        piece = 1.0 - (1.0 - piece) * rng.uniform(0.8, 1.25)
    knots = int(rng.integers(4, 9))
    places = np.linspace(0, BANDS - 1, knots)
    curve = np.interp(PLACES, places, rng.normal(0, rng.uniform(0.02, 0.1), knots))
    tilt = (2 * PLACES / (BANDS - 1) - 1) * rng.normal(0, 0.06)
    return np.where(piece > 0.02, piece + rng.normal(0, 0.03) + curve + tilt, 0.0)


def powers(piece: np.ndarray, gain: float = 0.0) -> np.ndarray:
    """Features as powers, so many powers of ten of magnitude louder."""
    return 10 ** (6.0 * (piece - 1.0) + 2 * gain)


def levelled(power: np.ndarray) -> np.ndarray:
    """Powers as features, by the window's own loud frames."""
    return normalised(0.5 * np.log10(power + 1e-6))


def remixed(
    own: np.ndarray, own_share: np.ndarray, other: np.ndarray, other_share: np.ndarray, gain: float
) -> tuple[np.ndarray, np.ndarray]:
    """The drums of one window with the rest of another, by the masks; features and new mask.

    Random mixing, as in the separation of sources (Uhlich et al. 2017): powers add. `gain` in
    powers of ten of the other's magnitudes. All arrays are (frames, inputs); features as
    `normalised` makes them.
    """
    drums = powers(own) * own_share
    rest = powers(other, gain) * (1.0 - other_share)
    return levelled(drums + rest), drums / (drums + rest + 1e-9)


def overlaid(
    own: np.ndarray, own_share: np.ndarray, other: np.ndarray, other_share: np.ndarray, gain: float
) -> tuple[np.ndarray, np.ndarray]:
    """Two windows at once: features and mask of both. `gain` and shapes as in `remixed`.

    Between-class learning (Tokozume et al., ICLR 2018) for events: powers add, and labels join.
    """
    one, two = powers(own), powers(other, gain)
    return levelled(one + two), (one * own_share + two * other_share) / (one + two + 1e-9)


def joined(own: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Marks of both windows, (frames, classes): a stroke is asked for if either has it (1), and
    neither asked for nor forbidden if one has it covered (2) and the other has none.
    """
    return np.where((own == 1) | (other == 1), 1, np.maximum(own, other)).astype(own.dtype)
