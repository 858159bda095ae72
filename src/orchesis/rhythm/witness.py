"""What speaks for a reading, as a drummer would say it; figures come last, for who wants them.

The words are read off the same evidence by which bar lines are found (`beat_evidence`): what falls
on the one, on average over the song, against what falls on the other beats of the bar.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from orchesis.rhythm.bars import BarLines, Levels

STANDS_OUT = 0.35
"""Evidence has spread 1: by so much the one must lead the other beats to be spoken of."""

OFTEN = 0.4
HARDLY_CLEARER = 0.2
PLAIN_PULSE, FAINT_PULSE = 0.25, 0.08
FIGURES = "In figures: "
"""How the line of figures begins: the page keeps it folded."""


def profile(evidence: Mapping[str, Levels], lines: BarLines, kind: str) -> Levels:
    """Mean evidence of one kind on each beat of a full bar.

    Parameters
    ----------
    evidence : from `bars.beat_evidence`.
    lines : the bar lines.
    kind : of evidence.

    Returns
    -------
    Shape (beats_a_bar,).
    """
    count = lines.beats_a_bar
    starts = [
        first for first in lines.downbeats if first >= 0 and first + count <= len(evidence[kind])
    ]
    if not starts:
        return np.zeros(count)
    rows = np.stack([evidence[kind][first : first + count] for first in starts])
    return np.asarray(rows.mean(axis=0))


def words_for_the_one(evidence: Mapping[str, Levels], lines: BarLines) -> str:
    """Why the one is here: "the chords change with this one; the backbeat falls on 2 and 4".

    Parameters
    ----------
    evidence : from `bars.beat_evidence`, shape (beats,) of each kind.
    lines : the bar lines.
    """
    said = []
    for kind, words in (
        ("change", "the chords change with this one"),
        ("crash", "crashes land on it"),
        ("landing", "fills land on it"),
        ("kick", "the kick plays it"),
    ):
        there = profile(evidence, lines, kind)
        if there[0] - there[1:].max(initial=-1.0) > STANDS_OUT:
            said.append(words)
    snare = profile(evidence, lines, "snare")
    back = [str(beat + 1) for beat in range(1, len(snare)) if snare[beat] > OFTEN]
    if back:
        said.append(f"the backbeat falls on {' and '.join(back)}")
    if not said and profile(evidence, lines, "downbeat")[0] > OFTEN:
        said.append("it sounds like a one, though nothing single says so")
    if not said:
        return "nothing in particular speaks for this one"
    words = "; ".join(said)
    if lines.clarity < HARDLY_CLEARER:
        words += "; another beat would do nearly as well"
    return words


def words_for_the_pulse(contrast: float) -> str:
    """How plainly the beats of this level stand out; contrast as `pulse_contrast` gives it."""
    if contrast > PLAIN_PULSE:
        return "what stands out falls on these beats, little between them"
    if contrast > FAINT_PULSE:
        return "more falls on these beats than between them"
    return "as much stands out between these beats as on them"


def words_for_odd_bars(count: int) -> str:
    """How many bars leave the metre."""
    return "one bar leaves the metre" if count == 1 else f"{count} bars leave the metre"


def figures(lines: BarLines, contrast: float, tempo: float) -> str:
    """The numbers behind the words, to the precision that they have."""
    elsewhere = lines.score - lines.clarity
    return (
        f"{FIGURES}fit {lines.score:.1f}, with the one elsewhere {elsewhere:.1f}; "
        f"pulse {contrast:+.1f}; {tempo:.0f} beats a minute"
    )
