"""The second pass: the song helps to decide what the network leaves open.

A kit sounds alike all song long, and bars repeat. Each candidate is described by what the network
says of it and of its rivals, by what the bars like this one play at the same place, and by how
much it sounds like this song's own confident strokes of the same drum. `judge` turns this, and
more of the same kind, into a probability; a logistic model per class, fitted on composed songs,
tells which of the terms a decision rests on. Where neither pattern nor kit says anything, that is
the network.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from orchesis.listening.candidates import Candidates, find_candidates, logit
from orchesis.listening.ear import Bands, Detail
from orchesis.music.instruments import TOMS, Instrument

Matrix = npt.NDArray[np.float64]

TERMS = ("network", "rival", "pattern", "pattern_seen", "kit", "loudness", "constant")
"""What a candidate is described by, in the order of the columns of `describe`."""

CONFUSED: tuple[frozenset[Instrument], ...] = (
    frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN, Instrument.HIHAT_FOOT}),
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP}),
    frozenset({Instrument.RIDE, Instrument.RIDE_BELL, Instrument.CRASH}),
    TOMS,
)
"""Drums that are taken for each other."""

POINTS = 96
"""Places a bar at which bars are compared: sixteenths and triplets both fall on them."""

REACH_SECONDS = 0.03
SURE = 0.7
"""Candidates above this are what the song's own kit is learnt from."""

FEWEST_SURE = 4
LIKE_POWER = 6.0
"""Bars count by their likeness to this power: two verses do, a verse and a chorus hardly."""

PATCH_FRAMES = 4
QUIET = 0.2
"""Frames without a band above this (48 dB below the loud ones) say nothing of the song."""


@dataclass(frozen=True, slots=True)
class HeardSong:
    """What the second pass knows of the song: curves, features, and where the bars are.

    onsets : shape (frames, classes), 0 to 1.
    rise : shape (n, bands), what the sound gains at each candidate; see `rises`.
    edges : shape (bars + 1,), seconds of the bar lines; empty where there is no grid.
    bar_weight : shape (bars,), how much each bar counts when others look for a pattern; None: all
        alike.
    drums : shape (n, 2), how much of the sound is drums; see `drum_shares`. None: not known.
    """

    onsets: npt.NDArray[np.float32]
    rise: Bands
    frame_rate: float
    classes: tuple[Instrument, ...]
    edges: Matrix
    bar_weight: Matrix | None = None
    drums: npt.NDArray[np.float32] | None = None


def describe(song: HeardSong, found: Candidates, sure: Matrix | None = None) -> Matrix:
    """The terms of every candidate.

    Parameters
    ----------
    song : the network's words on it. found : its candidates, n of them.
    sure : shape (n,), as in `kit_likeness`.

    Returns
    -------
    Shape (n, len(TERMS)).
    """
    terms = np.zeros((len(found), len(TERMS)))
    if not len(found):
        return terms
    terms[:, 0] = logit(found.peak)
    terms[:, 1] = logit(_rivals(song, found))
    share, reliance = pattern(song, found)
    terms[:, 2] = np.where(reliance > 0, logit(share), 0.0)
    terms[:, 3] = reliance
    terms[:, 4] = kit_likeness(song, found, sure)
    terms[:, 5] = 2.0 * found.loudness - 1.0
    terms[:, 6] = 1.0
    return terms


def _rivals(song: HeardSong, found: Candidates) -> npt.NDArray[np.float32]:
    """The strongest of a candidate's rivals within two frames, shape (n,)."""
    near = np.clip(found.frame[:, None] + np.arange(-2, 3), 0, len(song.onsets) - 1)
    strongest = song.onsets[near].max(axis=1)
    result = np.zeros(len(found), np.float32)
    for column, instrument in enumerate(song.classes):
        rivals = [
            other
            for other, name in enumerate(song.classes)
            if other != column and any(instrument in f and name in f for f in CONFUSED)
        ]
        mine = found.column == column
        if rivals and mine.any():
            result[mine] = strongest[mine][:, rivals].max(axis=1)
    return result


def pattern(song: HeardSong, found: Candidates) -> tuple[Matrix, Matrix]:
    """What other bars play where each candidate is: a share, and how far that can be relied on.

    Parameters
    ----------
    song : the network's words on it. found : its candidates, n of them.

    Returns
    -------
    The share, shape (n,), 0 to 1: the mean of the network's curve at the same place of the other
    bars, each counted by its likeness to this one; and how far it can be relied on, shape (n,),
    0 to 1, growing with their number.
    """
    shares, reliance = patterns(song, found)
    return shares[np.arange(len(found)), found.column], reliance


def patterns(song: HeardSong, found: Candidates) -> tuple[Matrix, Matrix]:
    """The same of every drum at each candidate's place.

    Parameters
    ----------
    song : the network's words on it. found : its candidates, n of them.

    Returns
    -------
    Shapes (n, classes) and (n,), as from `pattern`.
    """
    if len(song.edges) < 4:
        return np.zeros((len(found), len(song.classes))), np.zeros(len(found))
    bars = len(song.edges) - 1
    places = np.linspace(0.0, 1.0, POINTS, endpoint=False)
    lengths = np.diff(song.edges)
    times = song.edges[:-1, None] + places[None, :] * lengths[:, None]
    reach = max(1, round(REACH_SECONDS * song.frame_rate))
    level = strongest_near(song, times, reach)
    flat = level.reshape(bars, -1)
    norm = np.linalg.norm(flat, axis=1) + 1e-6
    like = (flat @ flat.T) / norm[:, None] / norm[None, :]
    weight = np.clip(like, 0.0, 1.0) ** LIKE_POWER
    np.fill_diagonal(weight, 0.0)
    if song.bar_weight is not None:
        weight = weight * song.bar_weight[None, :]
    total = weight.sum(axis=1)
    bar = np.searchsorted(song.edges, found.time, side="right") - 1
    inside = (bar >= 0) & (bar < bars)
    bar = np.clip(bar, 0, bars - 1)
    place = np.round((found.time - song.edges[bar]) / lengths[bar] * POINTS).astype(int)
    # A stroke at the bar's very end belongs to the next one's beginning.
    over = place >= POINTS
    bar = np.where(over, np.minimum(bar + 1, bars - 1), bar)
    place = np.where(over, 0, np.clip(place, 0, POINTS - 1))
    played = (weight.astype(np.float32) @ flat).reshape(level.shape)
    share = played[bar, place].astype(np.float64) / (total[bar, None] + 1e-6)
    share[~inside] = 0.0
    reliance = np.where(inside, total[bar] / (total[bar] + 1.0), 0.0)
    # Few like bars say little: the share is drawn towards an even chance by as much.
    return 0.5 + (share - 0.5) * reliance[:, None], reliance


def strongest_near(song: HeardSong, times: Matrix, reach: int) -> npt.NDArray[np.float32]:
    """The curves' highest values near the times.

    Parameters
    ----------
    song : the network's words on it.
    times : seconds, any shape.
    reach : frames on either side.

    Returns
    -------
    Shape (*times, classes), 0 to 1.
    """
    frames = np.round(times * song.frame_rate).astype(int)
    last = len(song.onsets) - 1
    level = np.zeros((*frames.shape, len(song.classes)), np.float32)
    for step in range(-reach, reach + 1):
        np.maximum(level, song.onsets[np.clip(frames + step, 0, last)], out=level)
    return level


def rises(features: Bands, frames: npt.NDArray[np.int32]) -> npt.NDArray[np.float32]:
    """What the sound gains at these frames, per band.

    Parameters
    ----------
    features : shape (frames, bands), normalised.
    frames : shape (n,).

    Returns
    -------
    Shape (n, bands), each of unit length.
    """
    last = len(features) - 1
    before = features[np.clip(frames - 3, 0, last)]
    after = features[np.clip(frames[:, None] + np.arange(PATCH_FRAMES), 0, last)].max(axis=1)
    rise = np.maximum(0.0, after - before)
    scaled: npt.NDArray[np.float32] = rise / (np.linalg.norm(rise, axis=1, keepdims=True) + 1e-6)
    return scaled


def drum_shares(
    features: Bands, masks: Bands | None, frames: npt.NDArray[np.int32]
) -> npt.NDArray[np.float32]:
    """How much of the power is drums, at each of these frames and in all of the song.

    In a mix the network's words mean less than in a stem, where nothing else sounds.

    Parameters
    ----------
    features : shape (frames, bands), as `network_ear.normalised` makes them.
    masks : of the same shape; without them all is drums.
    frames : shape (n,).

    Returns
    -------
    Shape (n, 2), 0 to 1.
    """
    shares = np.ones((len(frames), 2), np.float32)
    if masks is None or not len(frames):
        return shares
    power = 10.0 ** (6.0 * (features - 1.0))
    ours, whole = (power * masks).sum(axis=1), power.sum(axis=1)
    sounding = features.max(axis=1) > QUIET
    last = len(features) - 1
    after = np.clip(frames[:, None] + np.arange(PATCH_FRAMES), 0, last)
    shares[:, 0] = ours[after].sum(axis=1) / (whole[after].sum(axis=1) + 1e-9)
    if sounding.any():
        shares[:, 1] = float((ours[sounding] / (whole[sounding] + 1e-9)).mean())
    return shares


def kit_likeness(song: HeardSong, found: Candidates, sure: Matrix | None = None) -> Matrix:
    """How much more each candidate sounds like its own drum than like any rival, about -1 to 1.

    Parameters
    ----------
    song : the network's words on it. found : its candidates, n of them.
    sure : shape (n,), the weight with which each candidate teaches what its drum sounds like;
        by default the network's sure ones do.

    Returns
    -------
    Shape (n,); 0 where the song has too few strokes to tell.
    """
    likeness, known = kit_likenesses(song, found, sure)
    result = np.zeros(len(found))
    for column in np.flatnonzero(known).tolist():
        mine = found.column == column
        others = [other for other in np.flatnonzero(known) if other != column]
        if others and mine.any():
            result[mine] = likeness[mine, column] - likeness[mine][:, others].max(axis=1)
    return result


def kit_likenesses(
    song: HeardSong, found: Candidates, sure: Matrix | None = None
) -> tuple[Matrix, npt.NDArray[np.bool_]]:
    """How much each candidate sounds like each drum of this song's kit.

    Parameters
    ----------
    song : the network's words on it. found : its candidates, n of them.
    sure : as in `kit_likeness`.

    Returns
    -------
    Cosines of what the sound gains, shape (n, classes), 0 for drums not known; and which are known,
    shape (classes,).
    """
    rise = song.rise
    weight = np.where(found.peak > SURE, found.peak, 0.0) if sure is None else sure
    likeness = np.zeros((len(found), len(song.classes)))
    known = np.zeros(len(song.classes), bool)
    for column in range(len(song.classes)):
        mine = (found.column == column) & (weight > 0)
        if mine.sum() < FEWEST_SURE:
            continue
        known[column] = True
        summed = (weight[mine, None] * rise[mine]).sum(axis=0)
        # Leave each one out of its own lesson.
        each = summed[None, :] - np.where(mine, weight, 0.0)[:, None] * rise
        likeness[:, column] = (each * rise).sum(axis=1) / (np.linalg.norm(each, axis=1) + 1e-6)
    return likeness, known


@dataclass(frozen=True, slots=True)
class Model:
    """One class's logistic model: a weight for each of TERMS, and the least probability kept."""

    weights: tuple[float, ...]
    threshold: float


def sigmoid(z: Matrix) -> Matrix:
    """1 / (1 + exp(-z)), without overflow.

    Parameters
    ----------
    z : any shape.

    Returns
    -------
    Of the same shape, 0 to 1.
    """
    result: Matrix = 0.5 * (1.0 + np.tanh(0.5 * z))
    return result


def reasons(
    terms: Matrix, found: Candidates, classes: Sequence[Instrument], models: Mapping[str, Model]
) -> list[str]:
    """Why each is kept: "network", or what lifted it over the threshold: "pattern" or "kit".

    Parameters
    ----------
    terms : shape (n, len(TERMS)), from `describe`.
    found : the candidates. classes : the drums of its columns.
    models : how the terms weigh for each drum.

    Returns
    -------
    One word for each candidate.
    """
    table = np.array([models[name.value].weights for name in classes])
    parts = terms * table[found.column]
    threshold = np.array([models[name.value].threshold for name in classes])[found.column]
    needed = logit(threshold)
    by_pattern, by_kit = parts[:, 2] + parts[:, 3], parts[:, 4]
    without = parts.sum(axis=1) - by_pattern - by_kit
    lifted = np.where(by_pattern >= by_kit, "pattern", "kit")
    return [str(item) for item in np.where(without >= needed, "network", lifted)]


def looked_at(detail: Detail, frame_rate: float) -> Detail:
    """The same with its candidates, what the sound gained at each, and how much of it is drums.

    What is there already is not found again.
    """
    found = detail.found
    if found is None:
        found = find_candidates(detail.onsets, detail.loudness, frame_rate)
    rise, drums = detail.rise, detail.drums
    if rise is None:
        rise = rises(detail.features, found.frame)
    if drums is None:
        drums = drum_shares(detail.features, detail.masks, found.frame)
    return replace(detail, found=found, rise=rise, drums=drums)
