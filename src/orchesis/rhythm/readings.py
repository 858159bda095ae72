"""Readings: the ways in which a song can be counted, with what speaks for each.

A tracker's tempo is often double or half of the felt one, or a third of it or three times it where
beats fall in three, and now and then it taps between the beats. The bar network says of each level
whether people count it so, and where its bars begin. Where there are strokes and no sound to go by,
each level is judged by how well its bars hold together, by how much the pulse stands out on its
beats, and by how near its tempo is to what people tap readily (Moelants 2002; McKinney and
Moelants, "Ambiguity in tempo perception", Music Perception 2006). Within a level, bars of two,
three and four beats are compared, and simple against compound time. The user may take any of them:
the same hits are then written on other lines.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from orchesis.listening.ear import Heard
from orchesis.music.values import Meter
from orchesis.rhythm.bar_network import said_of_beats
from orchesis.rhythm.bars import (
    HALF_TIME_MARGIN,
    BarLines,
    Levels,
    bar_lines_by_odds,
    beat_evidence,
    find_bar_lines,
    is_half_time,
    near_beats,
    shifted,
)
from orchesis.rhythm.beats import FELT_BPM, Times, tempo_of
from orchesis.rhythm.described import describe_beats
from orchesis.rhythm.landing import changes_of_half, landings
from orchesis.rhythm.levels import candidate_levels, in_parts
from orchesis.rhythm.ternary import (
    FASTEST_SHUFFLE,
    TERNARY_ABOVE,
    is_in_threes,
    is_shuffle,
    measure_thirds,
)
from orchesis.rhythm.witness import (
    figures,
    words_for_odd_bars,
    words_for_the_one,
    words_for_the_pulse,
)

LEVEL_OCTAVES = 0.65
"""Spread, in octaves, of the tempo that people choose to tap."""

TEMPO_WEIGHT = 2.0
CONTRAST_WEIGHT = 2.0
"""What a pulse that is all on the beats and none between them is worth, in bar-line score."""

TRIPLE_MARGIN = 1.15
"""Three must explain the song this much better than four: it is far rarer."""

IN_TWO_ABOVE = 0.7
"""Where the middle of a compound bar is this much of a downbeat, bars have two beats. In simple
time four is taken, and two offered: some write the same music in 2/4, others in 4/4."""

NO_ONE_BELOW = -2.5
"""Log odds of the middles of compound bars of four, in the mean: where the bar network is so sure
that no bar begins there, bars have four beats (12/8) whatever the curve of downbeats says."""

LANDED_AMID = 1.5
"""So many plain fills that land in the middle of bars of four, and no fewer than on their ones:
then bars have two beats. A fill leads to a one."""

MOST_HALF_BARS = 3
"""So many extra half bars, of one fill to the next, are no accidents: bars have two beats."""

MORE_BARS = {2: 1.5, 3: 0.5, 4: 0.0}
"""Log odds by which each bar line must pay for itself: bars of two have twice as many as bars of
four, and every other one is no worse."""

FELT_COMPOUND_BPM = 72.0
"""Dotted quarters are felt slower: three eighths in each."""

SPARSE_BELOW, SPARSE_COST = 0.3, 2.2
"""Where hardly any beat has a stroke between it and the next, the felt beat is rather twice as
long: the steady limb plays eighths far more often than bare quarters."""

MOST_READINGS = 8
"""Besides them, the same bars in two at half the tempo, where they are not among them."""

OTHER_PACE_WITHIN = 4.0
"""Score by which beats half or twice as long may be behind and are still offered first. People
differ on the pace more than on anything else, and where the one is has a button of its own. Of 41
songs that teach and are read wrongly, five are right so, and those are behind by up to 2.9."""

SAME_PACE = 0.1
"""In octaves."""


@dataclass(frozen=True, slots=True)
class Reading:
    """One way to count the song.

    key : names it among the others: level, metre and phase. words : what it is, for people.
    """

    key: str
    words: str
    beats: Times
    lines: BarLines
    meter: Meter
    score: float
    evidence: tuple[str, ...]

    @property
    def tempo_bpm(self) -> float:
        """Median tempo in felt beats a minute."""
        return tempo_of(self.beats)


def pulse_contrast(heard: Heard, beats: Times, parts: int) -> float:
    """Mean pulse at the beats less the mean pulse at the places between them, -1 to 1."""
    on = near_beats(heard.pulse, heard.frame_rate, beats).mean()
    fine = in_parts(beats, parts)
    between = np.concatenate([fine[k::parts] for k in range(1, parts)])
    off = near_beats(heard.pulse, heard.frame_rate, between).mean()
    return float(min(1.0, on) - min(1.0, off))


def filled_beats(heard: Heard, beats: Times) -> float:
    """Share of the beats, of those with a stroke near, that have one between them and the next."""
    times = np.array([onset.time for onset in heard.onsets])
    lengths = np.diff(beats)
    low = np.searchsorted(times, beats[:-1] + 0.15 * lengths)
    high = np.searchsorted(times, beats[:-1] + 0.85 * lengths)
    around = np.searchsorted(times, beats[1:]) - np.searchsorted(times, beats[:-1] - 0.05)
    played = around > 0
    return float((high > low)[played].mean()) if played.any() else 0.0


def rank_readings(heard: Heard, beats: Times, only: tuple[str, ...] = ()) -> tuple[Reading, ...]:
    """The possible readings, without those that nobody would take.

    The best first, then what is twice or half as fast, then the others by score.

    Parameters
    ----------
    heard : all that was heard. beats : shape (beats,), as tracked, seconds.
    only : how the names of levels begin that are looked at; () for all.
    """
    best_of_level: list[Reading] = []
    others: list[Reading] = []
    levels = candidate_levels(beats)
    across = _across(heard, dict(levels))
    for name, candidate in levels:
        if (only and not name.startswith(only)) or name in across:
            continue
        if name == "off" and heard.detail is None:
            # By strokes alone there is nothing to tell by that all of them are between the beats.
            continue
        first, *rest = _of_level(heard, candidate, name)
        best_of_level.append(first)
        others += rest
    if not best_of_level:
        return ()
    best_of_level.sort(key=lambda reading: -reading.score)
    best = _shuffle_of(heard, best_of_level)
    best_of_level = [best, *(one for one in best_of_level if one is not best)]
    level = best.key.split("/")[0]
    mine = [reading for reading in others if reading.key.split("/")[0] == level]
    offered = others
    others = sorted([*mine, *best_of_level[1:]], key=lambda reading: -reading.score)
    others.sort(key=lambda reading: not _is_other_pace(reading, best))
    ranked = _without_doubles([best, *others])[:MOST_READINGS]
    if best.meter.beats == 4 and not any(_is_in_two_half_as_fast(one, best) for one in ranked):
        in_two = [one for one in offered if _is_in_two_half_as_fast(one, best)]
        slower = sorted(in_two, key=lambda reading: -reading.score)[:1]
        ranked += slower
    return tuple(ranked)


def _shuffle_of(heard: Heard, ranked: Sequence[Reading]) -> Reading:
    """The best reading; or, where its beats are pairs of a shuffle's, that of the shuffle.

    Six parts with ghost notes on the middle of each three are written as triplets, twice as fast.
    """
    best = ranked[0]
    for reading in ranked[1:]:
        octaves = float(np.log2(reading.tempo_bpm / best.tempo_bpm))
        if (
            abs(octaves - 1) < SAME_PACE
            and reading.tempo_bpm <= FASTEST_SHUFFLE
            and not reading.meter.is_compound
            and is_in_threes(*measure_thirds(heard, reading.beats))
            and is_shuffle(heard, reading.beats)
        ):
            return reading
    return best


def _is_in_two_half_as_fast(reading: Reading, best: Reading) -> bool:
    """The same bars counted in two, half as fast: 2/4 at 60 for 4/4 at 120."""
    octaves = float(np.log2(reading.tempo_bpm / best.tempo_bpm))
    is_plain = reading.meter == Meter(2, 4) and reading.key.endswith("/0")
    return is_plain and abs(octaves + 1) < SAME_PACE


def _is_other_pace(reading: Reading, best: Reading) -> bool:
    """Whether it is twice or half as fast as the best, and not far behind it."""
    octaves = abs(np.log2(reading.tempo_bpm / best.tempo_bpm))
    return bool(abs(octaves - 1) < SAME_PACE and best.score - reading.score < OTHER_PACE_WITHIN)


def _across(heard: Heard, levels: dict[str, Times]) -> set[str]:
    """Levels that run across the thirds of another: twice as fast as beats that fall in three."""
    found: set[str] = set()
    for slow, fast in (("tracked", {"double"}), ("half-0", {"tracked"}), ("half-1", {"tracked"})):
        if slow in levels and is_in_threes(*measure_thirds(heard, levels[slow])):
            found |= fast
    return found


def _without_doubles(readings: list[Reading]) -> list[Reading]:
    kept: list[Reading] = []
    for reading in readings:
        same = (
            other.meter == reading.meter
            and abs(other.tempo_bpm / reading.tempo_bpm - 1) < 0.02
            and other.words == reading.words
            for other in kept
        )
        if not any(same):
            kept.append(reading)
    return kept


OFF_WORDS = ", on what the others take for off-beats"


def _paid(lines: BarLines, beats: int) -> float:
    """What bar lines say for themselves, each but for its price."""
    return lines.score * beats - MORE_BARS[lines.beats_a_bar] * len(lines.downbeats)


def _of_level(heard: Heard, beats: Times, name: str) -> list[Reading]:
    """The readings of one level, its best first."""
    landed = landings(heard, beats)
    evidence = beat_evidence(heard, beats, landed)
    level: float | None = None
    odds: Levels | None = None
    if heard.detail is None:
        lines = {2: find_bar_lines(evidence, "two"), 3: find_bar_lines(evidence, "three")}
        lines[4] = find_bar_lines(evidence, "four")
        half = find_bar_lines(evidence, "half-time")
        if half.score > HALF_TIME_MARGIN + lines[4].score:
            lines[4] = half
    else:
        odds, level = said_of_beats(describe_beats(heard, beats, landed))
        lines = {count: bar_lines_by_odds(odds, count) for count in (2, 3, 4)}
        if is_half_time(evidence, lines[4]):
            lines[4] = replace(lines[4], half_time=True)
    share, middle = measure_thirds(heard, beats)
    ternary = share > TERNARY_ABOVE
    compound = is_in_threes(share, middle) and not is_shuffle(heard, beats)
    tempo = tempo_of(beats)
    felt = FELT_COMPOUND_BPM if compound else FELT_BPM
    octaves = np.log2(tempo / felt) / LEVEL_OCTAVES
    contrast = pulse_contrast(heard, beats, 3 if ternary else 2)
    base = CONTRAST_WEIGHT * contrast - 0.5 * TEMPO_WEIGHT * float(octaves**2)
    if filled_beats(heard, beats) < SPARSE_BELOW:
        base -= SPARSE_COST
    if name.startswith("third") and not compound:
        base -= 3.0
    downbeat = near_beats(heard.downbeat, heard.frame_rate, beats)
    ones = np.array(lines[4].downbeats)
    halves = ones[ones + 2 < len(beats)] + 2
    in_two = float(downbeat[halves].mean() / max(1e-3, downbeat[ones].mean())) if len(halves) else 0
    amid, on_one = (float(landed[places].sum()) for places in (halves, ones))
    against_four = (amid >= LANDED_AMID and amid >= on_one) or changes_of_half(
        landed
    ) >= MOST_HALF_BARS
    fills_say_two = not compound and against_four
    curve_says_two = compound and in_two > IN_TWO_ABOVE
    if odds is not None and len(halves):
        curve_says_two = curve_says_two and float(odds[halves].mean()) > NO_ONE_BELOW
    if level is None:
        three = lines[3].score > TRIPLE_MARGIN * max(lines[4].score, 0.05)
        two = fills_say_two or curve_says_two
        count = 3 if three else 2 if two else 4
        score = base + lines[count].score
    else:
        count = max(lines, key=lambda count: _paid(lines[count], len(beats)))
        if count == 4 and (fills_say_two or curve_says_two):
            count = 2
        score = level
    made = []
    order = [count, *(c for c in (4, 2, 3) if c != count)]
    for rank, beats_a_bar in enumerate(order):
        here = lines[beats_a_bar]
        meter = Meter(3 * beats_a_bar, 8) if compound else Meter(beats_a_bar, 4)
        why = [
            words_for_the_one(evidence, here),
            words_for_the_pulse(contrast),
            f"{tempo:.0f} beats a minute is "
            + ("a tempo that people tap readily" if abs(octaves) < 1 else "seldom tapped"),
        ]
        if ternary:
            why.append("what falls between the beats falls on thirds")
        if beats_a_bar == 2 and in_two:
            why.append(
                "the middle of a bar of four is nearly as much of a one as its start"
                if in_two > IN_TWO_ABOVE
                else "a bar of four has one start, not two"
            )
        if beats_a_bar == 2 and fills_say_two:
            why.append("fills land in the middle of bars of four")
        if here.odd_bars:
            why.append(words_for_odd_bars(here.odd_bars))
        why.append(figures(here, contrast, tempo))
        made.append(
            Reading(
                key=f"{name}/{meter.beats}-{meter.unit}/0",
                words=f"{meter} at {tempo:.0f}" + OFF_WORDS * (name == "off"),
                beats=beats,
                lines=here,
                meter=meter,
                score=score - 0.5 * rank,
                evidence=tuple(why),
            )
        )
    first = made[0]
    for by in range(1, first.lines.beats_a_bar):
        later = shifted(first.lines, len(beats), by)
        said = "a beat later" if by == 1 else f"{by} beats later"
        made.append(
            Reading(
                key=f"{first.key[:-2]}/{by}",
                words=f"{first.words}, the one {said}",
                beats=beats,
                lines=later,
                meter=first.meter,
                score=first.score - 0.4 - 0.3 * by,
                evidence=(f"the same bars, counted from {said}",),
            )
        )
    return made
