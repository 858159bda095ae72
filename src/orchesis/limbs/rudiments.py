"""Rudiments: stickings that have names.

Traditional names of the rope-drum and drum-set schools; each as one turn of its sticking, from the
right. f, d and z before a letter: with a flam, with a drag, pressed. A figure is named when it is a
rudiment over and over, from any of its strokes on, the right way round or mirrored.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orchesis.music.instruments import Ornament

RUDIMENTS: tuple[tuple[str, str], ...] = (
    ("flam paradiddle", "fR L R R fL R L L"),
    ("flam paradiddle-diddle", "fR L R R L L fL R L L R R"),
    ("single flammed mill", "fR R L R fL L R L"),
    ("flam accent", "fR L R fL R L"),
    ("pataflafla", "fR L R fL"),
    ("inverted flam tap", "fR L fL R"),
    ("flam tap", "fR R fL L"),
    ("Swiss triplet", "fR R L"),
    ("flamacue", "fR L R L fR"),
    ("flam drag", "fR dL R fL dR L"),
    ("alternating flams", "fR fL"),
    ("flams of one hand", "fR"),
    ("second drag paradiddle", "R dR dR L R R L dL dL R L L"),
    ("first drag paradiddle", "R dR L R R L dL R L L"),
    ("single dragadiddle", "dR L R R dL R L L"),
    ("triple ratamacue", "dR dR dR L R L dL dL dL R L R"),
    ("double ratamacue", "dR dR L R L dL dL R L R"),
    ("single ratamacue", "dR L R L dL R L R"),
    ("lesson twenty-five", "dR L R"),
    ("double drag tap", "dR dR L dL dL R"),
    ("single drag tap", "dR L dL R"),
    ("alternating drags", "dR dL"),
    ("pressed roll", "zR zL"),
    ("triple paradiddle", "R L R L R L R R L R L R L R L L"),
    ("double paradiddle", "R L R L R R L R L R L L"),
    ("paradiddle", "R L R R L R L L"),
    ("paradiddle-diddle", "R L R R L L"),
    ("six-stroke roll", "R L L R R L"),
    ("RLL triplets", "R L L"),
    ("four and two: RRLRLL", "R R L R L L"),
    ("alternating RLL", "R L L L R R"),
    ("triple-stroke roll", "R R R L L L"),
    ("double-stroke roll", "R R L L"),
    ("single-stroke roll", "R L"),
    ("one hand", "R"),
)
"""The first that fits names a figure: the longer and more particular ones come first."""

ROLLS: dict[str, str] = {
    "five-stroke roll": "R R L L R",
    "seven-stroke roll": "R R L L R R L",
    "nine-stroke roll": "R R L L R R L L R",
    "ten-stroke roll": "R R L L R R L L R L",
    "eleven-stroke roll": "R R L L R R L L R R L",
    "thirteen-stroke roll": "R R L L R R L L R R L L R",
    "fifteen-stroke roll": "R R L L R R L L R R L L R R L",
    "seventeen-stroke roll": "R R L L R R L L R R L L R R L L R",
    "six-stroke roll": "R L L R R L",
    "single-stroke four": "R L R L",
    "single-stroke seven": "R L R L R L R",
}
"""Figures that are a rudiment once through, no more and no less."""


@dataclass(frozen=True, slots=True)
class Token:
    """A stroke of a rudiment as it is written: its hand, an accent, an ornament."""

    letter: str
    accent: bool = False
    ornament: Ornament | None = None

    @classmethod
    def read(cls, text: str) -> Token:
        """From `R`, `fL`, `>R`."""
        marks = {mark: ornament for ornament, mark in _MARKS.items()}
        ornament = next((marks[sign] for sign in text if sign in marks), None)
        return cls(text[-1], ">" in text, ornament)


_MARKS = {Ornament.FLAM: "f", Ornament.DRAG: "d", Ornament.BUZZ: "z"}
SIGNATURES: tuple[tuple[str, tuple[Token, ...]], ...] = tuple(
    (name, tuple(Token.read(token) for token in text.split()))
    for name, text in (
        ("six-stroke roll", ">R L L R R >L"),
        ("ten-stroke roll", "R R L L R R L L >R >L"),
        ("RLL triplets", ">R L L"),
        ("flam accent", "fR L R fL R L"),
        ("pataflafla", "fR L R fL"),
        ("flam paradiddle", "fR L R R fL R L L"),
        ("flam paradiddle-diddle", "fR L R R L L fL R L L R R"),
        ("flam tap", "fR R fL L"),
        ("flam drag", "fR dL R fL dR L"),
        ("single dragadiddle", "dR L R R dL R L L"),
    )
)
"""Rudiments that are known by their accents and ornaments on one drum: no other sticking has them
where it is easy. (Paradiddles are not: singles have their accents on the leading hand too.)"""

_ORDINALS = ("", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")


@dataclass(frozen=True, slots=True)
class Named:
    """A rudiment in a figure. start : the stroke of it with which the figure begins, from 0."""

    name: str
    start: int = 0
    mirrored: bool = False

    @property
    def words(self) -> str:
        """With where it begins: "paradiddle, from its third stroke on"."""
        if not self.start:
            return self.name
        place = _ORDINALS[self.start] if self.start < len(_ORDINALS) else f"{self.start + 1}th"
        return f"{self.name}, from its {place} stroke on"


def tokens(letters: str, ornaments: Sequence[Ornament | None] = ()) -> list[str]:
    """A sticking as rudiments are written: letters with f, d and z before them."""
    marks = [_MARKS.get(o, "") if o else "" for o in ornaments] or [""] * len(letters)
    return [mark + letter for mark, letter in zip(marks, letters, strict=True)]


def name_of(letters: str, ornaments: Sequence[Ornament | None] = ()) -> Named | None:
    """The rudiment that a sticking is; None where it has no name.

    Parameters
    ----------
    letters : R and L, one a stroke; a figure with both hands together has no name.
    ornaments : of each stroke, where there are any.
    """
    if len(letters) < 2 or set(letters) - {"R", "L"}:
        return None
    figure = tokens(letters, ornaments)
    # Rolls of an odd number are named as a whole, doubles or singles of any length by their turn.
    for name, text in ROLLS.items():
        once = text.split()
        if figure in (once, _mirror(once)) and len(once) % 2:
            return Named(name, mirrored=figure != once)
    candidates = []
    for order, (name, text) in enumerate(RUDIMENTS):
        turn = text.split()
        for mirrored, pattern in ((False, turn), (True, _mirror(turn))):
            for start in range(len(pattern)):
                turned = pattern[start:] + pattern[:start]
                # Half of a turn tells which it is, where the other half is its mirror image.
                half = pattern == _twice(pattern) and not start
                least = len(pattern) // 2 if half else len(pattern)
                fits = all(token == turned[i % len(turned)] for i, token in enumerate(figure))
                if fits and len(figure) >= max(2, least):
                    candidates.append(
                        (start > 0 and not _same_turn(pattern, start), order, mirrored, start, name)
                    )
    if not candidates:
        return None
    # What begins with a rudiment's first stroke is named by it before what is displaced.
    displaced, _, mirrored, start, name = min(candidates)
    return Named(name, start if displaced else 0, mirrored)


def _mirror(pattern: Sequence[str]) -> list[str]:
    swap = str.maketrans("RL", "LR")
    return [token.translate(swap) for token in pattern]


def _twice(pattern: list[str]) -> list[str]:
    """The pattern, if its second half mirrors the first."""
    half = pattern[: len(pattern) // 2]
    return [*half, *_mirror(half)]


def _same_turn(pattern: list[str], start: int) -> bool:
    """Whether a pattern turned to `start` is itself or its mirror image: then it is no other."""
    turned = pattern[start:] + pattern[:start]
    return turned in (pattern, _mirror(pattern))
