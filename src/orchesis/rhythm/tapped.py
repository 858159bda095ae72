"""A grid from beats that somebody tapped along with the record: there, and all song long.

Who taps is early by some hundredths of a second, evenly so, and scatters by two (Repp,
"Sensorimotor synchronization: a review of the tapping literature", Psychonomic Bulletin & Review
2005); a key or a loudspeaker adds a delay of its own. So taps say which beats are meant, and the
strokes that sound with them say when they are: what all taps are off by is taken away first, then
beats go between taps and strokes as smoothly as the tapping does (Whittaker, "On a new method of
graduation", 1923). Before the first tap and after the last one the pulse is followed from stroke
to stroke by the tracker of `beats`, which begins at the tempo that was tapped.

Times are seconds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from orchesis.errors import InvalidTranscription
from orchesis.music.values import Meter, ReadingSummary, Transcription
from orchesis.rhythm.beats import SNAP_SECONDS, Times, draw_to, tempo_of, track_beats
from orchesis.rhythm.former import FormerGrid
from orchesis.rhythm.levels import in_parts
from orchesis.rhythm.rewrite import on_beats
from orchesis.rhythm.strokes import Strokes, strokes_of
from orchesis.rhythm.typed import with_fixed

FEWEST_TAPS = 4
MOST_TAPS = 2000
TAPS_AROUND = 2
SHORTEST_BEAT, LONGEST_BEAT = 0.2, 2.0
CLOSEST_TAPS = 0.05
"""Seconds: nobody taps a pulse faster; what is closer is one tap sent twice, or no tap at all."""

LATE_TAP = 1.0
"""Seconds after the end of the recording in which a last tap may fall."""

ASTRAY = 0.3
"""Share of a beat by which a tap may be off."""

STRAYS = 5
"""One tap in so many may be beside the beat altogether: it is left out."""

REACH, REACH_BEATS = 0.12, 1 / 6
"""Seconds, and share of a beat, by which all taps may be off their strokes; the less of the two."""

TAP_SPREAD, STROKE_SPREAD = 0.02, 0.008
"""Seconds by which taps, and strokes, lie beside the beat."""

BEND = 0.006
"""Seconds by which one beat of a band is longer or shorter than the last, more where the tapping
itself slows down or hurries more than taps scatter."""

PACE = 12
"""Beats at the end of the taps from which the pulse is followed on."""

PACE_RANGE = 1.3
"""So many times slower or faster than they were tapped may beats become."""

SLOWEST_FOLLOWED = 0.6
"""Seconds: slower beats are followed in halves or thirds. Of a pulse on one and three the loud
strokes lie between the beats, and draw it there."""

RATE = 100.0


def on_taps(
    song: Transcription,
    taps: Sequence[float],
    beats_a_bar: int,
    fixed: Sequence[tuple[float, float]] = (),
    strokes: Strokes | None = None,
) -> Transcription:
    """The song on a grid that the user tapped: the first tap is a one.

    Where the grid that there was goes on as the taps do, it stays beyond them. Elsewhere the pulse
    is followed from the taps on.

    fixed : seconds of stretches (confirmed sections) whose beats stay where nobody tapped.
    strokes : what sounds, where that is more than what is written.

    Raises InvalidTranscription as `checked_taps`, and for taps that are no pulse.
    """
    times = _without_strays(checked_taps(taps, song.length))
    strokes = strokes or strokes_of(song.hits)
    inside = settled(_with_those_between(times), strokes)
    before, after = followed(inside, strokes, song.duration)
    former = FormerGrid.of(song)
    sooner = former.turned().instead(-before[::-1], -float(inside[0]), strokes.turned(0.0))
    later = former.instead(after, float(inside[-1]), strokes)
    how = _how(sooner is not None, later is not None, len(strokes.times))
    before = before if sooner is None else -sooner[::-1]
    after = after if later is None else later
    beats = former.where_it_sounds(np.concatenate([before, inside, after]), inside)
    kept = [span for span in fixed if span[1] <= inside[0] or span[0] >= inside[-1]]
    beats = with_fixed(beats, former.beats, kept)
    first, last = np.abs(beats[None] - inside[[0, -1], None]).argmin(axis=1)
    meter = Meter(beats_a_bar, 4)
    tempo = tempo_of(beats)
    reading = ReadingSummary(
        key="tracked/tapped/0",
        words=f"{meter} at {tempo:.0f}, tapped",
        tempo_bpm=tempo,
        meter=meter,
        evidence=(_evidence(len(times), len(beats) - len(inside), how),),
        downbeats=tuple(former.ones(beats, int(first), int(last), beats_a_bar, kept)),
    )
    tapped = replace(song, tracked_beats=tuple(float(b) for b in beats))
    # Other readings counted other beats: they go.
    return on_beats(tapped, beats, reading, (reading,))


def _how(before_stays: bool, after_stays: bool, strokes: int) -> str:
    """How the beats were found that nobody tapped."""
    if before_stays and after_stays:
        return "stay where they were: they go on as you tapped"
    if not strokes:
        return "go on at that tempo"
    follow = "follow the strokes from there"
    if before_stays or after_stays:
        return f"{follow} {'on' if before_stays else 'back'}, or stay where they were"
    return follow


def _evidence(tapped: int, others: int, how: str) -> str:
    return f"you tapped {tapped} beats" + (f"; the other {others} {how}" if others else "")


def checked_taps(taps: Sequence[float], duration: float) -> Times:
    """The taps in order, as they may be worked on: a few of them, apart, within the recording.

    Parameters
    ----------
    taps : seconds of the recording.
    duration : seconds that the recording lasts.

    Raises
    ------
    InvalidTranscription
        Before any work is done, when there are too few or too many, when one lies outside the
        recording or is no number, or when two fall on the same moment.
    """
    if len(taps) < FEWEST_TAPS:
        raise InvalidTranscription(f"tap at least {FEWEST_TAPS} beats")
    if len(taps) > MOST_TAPS:
        raise InvalidTranscription(f"at most {MOST_TAPS} taps are taken")
    times = np.sort(np.asarray(taps, dtype=float))
    if not (times >= 0.0).all() or not (times <= duration + LATE_TAP).all():
        raise InvalidTranscription(
            f"a tap lies outside the recording, which lasts {duration:.0f} s: tap along with it"
        )
    if float(np.diff(times).min()) < CLOSEST_TAPS:
        raise InvalidTranscription("two taps fall on the same moment: tap each beat once")
    return times


def _beats_between(times: Times) -> Times:
    """How many beats lie between neighbouring taps, as fractions, by the tempo of those around.

    Who taps to rubato slows down and hurries, but not from tap to tap.
    """
    gaps = np.diff(times)
    # The ends have fewer neighbours: what is missing is no number, and left out of the median.
    padded = np.pad(gaps, TAPS_AROUND, constant_values=np.nan)
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * TAPS_AROUND + 1)
    ordered = np.sort(windows, axis=1)
    count = np.isfinite(windows).sum(axis=1)
    rows = np.arange(len(gaps))
    around = (ordered[rows, (count - 1) // 2] + ordered[rows, count // 2]) / 2
    return np.asarray(gaps / np.maximum(around, 1e-3))


def _astray(times: Times) -> Times:
    """How far each step between taps is from whole beats, shape (taps - 1,)."""
    beats = _beats_between(times)
    return np.abs(beats - np.maximum(1, np.round(beats)))


def _without_strays(times: Times) -> Times:
    """The taps without the few that fell beside the beat; raises InvalidTranscription for more."""
    allowed = len(times) // STRAYS
    while (_astray(times) > ASTRAY).any():
        if not allowed or len(times) <= FEWEST_TAPS:
            raise InvalidTranscription("these taps are no steady pulse: try again")
        allowed -= 1
        worst = int(np.argmax(_astray(times)))
        # One of its ends is the stray; the first tap is a one, and stays.
        ends = [np.delete(times, end) for end in (worst, worst + 1) if end > 0]
        times = min(ends, key=lambda kept: float(_astray(kept).sum()))
    gaps = np.diff(times)
    if not (gaps.min() > SHORTEST_BEAT and np.median(gaps) < LONGEST_BEAT):
        raise InvalidTranscription("these taps are no steady pulse: try again")
    return times


def _with_those_between(times: Times) -> Times:
    """The taps, and the beats between them that were not tapped."""
    counted = np.maximum(1, np.round(_beats_between(times)))
    steps = np.concatenate([[0], np.cumsum(counted)])
    return np.interp(np.arange(int(steps[-1]) + 1), steps, times)


def settled(taps: Times, strokes: Strokes) -> Times:
    """The beats that these taps mean, by the strokes that sound with them.

    taps : shape (beats,), one on each beat.
    """
    if not len(strokes.times):
        return taps
    taps = taps + _off_by(taps, strokes)
    targets, trust = taps.copy(), np.full(len(taps), TAP_SPREAD**-2)
    for index, tap in enumerate(taps):
        low, high = np.searchsorted(strokes.times, [tap - SNAP_SECONDS, tap + SNAP_SECONDS])
        if high > low:
            weights = strokes.weights[low:high]
            own = float(weights.max()) * STROKE_SPREAD**-2
            at = float((weights * strokes.times[low:high]).sum() / weights.sum())
            targets[index] = (trust[index] * tap + own * at) / (trust[index] + own)
            trust[index] += own
    smooth = _smoothed(targets, trust)
    # Once more without those that stray from the line: they were early or late.
    stray = (targets - smooth) * np.sqrt(trust)
    smooth = _smoothed(targets, trust / (1.0 + (stray / 2) ** 2))
    return smooth if bool((np.diff(smooth) > 0).all()) else taps


def _off_by(taps: Times, strokes: Strokes) -> float:
    """What all taps are early by: where most of the strokes around them lie."""
    reach = min(REACH, REACH_BEATS * float(np.median(np.diff(taps))))
    gaps, weights = [], []
    for tap in taps:
        low, high = np.searchsorted(strokes.times, [tap - 2 * reach, tap + 2 * reach])
        gaps.append(strokes.times[low:high] - tap)
        weights.append(strokes.weights[low:high])
    apart, weight = np.concatenate(gaps), np.concatenate(weights)
    if not len(apart):
        return 0.0
    shifts = 0.001 * np.arange(-round(1000 * reach), round(1000 * reach) + 1)
    bells = np.exp(-0.5 * ((apart[None] - shifts[:, None]) / TAP_SPREAD) ** 2)
    return float(shifts[int((bells @ weight).argmax())])


def _smoothed(targets: Times, trust: npt.NDArray[np.float64]) -> Times:
    """The line that is near the targets and bends little; both shape (beats,)."""
    count = len(targets)
    bends = np.diff(targets, 2)
    # Of three taps that scatter the middle one is off by so much; what is more is meant.
    scatter = 1.4826 * float(np.median(np.abs(bends))) if count > 2 else 0.0
    meant = np.sqrt(max(0.0, scatter**2 - 6 * TAP_SPREAD**2))
    stiff = max(BEND, meant) ** -2
    second = np.diff(np.eye(count), 2, axis=0)
    return np.asarray(np.linalg.solve(np.diag(trust) + stiff * second.T @ second, trust * targets))


def followed(inside: Times, strokes: Strokes, duration: float) -> tuple[Times, Times]:
    """The beats before and after those that are known.

    Parameters
    ----------
    inside : shape (beats,), the known ones.
    duration : seconds that the recording lasts.

    Returns
    -------
    Before and after, ascending; at the tempo of the nearest known ones where nothing is struck.
    """
    known = inside
    while float(np.median(np.diff(known))) > SLOWEST_FOLLOWED:
        known = in_parts(known, _divided_in(known, strokes))
    parts = (len(known) - 1) // (len(inside) - 1)
    end = max(duration, float(inside[-1]))
    after = _onwards(known, strokes, end)
    turned = _onwards((end - known)[::-1], strokes.turned(end), end)
    return (end - turned[parts - 1 :: parts])[::-1], after[parts - 1 :: parts]


def _divided_in(beats: Times, strokes: Strokes) -> int:
    """Whether more is struck on halves of these beats, or on thirds."""
    on_beats_alone = strokes.on(beats)
    return max((2, 3), key=lambda n: (strokes.on(in_parts(beats, n)) - on_beats_alone) / (n - 1))


def _onwards(known: Times, strokes: Strokes, end: float) -> Times:
    """The beats after the known ones, up to `end`."""
    known = known[-PACE:]
    beat = float(np.polyfit(np.arange(len(known)), known, 1)[0])
    last = float(known[-1])
    steady = last + beat * np.arange(1, max(0, int((end - last) / beat)) + 1)
    if not len(steady) or not (strokes.times > last).any():
        return np.asarray(steady)
    start = float(known[0])
    pulse = np.zeros(int((end - start) * RATE) + 2)
    later = strokes.times > last + beat / 2
    frames = np.round((strokes.times[later] - start) * RATE).astype(int)
    inside = frames < len(pulse)
    np.maximum.at(pulse, frames[inside], strokes.weights[later][inside])
    # Either side too: a beat is as long as a whole number of frames.
    pulse = np.maximum(pulse, 0.6 * np.maximum(np.roll(pulse, 1), np.roll(pulse, -1)))
    pulse[np.round((known - start) * RATE).astype(int)] = 1.0
    tempo = 60 / beat
    tracked = start + track_beats(
        pulse.astype(np.float32),
        RATE,
        slowest_bpm=tempo / PACE_RANGE,
        fastest_bpm=tempo * PACE_RANGE,
        felt_bpm=tempo,
    )
    new = tracked[tracked > last + beat / 2]
    if not len(new):
        return np.asarray(steady)
    return draw_to(np.concatenate([known, new]), strokes.times, strokes.weights)[len(known) :]
