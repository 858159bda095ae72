"""Each beat in numbers: what a listener goes by who wants to know where the bar begins.

What is struck on the beat, on its quarters and its thirds, where the bass begins notes, how much
the harmony changes over one, two and four beats, how a beat is like those some beats before, fills
that land, crashes, steps of loudness. The bar network (`bar_network`) reads these.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from orchesis.listening.ear import Detail, Heard
from orchesis.listening.evidence import bass_attacks
from orchesis.listening.features import BANDS_PER_OCTAVE, LOW_LOWEST_HZ, band_centres
from orchesis.music.instruments import TOMS, Instrument
from orchesis.rhythm.landing import landings

Levels = npt.NDArray[np.float64]
Table = npt.NDArray[np.float32]

PLACES = (0.0, 1 / 4, 1 / 2, 3 / 4, 1 / 3, 2 / 3)
"""Where in a beat one looks."""

REACH = 0.045
"""Seconds around a place within which a stroke counts as on it; at most a twelfth of a beat."""

VOICES: tuple[frozenset[Instrument], ...] = (
    frozenset({Instrument.KICK}),
    frozenset({Instrument.SNARE, Instrument.CROSS_STICK, Instrument.CLAP}),
    frozenset(
        {Instrument.HIHAT_CLOSED, Instrument.HIHAT_FOOT, Instrument.RIDE, Instrument.RIDE_BELL}
    ),
    frozenset({Instrument.HIHAT_OPEN}),
    frozenset({Instrument.CRASH}),
    frozenset(TOMS),
)
TONAL_HZ = (180.0, 2000.0)
BASS_HZ = (38.0, 260.0)
BASS_RISE_FRAMES = 3
"""As the network that reads these numbers learnt it."""

SPANS = (1, 2, 4)
"""Beats over which harmony is compared."""

LAGS = (1, 2, 3, 4, 6, 8, 12, 16)
"""Beats back at which a beat is compared with others."""

SAMPLE_RATE = 44_100
WITNESSES: dict[str, int] = {
    "strokes": len(PLACES) * len(VOICES),
    "bass": len(PLACES),
    "pulse": 2,
    "downbeat": 2,
    "change": 2,
    "landing": 1,
    "turns": 2 * len(SPANS),
    "like strokes": len(LAGS),
    "like harmony": 2 * len(LAGS),
    "steps": len(SPANS),
    "tempo": 2,
}
"""The columns of a row of `describe_beats`, in order: what each is of, and how many."""

COLUMNS = sum(WITNESSES.values())


def describe_beats(
    heard: Heard, beats: npt.NDArray[np.float64], landed: Levels | None = None
) -> Table:
    """A row of numbers for each beat, about -2 to 4.

    Parameters
    ----------
    heard : strokes, curves, and the detail with features and masks.
    beats : shape (beats,), seconds, ascending, at least four.
    landed : what `landings` says of these beats, where that is known already.

    Returns
    -------
    Shape (beats, COLUMNS).
    """
    count = len(beats)
    lengths = np.diff(beats, append=2 * beats[-1] - beats[-2])
    struck = _struck(heard, beats, lengths)
    detail = heard.detail
    assert detail is not None
    rate = heard.frame_rate
    bass, tonal, loud = _tones(detail)
    rise = bass_attacks(detail, BASS_RISE_FRAMES)
    reach = max(1, round(REACH * rate))
    spots = [beats + place * lengths for place in PLACES]
    columns: list[Levels] = [struck.reshape(count, -1)]
    columns.append(np.stack([_peak(rise, rate, spot, reach) for spot in spots], axis=1))
    for curve in (heard.pulse, heard.downbeat, heard.change):
        columns.append(np.stack([_peak(curve, rate, spots[k], reach) for k in (0, 2)], axis=1))
    columns.append((landings(heard, beats) if landed is None else landed)[:, None])
    ends = np.round(np.append(beats, beats[-1] + lengths[-1]) * rate)
    edges = np.clip(ends, 0, len(loud)).astype(np.int64)
    by_beat = [_means(curve, edges) for curve in (tonal, bass)]
    for mean in by_beat:
        columns.append(np.stack([_turn(mean, span) for span in SPANS], axis=1))
    pattern = struck.reshape(count, -1)
    columns.append(np.stack([_like(pattern, lag) for lag in LAGS], axis=1))
    for mean in by_beat:
        columns.append(np.stack([_like(mean, lag) for lag in LAGS], axis=1))
    level = _means(loud[:, None], edges)[:, 0]
    columns.append(np.stack([_step(level, span) for span in SPANS], axis=1))
    tempo = np.log2(60.0 / np.maximum(lengths, 0.05) / 110.0)
    there = (struck.sum(axis=(1, 2)) > 0).astype(float)
    columns.append(np.stack([tempo, there], axis=1))
    return np.concatenate(columns, axis=1).astype(np.float32)


def _struck(heard: Heard, beats: Levels, lengths: Levels) -> Levels:
    """The loudest stroke of each voice at each place of a beat, shape (beats, PLACES, voices)."""
    table = np.zeros((len(beats), len(PLACES), len(VOICES)))
    usual = np.zeros(len(VOICES)) + 1e-6
    # The end of a beat is the beginning of the next.
    places = np.array([*PLACES, 1.0])
    for voice, members in enumerate(VOICES):
        strokes = [o for o in heard.onsets if o.instrument in members]
        if not strokes:
            continue
        times = np.array([o.time for o in strokes])
        weight = np.array([o.loudness * o.confidence for o in strokes])
        usual[voice] = np.percentile(weight, 80) + 1e-6
        index = np.clip(np.searchsorted(beats, times, side="right") - 1, 0, len(beats) - 1)
        off = (times - beats[index])[:, None] / lengths[index][:, None] - places
        nearest = np.abs(off).argmin(axis=1)
        seconds = np.abs(off).min(axis=1) * lengths[index]
        fits = seconds <= np.minimum(REACH, lengths[index] / 12)
        over = nearest == len(PLACES)
        index, nearest = index + over, np.where(over, 0, nearest)
        fits &= index < len(beats)
        np.maximum.at(table, (index[fits], nearest[fits], voice), weight[fits])
    shares: Levels = np.minimum(table / usual, 1.5)
    return shares


def _tones(detail: Detail) -> tuple[Levels, Levels, Levels]:
    """What is not drums in the bass and in twelve pitch classes, frame by frame; all of it."""
    level = detail.features.astype(np.float32)
    if detail.masks is not None:
        level = level * (1.0 - detail.masks[:, : level.shape[1]].astype(np.float32))
    centres = band_centres(SAMPLE_RATE)[: level.shape[1]]
    bass = _bass(detail, level, centres)
    inside = (centres >= TONAL_HZ[0]) & (centres <= TONAL_HZ[1])
    pitch = np.round(12 * np.log2(centres[inside] / 440.0)).astype(int) % 12
    classes = np.zeros((len(level), 12), np.float32)
    np.add.at(classes.T, pitch, level[:, inside].T)
    loud = detail.features.astype(np.float32).mean(axis=1)
    return np.asarray(bass, float), np.asarray(classes, float), np.asarray(loud, float)


def _bass(detail: Detail, level: Table, centres: Levels) -> Table:
    """The notes of the bass: in long windows, which tell them apart, where there are such."""
    if detail.low is None:
        return level[:, (centres >= BASS_HZ[0]) & (centres <= BASS_HZ[1])]
    low = detail.low.astype(np.float32)
    if detail.masks is None:
        return low
    hertz = LOW_LOWEST_HZ * 2.0 ** (np.arange(low.shape[1]) / BANDS_PER_OCTAVE)
    nearest = np.abs(centres[None, :] - hertz[:, None]).argmin(axis=1)
    left: Table = low * (1.0 - detail.masks[:, nearest].astype(np.float32))
    return left


def _peak(curve: npt.NDArray[np.floating], rate: float, spots: Levels, reach: int) -> Levels:
    """The largest value near each spot."""
    if not len(curve):
        return np.zeros(len(spots))
    frames = np.clip(np.round(spots * rate).astype(int), 0, len(curve) - 1)
    near = np.clip(frames[:, None] + np.arange(-reach, reach + 1), 0, len(curve) - 1)
    return np.asarray(curve[near].max(axis=1), float)


def _means(curve: Levels, edges: npt.NDArray[np.int64]) -> Levels:
    """The mean of each beat, shape (beats, columns)."""
    total = np.concatenate([np.zeros((1, curve.shape[1])), np.cumsum(curve, axis=0)])
    width = np.maximum(1, np.diff(edges))[:, None]
    return np.asarray((total[edges[1:]] - total[edges[:-1]]) / width)


def _spans(mean: Levels, span: int) -> tuple[Levels, Levels]:
    """Means over so many beats before each beat, and from it on."""
    padded = np.concatenate([np.repeat(mean[:1], span, 0), mean, np.repeat(mean[-1:], span, 0)])
    total = np.concatenate([np.zeros((1, mean.shape[1])), np.cumsum(padded, axis=0)])
    sums = total[span:] - total[:-span]
    count = len(mean)
    return sums[:count] / span, sums[span : span + count] / span


def _turn(mean: Levels, span: int) -> Levels:
    """How unlike what follows is to what was before, 0 to 1, against the song's usual."""
    before, after = _spans(mean, span)
    centre = mean.mean(axis=0)
    before, after = before - centre, after - centre
    norm = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1) + 1e-6
    return np.asarray(0.5 - 0.5 * (before * after).sum(axis=1) / norm)


def _like(rows: Levels, lag: int) -> Levels:
    """How like each beat and its neighbour are to those `lag` beats before, -1 to 1."""
    centred = rows - rows.mean(axis=0)
    found = np.zeros(len(rows))
    if len(rows) <= lag + 1:
        return found
    both = np.concatenate([centred[:-1], centred[1:]], axis=1)
    norm = np.linalg.norm(both, axis=1) + 1e-6
    found[lag : lag + len(both) - lag] = (both[lag:] * both[:-lag]).sum(axis=1) / (
        norm[lag:] * norm[:-lag]
    )
    return found


def _step(level: Levels, span: int) -> Levels:
    """By how much it gets louder, in spreads of the song."""
    before, after = _spans(level[:, None], span)
    return np.asarray((after - before)[:, 0] / (float(level.std()) + 1e-3))
