"""The trained ear: a small network that hears sixteen drums, their loudness, beats and downbeats.

How it was made is told in training/ and docs/training.md. `models/ear.onnx` holds the network,
`models/ear.json` its classes, thresholds and calibration. It runs in pieces of about half a
minute that overlap, so that memory does not grow with the song beyond its features.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from orchesis.audio.decode import Samples
from orchesis.errors import OrchesisError
from orchesis.listening.attacks import with_exact_times
from orchesis.listening.candidates import Candidates, find_candidates, logit
from orchesis.listening.decide import as_winners, keep
from orchesis.listening.ear import Bands, Curve, Detail, Heard, Onset, Progress
from orchesis.listening.features import BANDS, HOP, band_centres, ear_input
from orchesis.listening.graces import with_graces
from orchesis.listening.harmony import harmonic_change
from orchesis.listening.judge import context, load_judge, self_training_weights
from orchesis.listening.naming import names_by_fading, relabel_by_share, renamed
from orchesis.listening.opening import with_openings
from orchesis.listening.second_pass import (
    HeardSong,
    Model,
    describe,
    looked_at,
    reasons,
    sigmoid,
)
from orchesis.listening.strength import with_measured_loudness
from orchesis.music.instruments import Instrument

if TYPE_CHECKING:
    import onnxruntime

MODELS = Path(__file__).parent / "models"
PIECE_FRAMES = 1500
"""About so long is a piece; a song that is no longer is heard in one."""

LISTENERS = 2
"""Pieces heard at a time, on a core each: a recurrent network gains little from sharing one piece
among two cores (1.4 s for 65 s of sound instead of 1.1)."""

OVERLAP_FRAMES = 300
"""Three seconds on either side: the dilated convolutions reach 1.3 s, the recurrence further."""

DYNAMIC_RANGE = 3.0
"""Decades of magnitude between nothing (0) and the song's loud frames (1): 60 dB."""

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


@dataclass(frozen=True, slots=True)
class Activations:
    """What the network says of each frame, 0 to 1.

    onsets, loudness : shape (frames, classes). beat, downbeat : shape (frames,).
    masks : shape (frames, bands), the drums' share of the power; None from a network without.
    """

    onsets: Bands
    loudness: Bands
    beat: Curve
    downbeat: Curve
    masks: Bands | None = None


def normalised(bands: Bands) -> Bands:
    """Log magnitudes relative to the song's own loud frames.

    Parameters
    ----------
    bands : shape (frames, inputs), as `features.ear_input` makes them, or its first BANDS alone.

    Returns
    -------
    Of the same shape, 0 to 1.4: 0 is 60 dB below the song's own loud frames, 1 at them.
    """
    level = np.log10(1e-6 + bands)
    top = float(np.percentile(level[:, :BANDS].max(axis=1), 99))
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
        options.intra_op_num_threads = 1
        options.log_severity_level = 3
        options.enable_cpu_mem_arena = False
        session = onnxruntime.InferenceSession(
            (folder / "ear.onnx").read_bytes(), options, providers=["CPUExecutionProvider"]
        )
    except Exception as error:  # onnxruntime raises errors of many kinds
        raise OrchesisError(
            f"the ear's model in {folder} is missing or damaged: restore it from the release "
            "('git checkout -- src/orchesis/listening/models')"
        ) from error
    return session, about


def song_models(about: Mapping[str, Any]) -> dict[str, Model]:
    """The models of the second pass, by drum, from the network's description."""
    return {
        name: Model(tuple(values["weights"]), values["threshold"])
        for name, values in about.get("song", {}).items()
    }


def pieces(frames: int) -> list[tuple[int, int]]:
    """Where a song of so many frames is divided: first and last of each piece, alike in length.

    As many for each listener, so that none is left with the last one alone.
    """
    count = 1
    if frames > PIECE_FRAMES:
        count = LISTENERS * max(1, round(frames / PIECE_FRAMES / LISTENERS))
    edges = [frames * k // count for k in range(count + 1)]
    return list(pairwise(edges)) if frames else []


def activations(
    features: Bands, session: onnxruntime.InferenceSession, classes: int, progress: Progress
) -> Activations:
    """Run the network over a song, some pieces at a time.

    Parameters
    ----------
    features : shape (frames, inputs), normalised.
    session : the network.
    classes : how many drums it knows.
    progress : told of the share done, 0 to 1; an error that it raises stops the work.

    Returns
    -------
    What the network says of each frame.
    """
    frames = len(features)
    wanted = session.get_inputs()[0].shape[-1]
    features = features[:, :wanted]
    width = 2 * classes + 2

    def hear(piece: tuple[int, int]) -> Bands:
        first, last = piece
        low, high = max(0, first - OVERLAP_FRAMES), min(frames, last + OVERLAP_FRAMES)
        logits = session.run(None, {"features": features[None, low:high]})[0][0]
        shares: Bands = 1.0 / (1.0 + np.exp(-logits[first - low : last - low]))
        return shares

    result = np.zeros((frames, width), np.float32)
    masks: Bands | None = None
    pool = ThreadPoolExecutor(LISTENERS)
    try:
        spans = pieces(frames)
        for (first, last), shares in zip(spans, pool.map(hear, spans), strict=True):
            result[first:last] = shares[:, :width]
            if shares.shape[1] > width:
                if masks is None:
                    masks = np.zeros((frames, shares.shape[1] - width), np.float32)
                masks[first:last] = shares[:, width:]
            progress(last / frames)
    finally:
        # Whoever stops the work, by an error of `progress`, does not wait for the whole song.
        pool.shutdown(cancel_futures=True)
    return Activations(
        onsets=result[:, :classes],
        loudness=result[:, classes : 2 * classes],
        beat=result[:, -2],
        downbeat=result[:, -1],
        masks=masks,
    )


def first_decision(
    found: Candidates,
    classes: Sequence[Instrument],
    calibration: Mapping[Instrument, Calibration],
) -> list[Onset]:
    """The strokes that the network alone is sure of, rivals decided."""
    table = [calibration[instrument] for instrument in classes]
    slope = np.array([about.slope for about in table])[found.column]
    offset = np.array([about.offset for about in table])[found.column]
    threshold = np.array([about.threshold for about in table])[found.column]
    probability = sigmoid(slope * logit(found.peak) + offset)
    # The thresholds are on peaks: they are carried over to probabilities.
    least = sigmoid(slope * logit(threshold) + offset)
    return keep(found, probability, least, classes)


class NetworkEar:
    """Listens with the trained network; see the module's text."""

    def __init__(self, folder: Path = MODELS, *, judged: bool = True) -> None:
        """Load the models of a folder; without its judge while that one is being trained."""
        self._session, about = load_model(folder)
        self.judge = load_judge(folder / "judge.npz") if judged else None
        self.classes = tuple(Instrument(name) for name in about["classes"])
        self.calibration = {
            Instrument(name): Calibration(**values) for name, values in about["calibration"].items()
        }
        self.models = song_models(about)

    def hear(
        self, samples: Samples, sample_rate: int, progress: Progress, *, exact: bool = True
    ) -> Heard:
        """Listen to a recording. See `Ear`.

        Parameters
        ----------
        samples : shape (n,), mono, about -1 to 1.
        sample_rate : Hz.
        progress : told of the share done, 0 to 1.
        exact : whether times are looked for in the sound, not only in the network's frames.

        Returns
        -------
        All that was heard: strokes and curves.
        """
        bands = ear_input(samples, sample_rate, lambda share: progress(0.5 * share))
        silent = float(bands.max()) < SILENCE
        return self.hear_features(
            normalised(bands),
            sample_rate,
            lambda share: progress(0.5 + 0.5 * share),
            silent=silent,
            samples=samples if exact else None,
        )

    def hear_features(
        self,
        features: Bands,
        sample_rate: int,
        progress: Progress,
        *,
        silent: bool = False,
        samples: Samples | None = None,
    ) -> Heard:
        """The same from features.

        Parameters
        ----------
        features : shape (frames, BANDS + LOW_BANDS), normalised.
        sample_rate : Hz, of the sound that they were made of.
        progress : told of the share done, 0 to 1.
        silent : whether there is nothing to hear.
        samples : the sound, shape (n,), in which exact times are looked for.

        Returns
        -------
        As `hear`.
        """
        frame_rate = sample_rate / HOP
        activity = activations(features, self._session, len(self.classes), progress)
        nothing = np.zeros(len(features), np.float32)
        found = find_candidates(activity.onsets, activity.loudness, frame_rate)
        if samples is not None and not silent:
            found = with_exact_times(found, activity.onsets, samples, sample_rate)
        onsets = [] if silent else first_decision(found, self.classes, self.calibration)
        return Heard(
            onsets=tuple(onsets),
            frame_rate=frame_rate,
            pulse=nothing if silent else activity.beat,
            low=nothing if silent else activity.onsets[:, self.classes.index(Instrument.KICK)],
            change=harmonic_change(features[:, :BANDS], band_centres(sample_rate), frame_rate),
            downbeat=nothing if silent else activity.downbeat,
            detail=Detail(
                self.classes,
                activity.onsets,
                activity.loudness,
                features[:, :BANDS],
                activity.masks,
                found,
                low=features[:, BANDS:] if features.shape[1] > BANDS else None,
            ),
        )

    def second_pass(self, heard: Heard, bar_lines: Sequence[float]) -> Heard:
        """Decide again with the song in mind. See `Ear` and `second_pass`."""
        detail = heard.detail
        if detail is None or self.judge is None or not heard.onsets:
            return heard
        detail = looked_at(detail, heard.frame_rate)
        found, rise = detail.found, detail.rise
        assert found is not None
        assert rise is not None
        song = HeardSong(
            onsets=detail.onsets,
            rise=rise,
            frame_rate=heard.frame_rate,
            classes=detail.classes,
            edges=np.asarray(bar_lines, dtype=np.float64),
            drums=detail.drums,
        )
        sure = self_training_weights(self.judge, song, found)
        probability = self.judge.probabilities(context(song, found, sure), found)
        least = self.judge.threshold.astype(np.float64)
        why = reasons(describe(song, found), found, detail.classes, self.models)
        onsets = keep(found, probability, least[found.column], detail.classes, why)
        onsets = with_measured_loudness(onsets, detail, heard.frame_rate)
        # Only now: loudness was learnt from what candidates are likely to be.
        onsets = as_winners(onsets, self.judge.won)
        names = names_by_fading(onsets, detail, song)
        onsets = renamed(onsets, names)
        shared = relabel_by_share(onsets)
        onsets = renamed(onsets, shared, "share")
        both = {old: shared.get(new, new) for old, new in names.items()} | shared
        detail = replace(detail, names=both)
        onsets = with_openings(onsets, detail, heard.frame_rate)
        graced = with_graces(
            onsets, detail.onsets, detail.loudness, detail.classes, heard.frame_rate
        )
        return replace(heard, onsets=tuple(graced), detail=detail)
