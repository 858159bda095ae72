"""Labels: which sections are the same (A B A' B' C), then what they are called.

Sameness comes first, from what the bars play and sound like, aligned bar by bar; a name is only a
proposal on top of it, by where the section stands, how often it comes back and how full it is.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

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
    """A proposed name for each section, numbered where it comes back."""
    counts = Counter(marks)
    density = [float(described.amount[list(section)].sum(axis=1).mean()) for section in sections]
    # How full a section is: drums, cymbals and sound together, each over the whole song.
    fullness = [
        float(described.loudness[list(s)].mean()) * 2
        + 0.5 * d / (max(density) + 1e-9)
        + 0.3 * float(described.crash[list(s)].any())
        for s, d in zip(sections, density, strict=True)
    ]
    full_of = {
        m: np.mean([f for f, k in zip(fullness, marks, strict=True) if k == m]) for m in counts
    }
    back = [mark for mark, count in counts.items() if count > 1]
    chorus = max(back, key=lambda mark: full_of[mark]) if len(back) > 1 else None
    last = len(sections) - 1
    base: list[str] = []
    for index, mark in enumerate(marks):
        silent = density[index] < 0.25 * max(density)
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
            base.append("Breakdown")
        elif mark == chorus:
            base.append("Chorus")
        elif mark in back:
            # A second kind that comes back less often than the verse is no verse.
            verse = max((m for m in back if m != chorus), key=lambda m: counts[m])
            base.append("Verse" if mark == verse or chorus is None else "Pre-chorus")
        elif index > last / 2:
            base.append("Bridge")
        else:
            base.append("Verse" if len(sections) == 1 or chorus is None else "Part")
    total = Counter(base)
    used: Counter[str] = Counter()
    result = []
    for name in base:
        used[name] += 1
        result.append(f"{name} {used[name]}" if total[name] > 1 else name)
    return result
