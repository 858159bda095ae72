"""Lining up two recordings of one song: offset, constant difference of speed, and drift.

Attacks in three bands are compared at every speed within reach by cross-correlation, which gives a
first line; then stretches of a few seconds are compared near that line, finer than a frame, and a
robust line is laid through what they say (Theil 1950, Sen 1968). How many stretches agree, and how
well, tells whether it is the same performance, another take, or another song. (Coarse to fine after
Dannenberg and Hu, "Polyphonic audio matching for score following and intelligent audio editors",
ICMC 2003.)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.fft import irfft, next_fast_len, rfft
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

from orchesis.audio.decode import Samples
from orchesis.errors import OrchesisError
from orchesis.listening.ear import Bands
from orchesis.listening.features import HOP, band_spectrogram

Curves = npt.NDArray[np.float64]

SPEEDS = np.round(np.arange(-0.06, 0.0601, 0.001), 4)
"""Differences of speed that are tried: transfers and tapes are within a semitone."""

STRETCH_SECONDS, STEP_SECONDS = 8.0, 4.0
REACH_SECONDS = 0.3
AGREES_SECONDS = 0.025
LEAST_AGREEING = 0.45
"""Share of the stretches that must agree for it to be the same performance."""

LEAST_LIKENESS = 0.2
"""A stretch whose attacks are less alike than this says nothing."""

FEWEST_STRETCHES = 4
LEAST_ALIKE = 0.3
"""Median likeness of attacks along the line: two songs whose tempi fit stay below 0.2, a band and
its drums alone reach 0.6."""


class NotTheSameSong(OrchesisError):
    """The two recordings do not go together."""


@dataclass(frozen=True, slots=True)
class LineUp:
    """Where a moment of the first recording is in the second: offset + speed * time, in seconds.

    error : median distance of the stretches from that line, seconds. agreeing : share of them
    within AGREES_SECONDS. drift : the largest distance over half a minute, seconds. knots : of
    another performance, moments of both recordings that belong together; the line is then only
    their trend, and `agreeing` how alike the attacks are there.
    """

    offset: float
    speed: float
    error: float
    agreeing: float
    drift: float
    knots: tuple[tuple[float, float], ...] = ()

    def there(self, time: float) -> float:
        """The second recording's time for a time of the first, in seconds."""
        return float(self.all_there(np.array([time]))[0])

    def all_there(self, times: Curves) -> Curves:
        """The same for many times; beyond the knots it goes on at the trend's pace.

        Parameters
        ----------
        times : shape (n,), seconds of the first.

        Returns
        -------
        Shape (n,), seconds of the second.
        """
        if not self.knots:
            return np.asarray(self.offset + self.speed * times)
        mine, theirs = np.array(self.knots).T
        inside = np.interp(times, mine, theirs)
        beyond = np.minimum(times - mine[0], 0.0) + np.maximum(times - mine[-1], 0.0)
        return np.asarray(inside + self.speed * beyond)

    @property
    def words(self) -> str:
        """The fit in a sentence."""
        if self.knots:
            mine, theirs = np.array(self.knots).T
            paces = np.diff(mine) / np.diff(theirs)
            low, high = np.percentile(paces, [5, 95])
            return (
                f"another performance, {self.agreeing:.0%} alike, followed from place to place: it "
                f"runs at {low:.0%} to {high:.0%} of the song's tempo, and at the song's own it "
                "sounds higher or lower by as much"
            )
        parts = [f"fits to {1000 * self.error:.0f} ms"]
        if abs(self.speed - 1) > 0.0002:
            slower = "slower" if self.speed > 1 else "faster"
            parts.append(f"{abs(self.speed - 1):.1%} {slower}")
        if abs(self.offset) > 0.005:
            later = "later" if self.offset > 0 else "earlier"
            parts.append(f"begins {abs(self.offset):.2f} s {later}")
        if self.drift > 2 * AGREES_SECONDS:
            parts.append(f"drifts by up to {1000 * self.drift:.0f} ms")
        return ", ".join(parts)


def attacks(samples: Samples, sample_rate: int) -> Curves:
    """Attack strength in low, middle and high bands.

    Parameters
    ----------
    samples : shape (n,), mono.
    sample_rate : Hz.

    Returns
    -------
    Shape (3, frames), each of unit spread.
    """
    return attacks_of(band_spectrogram(samples, sample_rate, lambda share: None))


def attacks_of(bands: Bands) -> Curves:
    """The same of a spectrogram.

    Parameters
    ----------
    bands : shape (frames, bands), magnitudes.

    Returns
    -------
    Shape (3, frames), each of unit spread.
    """
    level = np.log10(1e-4 + bands / max(1e-6, float(np.percentile(bands.max(axis=1), 99))))
    rise = np.maximum(0.0, level[2:] - level[:-2])
    rise = np.concatenate([np.zeros((2, rise.shape[1])), rise])
    parts = np.array_split(np.arange(rise.shape[1]), 3)
    curves = np.stack([rise[:, part].mean(axis=1) for part in parts])
    # What stands out of its surroundings: sustained noise and loudness drop out.
    curves -= uniform_filter1d(curves, 51, axis=1)
    curves = np.clip(curves, 0.0, None)
    return np.asarray(curves / (curves.std(axis=1, keepdims=True) + 1e-9))


def line_up(one: Samples, other: Samples, sample_rate: int) -> LineUp:
    """Find where the second recording has what the first has.

    Parameters
    ----------
    one, other : shape (n,), mono.
    sample_rate : Hz, of both.

    Returns
    -------
    Offset and speed of the second against the first.

    Raises
    ------
    NotTheSameSong
        Where too little agrees.
    """
    rate = sample_rate / HOP
    first, second = attacks(one, sample_rate), attacks(other, sample_rate)
    offset, speed = _coarse(first, second, rate)
    line = (offset, speed)
    times = lags = np.empty(0)
    for reach in (REACH_SECONDS, 0.08):
        times, lags = _stretches(first, second, rate, line, reach)
        if len(times) < FEWEST_STRETCHES:
            raise NotTheSameSong(
                "this recording has too little in common with the song to be lined up with it"
            )
        line = _robust_line(times, lags)
    gaps = np.abs(lags - (line[0] + line[1] * times))
    agreeing = float((gaps < AGREES_SECONDS).mean())
    possible = max(1, int((first.shape[1] / rate - STRETCH_SECONDS) / STEP_SECONDS))
    agreeing *= min(1.0, len(times) / (0.6 * possible))
    if agreeing < LEAST_AGREEING:
        raise NotTheSameSong(
            "this recording does not run along with the song: another song, or another performance"
        )
    if (likeness := _likeness(first, second, rate, line)) < LEAST_ALIKE:
        raise NotTheSameSong(
            f"this recording keeps the same time, but its attacks are not the song's "
            f"({likeness:.2f} alike; {LEAST_ALIKE:.2f} are needed): another song at a like tempo"
        )
    calm = uniform_filter1d(lags - (line[0] + line[1] * times), min(7, len(times)))
    near = gaps[gaps < AGREES_SECONDS]
    return LineUp(
        offset=float(line[0]),
        speed=float(line[1]),
        error=float(np.median(near)),
        agreeing=agreeing,
        drift=float(np.abs(calm).max()),
    )


def _coarse(first: Curves, second: Curves, rate: float) -> tuple[float, float]:
    """Offset in seconds and speed, by cross-correlation at every speed of SPEEDS."""
    smooth = gaussian_filter1d(first, 3, axis=1)
    size = next_fast_len(smooth.shape[1] + int(second.shape[1] * 1.08) + 8)
    spectrum = rfft(smooth, size, axis=1).conj()
    places = np.arange(second.shape[1])
    best = (-np.inf, 0.0, 1.0)
    for difference in SPEEDS:
        speed = 1.0 + float(difference)
        # Second's frames at the first one's pace: frame k is at k * speed.
        count = int(second.shape[1] / speed)
        at = np.arange(count) * speed
        paced = np.stack([np.interp(at, places, curve) for curve in second])
        paced = gaussian_filter1d(paced, 3, axis=1)
        likeness = irfft(spectrum * rfft(paced, size, axis=1), size, axis=1).sum(axis=0)
        lag = int(np.argmax(likeness))
        if likeness[lag] > best[0]:
            frames = lag if lag < count else lag - size
            best = (float(likeness[lag]), frames * speed / rate, speed)
    return best[1], best[2]


def _stretches(
    first: Curves, second: Curves, rate: float, line: tuple[float, float], reach: float
) -> tuple[Curves, Curves]:
    """Middles of stretches of the first, and where each is in the second, both in seconds."""
    length, half = int(STRETCH_SECONDS * rate), int(np.ceil(reach * rate))
    times, lags = [], []
    places = np.arange(second.shape[1])
    for start in range(0, first.shape[1] - length, int(STEP_SECONDS * rate)):
        frames = np.arange(start, start + length)
        mine = first[:, frames]
        if mine.sum() < 1e-6:
            continue
        expected = (line[0] + line[1] * frames / rate) * rate
        if expected[0] < half or expected[-1] > second.shape[1] - half - 1:
            continue
        scores = np.empty(2 * half + 1)
        for step in range(-half, half + 1):
            theirs = np.stack([np.interp(expected + step, places, curve) for curve in second])
            norm = np.linalg.norm(mine) * np.linalg.norm(theirs) + 1e-9
            scores[step + half] = float((mine * theirs).sum() / norm)
        peak = int(np.argmax(scores))
        if scores[peak] < LEAST_LIKENESS or not 0 < peak < 2 * half:
            continue
        left, mid, right = scores[peak - 1 : peak + 2]
        bend = left - 2 * mid + right
        fine = 0.5 * (left - right) / bend if abs(bend) > 1e-12 else 0.0
        middle = start + length / 2
        times.append(middle / rate)
        lags.append(line[0] + line[1] * middle / rate + (peak - half + fine) / rate)
    return np.array(times), np.array(lags)


def _likeness(first: Curves, second: Curves, rate: float, line: tuple[float, float]) -> float:
    """How alike attacks are along the line: the median over all stretches that both have."""
    length = int(STRETCH_SECONDS * rate)
    places = np.arange(second.shape[1])
    scores = []
    for start in range(0, first.shape[1] - length, int(STEP_SECONDS * rate)):
        frames = np.arange(start, start + length)
        there = (line[0] + line[1] * frames / rate) * rate
        if there[0] < 0 or there[-1] > second.shape[1] - 1:
            continue
        mine = first[:, frames]
        theirs = np.stack([np.interp(there, places, curve) for curve in second])
        norm = np.linalg.norm(mine) * np.linalg.norm(theirs) + 1e-9
        scores.append(float((mine * theirs).sum() / norm))
    return float(np.median(scores)) if scores else 0.0


def _robust_line(times: Curves, lags: Curves) -> tuple[float, float]:
    """Intercept and slope: medians over all pairs, then least squares on those that agree."""
    one, other = np.triu_indices(len(times), 1)
    slopes = (lags[other] - lags[one]) / (times[other] - times[one])
    slope = float(np.median(slopes))
    intercept = float(np.median(lags - slope * times))
    near = np.abs(lags - (intercept + slope * times)) < 2 * AGREES_SECONDS
    if near.sum() >= FEWEST_STRETCHES:
        slope, intercept = (float(value) for value in np.polyfit(times[near], lags[near], 1))
    return intercept, slope
