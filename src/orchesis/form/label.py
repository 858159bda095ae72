"""Labels: which sections are the same (A B A' B' C), then what they are called.

Sameness comes first, from what the bars play and sound like, aligned bar by bar; a name is only a
proposal on top of it, by where the section stands, how often it comes back and how full it is.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from orchesis.form.describe import BarsDescribed, Matrix

SAME_ABOVE = 0.84
WEIGHTS = {"drums": 0.34, "amount": 0.16, "chroma": 0.3, "colour": 0.2}
INTRO_AT_MOST = 12
BRIEF = 4
"""Bars of a section that only leads in or out, though it plays what another plays."""

LETTERS = tuple("ABCDEFGHIJKLMNOPQRSTUVWXYZ")


def bar_likeness(described: BarsDescribed) -> Matrix:
    """How alike every two bars are.

    Parameters
    ----------
    described : what is known of each bar.

    Returns
    -------
    Shape (bars, bars), 0 to 1.
    """
    total = np.zeros((len(described.crash), len(described.crash)))
    used = 0.0
    for name, weight in WEIGHTS.items():
        values = getattr(described, name)
        if not values.any():
            continue
        if name == "colour":
            gap = np.sqrt(((values[:, None] - values[None]) ** 2).mean(axis=2))
            scale = np.sqrt(((values - values.mean(axis=0)) ** 2).mean()) + 1e-6
            total += weight * np.exp(-gap / (1.5 * scale))
        else:
            norm = np.linalg.norm(values, axis=1)
            near = values @ values.T / np.maximum(np.outer(norm, norm), 1e-9)
            empty = norm < 1e-9
            near[np.outer(empty, empty)] = 1.0
            total += weight * near
        used += weight
    return total / max(used, 1e-9)


def section_likeness(likeness: Matrix, one: range, other: range) -> float:
    """How alike two sections are: aligned bar by bar, at the shift that fits best.

    Parameters
    ----------
    likeness : shape (bars, bars), as `bar_likeness` gives it.
    one, other : the bars of each section.

    Returns
    -------
    0 to 1.
    """
    short, long = (one, other) if len(one) <= len(other) else (other, one)
    best = 0.0
    for shift in range(len(long) - len(short) + 1):
        # The median: a fill at the end of one and not of the other does not make them differ.
        aligned = [likeness[a, long[shift + k]] for k, a in enumerate(short)]
        best = max(best, float(np.median(aligned)))
    return best - 0.02 * abs(len(long) - len(short)) / max(1, len(short))


def letters(likeness: Matrix, sections: Sequence[range]) -> list[str]:
    """A letter for each section; the same letter for the same music.

    Parameters
    ----------
    likeness : shape (bars, bars), as `bar_likeness` gives it.
    sections : the bars of each, in order.

    Returns
    -------
    A letter for each section, from A on.
    """
    groups: list[list[int]] = []
    result: list[str] = []
    for index, section in enumerate(sections):
        scores = [
            np.mean([section_likeness(likeness, section, sections[other]) for other in group])
            for group in groups
        ]
        if scores and max(scores) >= SAME_ABOVE:
            choice = int(np.argmax(scores))
        else:
            groups.append([])
            choice = len(groups) - 1
        groups[choice].append(index)
        result.append(chr(ord("A") + choice) if choice < 26 else f"Z{choice}")
    return result


def names(described: BarsDescribed, sections: Sequence[range], marks: Sequence[str]) -> list[str]:
    """A proposed name for each section, numbered where it comes back.

    A letter, until something is known: what stands at the ends or is silent is called so; verse,
    chorus and bridge are said only of a song in which two kinds of section come back in turn and
    the later one is clearly fuller (`verse_and_chorus`).
    """
    density = [float(described.amount[list(section)].sum(axis=1).mean()) for section in sections]
    counts = Counter(marks)
    known = verse_and_chorus(_fullness(described, sections, density), marks)
    last = len(sections) - 1
    base: list[str] = []
    for index, mark in enumerate(marks):
        silent = density[index] < SILENT_BELOW * max(density)
        short = len(sections[index]) <= INTRO_AT_MOST
        thin = density[index] < 0.75 * np.median(density)
        alone = counts[mark] == 1
        brief = len(sections[index]) <= BRIEF
        leads_in = brief and last > 0 and index == 0 and marks[1] == mark
        if index == 0 and last > 0 and short and (silent or thin or alone or leads_in):
            base.append("Intro")
        elif index == last and last > 1 and (alone or brief):
            base.append("Outro")
        elif silent:
            base.append("Break")
        elif known is not None and mark in known:
            base.append("Verse" if mark == known[0] else "Chorus")
        elif known is not None and alone and _is_bridge(index, marks, known):
            base.append("Bridge")
        else:
            base.append(mark)
    total = Counter(base)
    used: Counter[str] = Counter()
    result = []
    for name in base:
        used[name] += 1
        result.append(f"{name} {used[name]}" if total[name] > 1 else name)
    return result


def in_alphabetical_order(
    labels: Sequence[str], marks: Sequence[str]
) -> tuple[list[str], list[str]]:
    """Labels and letters such that the sections that are called by a letter begin with A.

    An intro or a break has a letter too, which is not its name: it comes after those that are.
    """
    called = [mark for label, mark in zip(labels, marks, strict=True) if label.split()[0] == mark]
    order = list(dict.fromkeys([*called, *marks]))
    new = dict(zip(order, sorted(order, key=lambda mark: (len(mark), mark)), strict=True))
    relabelled = [
        " ".join([new[mark], *label.split()[1:]]) if label.split()[0] == mark else label
        for label, mark in zip(labels, marks, strict=True)
    ]
    return relabelled, [new[mark] for mark in marks]


SILENT_BELOW = 0.25
"""Times the strokes of the fullest section: less is a break."""

FULLER = 1.12
"""Times as full as the verse that a chorus is, at least."""

TURNS = 2
"""So often the one follows the other, at least."""


def verse_and_chorus(fullness: Sequence[float], marks: Sequence[str]) -> tuple[str, str] | None:
    """Which two kinds of section are verse and chorus; None where that is not clear.

    Parameters
    ----------
    fullness : of each section, as `_fullness` gives it.
    marks : the letter of each section.

    Notes
    -----
    Both come back, the second follows the first at least TURNS times, more often than the other way
    round or any other pair does, and every one of it is fuller than the first in the mean.
    """
    counts = Counter(marks)
    follows = Counter(
        (one, other) for one, other in pairwise(marks) if one != other and counts[one] > 1
    )
    pairs = [pair for pair, count in follows.items() if count >= TURNS and counts[pair[1]] > 1]
    of = {
        mark: [full for full, own in zip(fullness, marks, strict=True) if own == mark]
        for mark in counts
    }
    clear = [
        (one, other)
        for one, other in pairs
        if np.mean(of[other]) >= FULLER * np.mean(of[one]) and min(of[other]) > np.mean(of[one])
    ]
    # Of several kinds that come back none is known to be the chorus.
    return clear[0] if len(clear) == 1 else None


def _is_bridge(index: int, marks: Sequence[str], known: tuple[str, str]) -> bool:
    """Whether a section stands alone in the second half, with a chorus before and after it."""
    before, after = marks[:index], marks[index + 1 :]
    return index > len(marks) / 2 and known[1] in before[-1:] and known[1] in after


def _fullness(
    described: BarsDescribed, sections: Sequence[range], density: Sequence[float]
) -> list[float]:
    """How full each section is: drums, cymbals and sound together, each over the whole song."""
    return [
        float(described.loudness[list(section)].mean()) * 2
        + 0.5 * amount / (max(density) + 1e-9)
        + 0.3 * float(described.crash[list(section)].any())
        for section, amount in zip(sections, density, strict=True)
    ]
