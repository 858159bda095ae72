"""What was played beside what is written: early or late by limb, what is missing, what is too much.

Each written stroke of each pass is met by at most one played stroke of the same drum, so that as
many as possible are met, and of these the nearest (a shortest path along the two sequences, as in
score following: Dannenberg, "An on-line algorithm for real-time accompaniment", ICMC 1984). How
late one is as a whole is taken out of the search for who meets whom, not out of the figures.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from orchesis.limbs.lanes import LIMB_NAMES
from orchesis.music.instruments import SPOKEN_NAMES, Instrument, Limb

REACH_SECONDS = 0.12
"""As far from its place a stroke still counts as meant for it."""

REACH_OF_GAP = 0.45
"""And never beyond this share of the way to the next written stroke of its drum."""

LEAST_REACH = 0.001
"""Seconds: two strokes of one drum closer than that are one to anybody."""

FEWEST_FOR_A_FIGURE = 4
CONFIDENCE_Z = 1.96
EFFICIENCY = 0.955
"""Of `centre` against the mean, where errors are normal."""

MOST_IN_REACH = 32
"""Strokes of one drum within reach of a written one that are looked at: no hand plays so many."""

MOST_CELLS = 1_000_000
"""Pairs of strokes that are compared for one drum; ten minutes of fast playing have some 10,000."""

MOST_FOR_PAIRS = 600
NEAR_MS = 4.0
"""Nobody hears less: so much is said to be in time."""

SAME_DRUM: Mapping[Instrument, Instrument] = {
    Instrument.CROSS_STICK: Instrument.SNARE,
    Instrument.HIHAT_OPEN: Instrument.HIHAT_CLOSED,
    Instrument.RIDE_BELL: Instrument.RIDE,
}
"""Sounds of one pad: which of them a pad gives cannot be told from the pad alone."""

FEW_SLIPS, MANY_SLIPS = Fraction(1, 16), Fraction(1, 8)
"""Of the strokes asked for: up to the first the tempo may rise, beyond the second it must fall."""

SOFTER, LOUDER = 0.7, 1.4
"""Ratios of velocity from which a ghost is too loud or an accent too soft."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """A stroke that is asked for: seconds since playing began, at the tempo that was played."""

    time: float
    instrument: Instrument
    limb: Limb | None
    velocity: int
    ghost: bool = False
    accent: bool = False


@dataclass(frozen=True, slots=True)
class Struck:
    """A stroke that was played: seconds since playing began, latency already taken off.

    limb : where the kit can tell it (two pads of one drum), otherwise None.
    """

    time: float
    instrument: Instrument
    velocity: int
    limb: Limb | None = None


@dataclass(frozen=True, slots=True)
class LimbTiming:
    """Where one limb falls: milliseconds, late is positive; half the width of a 95 % interval."""

    limb: Limb
    late_ms: float
    give_or_take_ms: float
    spread_ms: float
    count: int
    words: str


@dataclass(frozen=True, slots=True)
class Comparison:
    """What came of the passes: pairs of indices (wanted, struck), and those left alone."""

    pairs: tuple[tuple[int, int], ...]
    missed: tuple[int, ...]
    extra: tuple[int, ...]
    limbs: tuple[LimbTiming, ...]
    other_hand: tuple[int, ...]
    """Wanted strokes that another hand played, where the kit can tell."""

    words: tuple[str, ...]

    @property
    def is_clean(self) -> bool:
        """Nothing missing, nothing too much."""
        return not self.missed and not self.extra

    @property
    def ladder_step(self) -> int:
        """What the passes say about the tempo: 1 faster, 0 stay, -1 slower; one slip is allowed."""
        slips, asked = len(self.missed) + len(self.extra), len(self.pairs) + len(self.missed)
        if slips > 1 and slips > MANY_SLIPS * asked:
            return -1
        return 1 if asked and slips <= FEW_SLIPS * asked else 0


def compare(wanted: Sequence[Wanted], struck: Sequence[Struck]) -> Comparison:
    """Meet what is written with what was played.

    Parameters
    ----------
    wanted, struck : in any order; times in seconds on one clock.

    Raises
    ------
    ValueError : more strokes fall together than hands can play.
    """
    shift = _shift(wanted, struck)
    pairs: list[tuple[int, int]] = []
    drums = {_pad(one.instrument) for one in wanted} | {_pad(one.instrument) for one in struck}
    for drum in sorted(drums, key=lambda item: item.value):
        ones = _in_time(
            [i for i, item in enumerate(wanted) if _pad(item.instrument) is drum], wanted
        )
        others = _in_time(
            [i for i, item in enumerate(struck) if _pad(item.instrument) is drum], struck
        )
        pairs += _met(ones, others, wanted, struck, shift)
    pairs.sort(key=lambda pair: wanted[pair[0]].time)
    met, used = {one for one, _ in pairs}, {other for _, other in pairs}
    missed = tuple(i for i in range(len(wanted)) if i not in met)
    extra = tuple(i for i in range(len(struck)) if i not in used)
    limbs = _limbs(pairs, wanted, struck)
    crossed = tuple(
        one
        for one, other in pairs
        if struck[other].limb is not None and struck[other].limb is not wanted[one].limb
    )
    words = _words(wanted, struck, pairs, missed, extra, limbs, crossed)
    return Comparison(tuple(pairs), missed, extra, limbs, crossed, words)


def latency_ms(clicks: Sequence[float], claps: Sequence[float]) -> float:
    """How much later than heard a clap arrives: the median over the clicks that were clapped with.

    Raises ValueError where fewer than four claps can be met with a click.
    """
    late = [
        1000 * (nearest - click)
        for click in clicks
        if claps and abs((nearest := min(claps, key=lambda clap: abs(clap - click))) - click) < 0.25
    ]
    if len(late) < FEWEST_FOR_A_FIGURE:
        raise ValueError("fewer than four claps were heard near a click")
    return float(np.median(late))


def _pad(instrument: Instrument) -> Instrument:
    return SAME_DRUM.get(instrument, instrument)


def _in_time(indices: list[int], items: Sequence[Wanted] | Sequence[Struck]) -> list[int]:
    return sorted(indices, key=lambda index: items[index].time)


def _shift(wanted: Sequence[Wanted], struck: Sequence[Struck]) -> float:
    """How late the whole of it is, in seconds: where most strokes find one of their drum."""
    found = []
    times_of_drum: dict[Instrument, list[float]] = defaultdict(list)
    for other in struck:
        times_of_drum[_pad(other.instrument)].append(other.time)
    sorted_times = {drum: np.sort(np.asarray(times)) for drum, times in times_of_drum.items()}
    for one in wanted:
        times = sorted_times.get(_pad(one.instrument))
        if times is None:
            continue
        low, high = np.searchsorted(times, (one.time - REACH_SECONDS, one.time + REACH_SECONDS))
        found.append(times[low : min(high, low + MOST_IN_REACH)] - one.time)
    values = np.sort(np.concatenate(found)) if found else np.zeros(0)
    if not values.size:
        return 0.0
    # The middle of the fullest window of 40 ms; a steady groove has one such window only.
    counts = np.searchsorted(values, values + 0.04, side="right") - np.arange(values.size)
    first = int(np.argmax(counts))
    return float(np.median(values[first : first + int(counts[first])]))


def _reach(index: int, ones: Sequence[int], wanted: Sequence[Wanted]) -> float:
    here = wanted[ones[index]].time
    gaps = [
        abs(wanted[ones[other]].time - here)
        for other in (index - 1, index + 1)
        if 0 <= other < len(ones)
    ]
    gap = min((gap for gap in gaps if gap > 0), default=math.inf)
    return max(LEAST_REACH, min(REACH_SECONDS, REACH_OF_GAP * gap))


def _met(
    ones: list[int],
    others: list[int],
    wanted: Sequence[Wanted],
    struck: Sequence[Struck],
    shift: float,
) -> list[tuple[int, int]]:
    """As many pairs as possible, in order, and of those the nearest.

    Strokes that reach each other, directly or through others, are a cluster; each cluster is
    solved by itself, so that the work grows with the strokes and not with their square. Raises
    ValueError where more strokes fall together than hands can play.
    """
    times = np.asarray([struck[other].time - shift for other in others])
    due = np.asarray([wanted[one].time for one in ones])
    reaches = np.asarray([_reach(index, ones, wanted) for index in range(len(ones))])
    lows = np.searchsorted(times, due - reaches, side="left")
    highs = np.searchsorted(times, due + reaches, side="right")
    pairs: list[tuple[int, int]] = []
    row = cells = 0
    while row < len(ones):
        end, low, high = row + 1, int(lows[row]), int(highs[row])
        while end < len(ones) and lows[end] < high:
            low, high = min(low, int(lows[end])), max(high, int(highs[end]))
            end += 1
        cells += (end - row) * (high - low)
        if cells > MOST_CELLS:
            raise ValueError("more strokes of one drum at one time than hands can play")
        if high > low:
            away = np.abs(times[None, low:high] - due[row:end, None]) / reaches[row:end, None]
            met = _assign(np.where(away <= 1.0, away, math.inf))
            pairs += [(ones[row + one], others[low + other]) for one, other in met]
        row = end
    return pairs


def _assign(meet: NDArray[np.float64]) -> list[tuple[int, int]]:
    """Pairs (row, column) in order that cost least, by dynamic programming.

    meet : what each pair costs, as a share of the reach; inf out of reach. A stroke that is left
    alone, on either side, costs 1: two that are within reach are always better met.
    """
    rows, columns = meet.shape
    cost = np.zeros((rows + 1, columns + 1))
    cost[1:, 0] = np.arange(1, rows + 1)
    cost[0, 1:] = np.arange(1, columns + 1)
    steps = np.arange(columns + 1)
    for row in range(1, rows + 1):
        best = np.minimum(cost[row - 1, 1:] + 1, cost[row - 1, :-1] + meet[row - 1])
        whole = np.concatenate((cost[row, :1], best))
        # Leaving the stroke at the left alone costs one more than the cell there.
        cost[row] = np.minimum.accumulate(whole - steps) + steps
    pairs = []
    row, column = rows, columns
    while row and column:
        if math.isclose(
            cost[row, column], cost[row - 1, column - 1] + meet[row - 1, column - 1], abs_tol=1e-9
        ):
            row, column = row - 1, column - 1
            pairs.append((row, column))
        elif math.isclose(cost[row, column], cost[row - 1, column] + 1, abs_tol=1e-9):
            row -= 1
        else:
            column -= 1
    return pairs[::-1]


def _limbs(
    pairs: Iterable[tuple[int, int]], wanted: Sequence[Wanted], struck: Sequence[Struck]
) -> tuple[LimbTiming, ...]:
    found: dict[Limb, list[float]] = {}
    for one, other in pairs:
        limb = wanted[one].limb
        if limb is not None:
            found.setdefault(limb, []).append(1000 * (struck[other].time - wanted[one].time))
    timings = []
    for limb in LIMB_NAMES:
        late = found.get(limb, [])
        if not late:
            continue
        middle = centre(late)
        spread = float(np.std(late, ddof=1)) if len(late) > 1 else 0.0
        around = CONFIDENCE_Z * spread / math.sqrt(EFFICIENCY * len(late))
        timings.append(
            LimbTiming(
                limb,
                round(middle, 1),
                round(around, 1),
                round(spread, 1),
                len(late),
                _timing_words(limb, middle, around, len(late)),
            )
        )
    return tuple(timings)


def centre(values: Sequence[float]) -> float:
    """Where values are: the median of the means of all their pairs.

    Nearly as exact as the mean, and not drawn away by a few slips (Hodges and Lehmann, "Estimates
    of location based on rank tests", Annals of Mathematical Statistics 34, 1963).
    """
    some = np.asarray(values[-MOST_FOR_PAIRS:], dtype=float)
    one, other = np.triu_indices(some.size)
    return float(np.median((some[one] + some[other]) / 2))


def _timing_words(limb: Limb, late: float, around: float, count: int) -> str:
    name = LIMB_NAMES[limb]
    if count < FEWEST_FOR_A_FIGURE:
        return f"The {name}: too few strokes to say."
    if abs(late) <= max(NEAR_MS, around):
        return f"The {name} is in time."
    return f"The {name} is {abs(late):.0f} ms {'late' if late > 0 else 'early'}."


def _words(
    wanted: Sequence[Wanted],
    struck: Sequence[Struck],
    pairs: Sequence[tuple[int, int]],
    missed: Sequence[int],
    extra: Sequence[int],
    limbs: Sequence[LimbTiming],
    crossed: Sequence[int],
) -> tuple[str, ...]:
    """What a drummer would say, the most helpful first."""
    said = []
    if not struck:
        return ("Nothing was heard from the kit.",)
    for kind, indices, items in (("left out", missed, wanted), ("too many", extra, struck)):
        counts: dict[Instrument, int] = {}
        for index in indices:
            drum = items[index].instrument
            counts[drum] = counts.get(drum, 0) + 1
        for drum, count in sorted(counts.items(), key=lambda item: -item[1]):
            name = SPOKEN_NAMES[drum]
            said.append(f"{name.capitalize()}: {count} {kind}.")
    said += [item.words for item in limbs if item.count >= FEWEST_FOR_A_FIGURE]
    said += _dynamics_words(wanted, struck, pairs)
    if crossed:
        count = len(crossed)
        said.append(f"{count} {'stroke' if count == 1 else 'strokes'} with the other hand.")
    return tuple(said)


def _dynamics_words(
    wanted: Sequence[Wanted], struck: Sequence[Struck], pairs: Sequence[tuple[int, int]]
) -> list[str]:
    """Ghosts that are not soft, accents that do not stand out: against the plain strokes."""
    plain = [
        struck[other].velocity
        for one, other in pairs
        if not wanted[one].ghost and not wanted[one].accent
    ]
    if len(plain) < FEWEST_FOR_A_FIGURE:
        return []
    usual = float(np.median(plain))
    said = []
    ghosts = [struck[other].velocity for one, other in pairs if wanted[one].ghost]
    accents = [struck[other].velocity for one, other in pairs if wanted[one].accent]
    if len(ghosts) >= FEWEST_FOR_A_FIGURE and np.median(ghosts) > SOFTER * usual:
        said.append("The ghosts are nearly as loud as all else: lower the stick.")
    if len(accents) >= FEWEST_FOR_A_FIGURE and np.median(accents) * 1.0 < LOUDER / 1.25 * usual:
        said.append("The accents hardly stand out: lift the stick before them.")
    return said
