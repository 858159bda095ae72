"""The trained ear: a small network that hears sixteen drums, their loudness, beats and downbeats.

How it was made is told in training/ and docs/training.md. `models/ear.onnx` holds the network,
`models/ear.json` its classes, thresholds and calibration. It runs in pieces of half a minute
that overlap, so that memory does not grow with the song beyond its features.
"""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt

from orchesis.audio.decode import Samples
from orchesis.errors import OrchesisError
from orchesis.listening.ear import Curve, Heard, Onset, Progress
from orchesis.listening.features import HOP, Bands, band_centres, band_spectrogram
from orchesis.listening.harmony import harmonic_change
from orchesis.listening.peaks import pick_peaks
from orchesis.music.instruments import TOMS, Instrument

if TYPE_CHECKING:
    import onnxruntime

MODELS = Path(__file__).parent / "models"
PIECE_FRAMES = 3000
OVERLAP_FRAMES = 300
"""Three seconds on either side: the dilated convolutions reach 1.3 s, the recurrence further."""

DEAD_FRAMES = 2
"""Two strokes of one drum are at least 30 ms apart: a drag's grace notes still are two."""

DYNAMIC_RANGE = 3.0
"""Decades of magnitude between nothing (0) and the song's loud frames (1): 60 dB."""

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
one is kept. (On the tuning clips the two pairs of ride and hat change F by less than 0.001.)"""

RIVAL_SECONDS = 0.025
SILENCE = 1e-4
"""Full scale below this is taken as silence: amplitude of -80 dB."""


@dataclass(frozen=True, slots=True)
class Calibration:
    """One class: the least peak that counts, and how a peak becomes a probability.

    confidence = 1 / (1 + exp(-(slope * logit(peak) + offset))), fitted on composed songs.
    """

    threshold: float
    slope: float
    offset: float

    def confidence(self, peak: float) -> float:
        """The probability that a stroke with this peak is really there."""
        bounded = min(max(peak, 1e-4), 1 - 1e-4)
        logit = np.log(bounded / (1 - bounded))
        return float(1.0 / (1.0 + np.exp(-(self.slope * logit + self.offset))))


@dataclass(frozen=True, slots=True)
class Activations:
    """What the network says of each frame, 0 to 1: (frames, classes) twice, and (frames,) twice."""

    onsets: npt.NDArray[np.float32]
    loudness: npt.NDArray[np.float32]
    beat: Curve
    downbeat: Curve


def normalised(bands: Bands) -> Bands:
    """Log magnitudes relative to the song's own loud frames: 0 is 60 dB below them, 1 at them."""
    level = np.log10(1e-6 + bands)
    top = float(np.percentile(level.max(axis=1), 99))
    scaled: Bands = np.clip((level - top) / DYNAMIC_RANGE + 1.0, 0.0, 1.4).astype(np.float32)
    return scaled


@lru_cache(maxsize=1)
def load_model(folder: Path = MODELS) -> tuple[onnxruntime.InferenceSession, dict[str, Any]]:
    """The network and its description. Raises OrchesisError when a file is missing or damaged."""
    # The web server imports this module without ever listening: it need not load the runtime.
    import onnxruntime

    try:
        about = json.loads((folder / "ear.json").read_text(encoding="utf-8"))
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = 2
        options.log_severity_level = 3
        session = onnxruntime.InferenceSession(
            (folder / "ear.onnx").read_bytes(), options, providers=["CPUExecutionProvider"]
        )
    except Exception as error:  # onnxruntime raises errors of many kinds
        raise OrchesisError(
            f"the ear's model in {folder} is missing or damaged: restore it from the release "
            "('git checkout -- src/orchesis/listening/models')"
        ) from error
    return session, about


def activations(
    features: Bands, session: onnxruntime.InferenceSession, classes: int, progress: Progress
) -> Activations:
    """Run the network over normalised features, shape (frames, bands), piece by piece."""
    frames = len(features)
    result = np.zeros((frames, 2 * classes + 2), np.float32)
    for first in range(0, frames, PIECE_FRAMES):
        last = min(frames, first + PIECE_FRAMES)
        low, high = max(0, first - OVERLAP_FRAMES), min(frames, last + OVERLAP_FRAMES)
        logits = session.run(None, {"features": features[None, low:high]})[0][0]
        result[first:last] = 1.0 / (1.0 + np.exp(-logits[first - low : last - low]))
        progress(last / frames)
    return Activations(
        onsets=result[:, :classes],
        loudness=result[:, classes : 2 * classes],
        beat=result[:, -2],
        downbeat=result[:, -1],
    )


def strokes(
    heard: Activations,
    classes: Sequence[Instrument],
    calibration: Mapping[Instrument, Calibration],
    frame_rate: float,
) -> list[Onset]:
    """Onsets of all classes, in order of time, rivals decided."""
    found: list[tuple[float, Onset]] = []
    for column, instrument in enumerate(classes):
        curve = heard.onsets[:, column]
        about = calibration[instrument]
        for peak in pick_peaks(
            curve, half_width=DEAD_FRAMES, above_mean=0.0, mean_width=5, floor=about.threshold
        ):
            low, high = max(0, peak - 1), min(len(curve), peak + 2)
            weight = curve[low:high]
            place = float((weight * np.arange(low, high)).sum() / weight.sum())
            onset = Onset(
                time=max(0.0, place / frame_rate),
                instrument=instrument,
                loudness=float(heard.loudness[peak, column]),
                confidence=about.confidence(float(curve[peak])),
            )
            found.append((float(curve[peak]) - about.threshold, onset))
    # Surest first; those kept lie in bins as wide as rivals reach, so that few are compared.
    kept: dict[int, list[Onset]] = defaultdict(list)
    for _, onset in sorted(found, key=lambda item: -item[0]):
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


class NetworkEar:
    """Listens with the trained network; see the module's text."""

    def __init__(self, folder: Path = MODELS) -> None:
        self._session, about = load_model(folder)
        self._classes = tuple(Instrument(name) for name in about["classes"])
        self._calibration = {
            Instrument(name): Calibration(**values) for name, values in about["calibration"].items()
        }

    def hear(self, samples: Samples, sample_rate: int, progress: Progress) -> Heard:
        """Listen to mono samples, shape (n,). See `Ear`."""
        frame_rate = sample_rate / HOP
        bands = band_spectrogram(samples, sample_rate, lambda share: progress(0.5 * share))
        features = normalised(bands)
        found = activations(
            features, self._session, len(self._classes), lambda share: progress(0.5 + 0.5 * share)
        )
        silent = float(bands.max()) < SILENCE
        nothing = np.zeros(len(bands), np.float32)
        onsets = [] if silent else strokes(found, self._classes, self._calibration, frame_rate)
        cymbals = [index for index, item in enumerate(self._classes) if "hihat" in item.value]
        return Heard(
            onsets=tuple(onsets),
            frame_rate=frame_rate,
            pulse=nothing if silent else found.beat,
            low=nothing if silent else found.onsets[:, self._classes.index(Instrument.KICK)],
            brightness=found.onsets[:, cymbals].max(axis=1),
            change=harmonic_change(features, band_centres(sample_rate), frame_rate),
            downbeat=nothing if silent else found.downbeat,
        )
