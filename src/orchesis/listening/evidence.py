"""Evidence: what the network said of a song, packed for the screens and for relearning.

Curves are kept as bytes at 100 frames a second, candidates with what the sound gained at them: some
300 kB a minute before compression, a third of it after.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.signal import find_peaks

from orchesis.errors import OrchesisError
from orchesis.listening.candidates import Candidates
from orchesis.listening.ear import Detail, Onset
from orchesis.listening.levels import Ring, StrokeLevels, rings, stroke_levels
from orchesis.listening.second_pass import looked_at
from orchesis.music.instruments import Instrument

VERSION = 1
Bytes = npt.NDArray[np.uint8]


def unknown() -> npt.NDArray[np.float32]:
    """The drums' shares of a song that was heard before they were kept."""
    return np.zeros((0, 2), np.float32)


@dataclass(frozen=True, slots=True)
class Evidence:
    """What is kept of the network's words.

    onsets : shape (frames, classes), 0 to 255.
    found : the candidates. rise : shape (n, bands), what the sound gained at each, unit length.
    drums : shape (n, 2), how much of the sound is drums, see `second_pass.drum_shares`; empty where
        the song was heard before this was kept.
    bass : shape (frames,), 0 to 255: attacks in the bass that are no drum's; empty where the song
        was heard before this was kept.
    levels, rings : how loud the strokes are and how long drums ring; None and empty alike.
    names : what strokes of an instrument are called instead, all song long (`naming`).
    """

    classes: tuple[Instrument, ...]
    frame_rate: float
    onsets: Bytes
    found: Candidates
    rise: npt.NDArray[np.float32]
    bass: Bytes = field(default_factory=lambda: np.zeros(0, np.uint8))
    drums: npt.NDArray[np.float32] = field(default_factory=unknown)
    levels: StrokeLevels | None = None
    rings: tuple[Ring, ...] = ()
    names: Mapping[Instrument, Instrument] = field(default_factory=dict)

    def strength(self, instrument: Instrument, start: float, end: float) -> float:
        """How strongly a drum is heard between two times in seconds, 0 to 1."""
        if instrument not in self.classes:
            return 0.0
        first = max(0, round(start * self.frame_rate))
        last = max(first + 1, round(end * self.frame_rate))
        piece = self.onsets[first:last, self.classes.index(instrument)]
        return float(piece.max()) / 255 if len(piece) else 0.0


BASS_BANDS = slice(1, 12)
"""Bands from 43 to 258 Hz: the fundamentals of a bass. A test holds them to their frequencies."""

BASS_STEP = 8
"""Frames over which a note of the bass rises: shorter ones take the beating of two low tones for
notes (F of 24 mixes on a kit left out .57 over 3 frames, .68 over 8: docs/notebook.md)."""

BASS_LEAST = 0.25
"""Attacks below this share of the song's strong ones are not counted."""


def bass_attacks(detail: Detail, step: int = BASS_STEP) -> npt.NDArray[np.float32]:
    """How much the bass gains in each frame that the drums do not explain.

    Rising level over some frames (spectral flux; Bello et al., "A tutorial on onset detection in
    music signals", IEEE TSAP 2005), each band weighed by what the masks leave to the band.

    Parameters
    ----------
    detail : the network's words, with the song's features and masks.
    step : frames over which the level rises.

    Returns
    -------
    Shape (frames,), 0 to 1.
    """
    level = detail.features[:, BASS_BANDS].astype(np.float32)
    rise = np.zeros_like(level)
    rise[step:] = np.maximum(0, level[step:] - level[:-step])
    if detail.masks is not None:
        rise *= 1.0 - detail.masks[:, BASS_BANDS].astype(np.float32)
    curve = rise.mean(axis=1)
    top = float(np.percentile(curve, 99.5)) if len(curve) else 0.0
    scaled: npt.NDArray[np.float32] = np.clip(curve / max(top, 1e-9), 0, 1).astype(np.float32)
    return scaled


def bass_onsets(evidence: Evidence) -> list[float]:
    """When the bass begins notes, in seconds: clear peaks of its attacks, 80 ms apart."""
    if not len(evidence.bass):
        return []
    curve = evidence.bass.astype(float) / 255
    peaks, _ = find_peaks(
        curve, height=BASS_LEAST, distance=max(1, int(0.08 * evidence.frame_rate))
    )
    # The rise is measured over some frames: the attack was in the midst of them.
    return [float((peak - BASS_STEP / 2) / evidence.frame_rate) for peak in peaks]


def gathered(detail: Detail, frame_rate: float, onsets: Sequence[Onset] = ()) -> Evidence:
    """The evidence of a song, from all that the network said and the strokes that came of it."""
    detail = looked_at(detail, frame_rate)
    assert detail.found is not None
    assert detail.rise is not None
    assert detail.drums is not None
    return Evidence(
        classes=detail.classes,
        frame_rate=frame_rate,
        onsets=np.round(255 * np.clip(detail.onsets, 0, 1)).astype(np.uint8),
        found=detail.found,
        rise=detail.rise,
        bass=np.round(255 * bass_attacks(detail)).astype(np.uint8),
        drums=detail.drums,
        levels=stroke_levels(onsets, detail, frame_rate) if onsets else None,
        rings=rings(onsets, detail, frame_rate) if onsets else (),
        names=detail.names,
    )


def packed(evidence: Evidence) -> bytes:
    """As the bytes of a compressed file."""
    found = evidence.found
    file = io.BytesIO()
    np.savez_compressed(
        file,
        version=np.array(VERSION),
        classes=np.array([name.value for name in evidence.classes]),
        frame_rate=np.array(evidence.frame_rate),
        # Small values say nothing and cost most of the space.
        onsets=np.where(evidence.onsets < 5, 0, evidence.onsets).astype(np.uint8),
        frame=found.frame,
        column=found.column.astype(np.uint8),
        time=found.time,
        peak=found.peak.astype(np.float16),
        loudness=found.loudness.astype(np.float16),
        rise=np.round(255 * evidence.rise).astype(np.uint8),
        bass=evidence.bass,
        drums=np.round(255 * evidence.drums).astype(np.uint8),
        names=np.array([(a.value, b.value) for a, b in evidence.names.items()], str),
        **_packed_levels(evidence),
    )
    return file.getvalue()


def _packed_levels(evidence: Evidence) -> dict[str, Any]:
    made: dict[str, Any] = {}
    if evidence.levels is not None:
        made["level_time"] = evidence.levels.time.astype(np.float32)
        made["level_drum"] = evidence.levels.drum.astype(np.uint8)
        made["level_db"] = evidence.levels.decibels.astype(np.float16)
        made["ring_drum"] = np.array([ring.instrument.value for ring in evidence.rings])
        made["ring"] = np.array([(r.seconds, r.low, r.high, r.strokes) for r in evidence.rings])
    return made


def unpacked(data: bytes) -> Evidence:
    """Read what `packed` wrote. Raises OrchesisError for anything else."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as held:
            if int(held["version"]) != VERSION:
                raise OrchesisError("this evidence is of another version: listen to the song again")
            return Evidence(
                classes=tuple(Instrument(str(name)) for name in held["classes"]),
                frame_rate=float(held["frame_rate"]),
                onsets=held["onsets"],
                found=Candidates(
                    frame=held["frame"],
                    column=held["column"].astype(np.int32),
                    time=held["time"],
                    peak=held["peak"].astype(np.float32),
                    loudness=held["loudness"].astype(np.float32),
                ),
                rise=held["rise"].astype(np.float32) / 255,
                bass=held["bass"] if "bass" in held else np.zeros(0, np.uint8),
                drums=held["drums"].astype(np.float32) / 255 if "drums" in held else unknown(),
                levels=_levels_of(held),
                rings=_rings_of(held),
                names={
                    Instrument(str(name)): Instrument(str(instead))
                    for name, instead in (held["names"].reshape(-1, 2) if "names" in held else ())
                },
            )
    except (KeyError, ValueError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise OrchesisError("the song's evidence is damaged: listen to the song again") from error


def _levels_of(held: Mapping[str, np.ndarray]) -> StrokeLevels | None:
    if "level_time" not in held:
        return None
    return StrokeLevels(
        tuple(Instrument(str(name)) for name in held["classes"]),
        held["level_time"].astype(np.float64),
        held["level_drum"].astype(np.int64),
        held["level_db"].astype(np.float32),
    )


def _rings_of(held: Mapping[str, np.ndarray]) -> tuple[Ring, ...]:
    if "ring" not in held:
        return ()
    rows = zip(held["ring_drum"], held["ring"].reshape(-1, 4), strict=True)
    return tuple(
        Ring(Instrument(str(name)), float(row[0]), float(row[1]), float(row[2]), int(row[3]))
        for name, row in rows
    )


def cell_strengths(
    evidence: Evidence, times: Sequence[float], end: float
) -> npt.NDArray[np.float64]:
    """The strongest frame about each cell of a bar.

    Parameters
    ----------
    times : seconds at which the cells are due, in order.
    end : seconds at which the bar ends.

    Returns
    -------
    shape (cells, drums), 0 to 1; drums as in `evidence.classes`.
    """
    edges = np.array([*times, end])
    middles = (edges[1:] + edges[:-1]) / 2
    starts = np.concatenate([[edges[0] - (middles[0] - edges[0])], middles[:-1]])
    frames = np.round(np.append(starts, middles[-1]) * evidence.frame_rate).astype(int)
    frames = np.clip(frames, 0, max(0, len(evidence.onsets) - 1))
    return np.stack(
        [evidence.onsets[a : max(a + 1, b)].max(axis=0) / 255 for a, b in pairwise(frames)]
    )
