"""Candidates: every peak of the network's curves that might be a stroke, weak ones too.

The first pass keeps those that the network alone is sure of; the second looks at all of them again,
with the song in mind; relearning looks at them once more, with the user's corrections in mind.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from orchesis.listening.peaks import pick_peaks

Floats = npt.NDArray[np.float32]
Indices = npt.NDArray[np.int32]

FLOOR = 0.06
"""Peaks lower than this are not looked at again: of them hardly one in a hundred is a stroke."""

DEAD_FRAMES = 2
"""Two strokes of one drum are at least 30 ms apart: a drag's grace notes still are two."""


@dataclass(frozen=True, slots=True)
class Candidates:
    """A table of n peaks, in order of time.

    frame, column : shape (n,), where the peak is: its frame, and its class's column.
    time : shape (n,), seconds, finer than a frame.
    peak, loudness : shape (n,), 0 to 1.
    """

    frame: Indices
    column: Indices
    time: npt.NDArray[np.float64]
    peak: Floats
    loudness: Floats

    def __len__(self) -> int:
        return len(self.frame)


def find_candidates(
    onsets: Floats, loudness: Floats, frame_rate: float, floor: float = FLOOR
) -> Candidates:
    """All peaks of all classes; both curves have shape (frames, classes)."""
    frames, columns, times = [], [], []
    last = len(onsets) - 1
    for column in range(onsets.shape[1]):
        curve = onsets[:, column]
        peaks = pick_peaks(
            curve, half_width=DEAD_FRAMES, above_mean=0.0, mean_width=5, floor=floor
        ).astype(np.int32)
        # The centre of gravity of three frames: 3 ms off where a frame is 10.
        near = np.clip(peaks[:, None] + np.array([-1, 0, 1]), 0, last)
        weight = curve[near]
        times.append((weight * near).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-9))
        frames.append(peaks)
        columns.append(np.full(len(peaks), column, np.int32))
    frame, column_of = np.concatenate(frames), np.concatenate(columns)
    time = np.concatenate(times) / frame_rate
    order = np.argsort(time, kind="stable")
    frame, column_of = frame[order], column_of[order]
    return Candidates(
        frame=frame,
        column=column_of,
        time=np.maximum(0.0, time[order]),
        peak=onsets[frame, column_of].astype(np.float32),
        loudness=loudness[frame, column_of].astype(np.float32),
    )


def logit(share: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Log odds of shares from 0 to 1, bounded.

    Parameters
    ----------
    share : 0 to 1, any shape.

    Returns
    -------
    Of the same shape, about -7 to 7.
    """
    bounded = np.clip(np.asarray(share, dtype=np.float64), 1e-3, 1 - 1e-3)
    return np.asarray(np.log(bounded / (1 - bounded)), dtype=np.float64)
