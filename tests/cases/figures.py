"""A catalogue of figures with the sticking that teachers give: what everyday charts are made of.

A figure is written as its strokes in order, a stroke a place of an even grid:

    S snare  H high tom  M middle tom  F floor tom  K kick  . a rest
    > an accent  f a flam  d a drag  z pressed, before the drum

`hands` has a letter for each stroke of a hand. Where two stickings are as good, both stand there.
`offered` is a rudiment that must be among the ways although another comes first.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """A figure: `parts` strokes a beat at `bpm`; `sweep`: the tempi between which it holds."""

    name: str
    parts: int
    text: str
    hands: tuple[str, ...]
    bpm: float = 100.0
    sweep: tuple[float, float] = (60.0, 150.0)
    offered: str = ""


def _f(name, parts, text, *hands, bpm=100.0, sweep=(60.0, 150.0), offered=""):
    return Figure(name, parts, text, tuple(h.replace(" ", "") for h in hands), bpm, sweep, offered)


SINGLES = "RLRLRLRLRLRLRLRLRLRLRLRLRLRLRLRL"


def _s(count):
    return SINGLES[:count]


EVERYDAY = (
    _f("four eighths", 2, "S S S S", "RLRL", sweep=(60, 200)),
    _f("eight eighths", 2, "S S S S S S S S", _s(8), sweep=(60, 200)),
    _f("four sixteenths", 4, "S S S S", "RLRL", sweep=(60, 170)),
    _f("eight sixteenths", 4, "S S S S S S S S", _s(8), sweep=(60, 170)),
    _f("sixteen sixteenths", 4, "S S S S " * 4, _s(16), sweep=(60, 170)),
    _f("sixteenths, accent on the beat", 4, ">S S S S >S S S S", _s(8), offered="RLRRLRLL"),
    _f("round the kit by fours", 4, "S S S S H H H H M M M M F F F F", _s(16), sweep=(60, 160)),
    _f("snare and floor by fours", 4, "S S S S F F F F", _s(8), sweep=(60, 160)),
    _f("high and floor by fours", 4, "H H H H F F F F", _s(8), sweep=(60, 140)),
    _f("round the kit by twos", 4, "S S H H M M F F", _s(8), sweep=(60, 150)),
    _f("toms by twos twice", 4, "H H M M F F S S H H M M F F S S", _s(16), sweep=(60, 140)),
    _f("4-2-2", 4, "S S S S H H F F", _s(8), sweep=(60, 150)),
    _f("2-2-4", 4, "S S H H F F F F", _s(8), sweep=(60, 150)),
    _f("3-3-2 on three drums", 4, "S S S H H H F F", _s(8), sweep=(60, 140)),
    _f("3-3-2 on two drums", 4, "S S S F F F S S", _s(8), sweep=(60, 130)),
    _f("four eighths round the kit", 2, "S H M F", "RLRL", sweep=(60, 200)),
    _f("eighths down the toms", 2, "H H M M F F S S", _s(8), sweep=(60, 200)),
    _f("two beats snare, two beats toms", 4, "S S S S S S S S H H M M F F F F", _s(16)),
    _f("one beat pick-up to two", 4, "S S S S S S", _s(6)),
    _f("last beat, toms", 4, "H H F F", "RLRL", sweep=(60, 160)),
    _f("last beat, snare and floor", 4, "S S F F", "RLRL", sweep=(60, 160)),
    _f("one to a drum, sixteenths", 4, "S H M F", "RLRL", sweep=(60, 130)),
    _f("up the kit", 4, "F F M M H H S S", _s(8), sweep=(60, 140)),
    _f("sixteenth pair and eighth", 4, "S S S . S S S .", "RLRRLR", sweep=(60, 150)),
    _f("eighth and sixteenth pair", 4, "S . S S S . S S", "RRLRRL", sweep=(60, 150)),
    _f("gallop down the kit", 4, "S . S S H . H H F . F F", "RRLRRLRRL", sweep=(60, 140)),
    _f("quarters on the snare", 1, "S S S S", "RLRL", "RRRR", sweep=(60, 200)),
    _f("off-beats", 2, ". S . S . S . S", "LLLL", "RRRR", "RLRL", "LRLR", sweep=(60, 160)),
    _f("build in eighths then sixteenths", 4, "S . S . S S S S", "RRRLRL", "RLRLRL"),
    _f("beat of sixteenths and a landing", 4, "S S S S >S", "RLRLR", sweep=(60, 170)),
    _f("two flams", 2, "fS . fS .", "RL", "RR", "LR"),
    _f("flam and four", 4, "fS S S S", "RLRL", sweep=(60, 140)),
    _f("sixteenths with a flam on the one of each half", 4, "fS S S S S S S S", _s(8)),
)

TRIPLETS = (
    _f("triplet", 3, "S S S", "RLR", sweep=(60, 200)),
    _f("two triplets", 3, "S S S S S S", _s(6), sweep=(60, 200)),
    _f("four triplets", 3, "S S S " * 4, _s(12), sweep=(60, 200)),
    _f("triplets by drum", 3, "S S S H H H M M M F F F", _s(12), sweep=(60, 170)),
    _f("triplets by twos", 3, "S S H H M M", _s(6), sweep=(60, 170)),
    _f("fours across triplets", 3, "S S S S H H H H F F F F", _s(12), sweep=(60, 170)),
    _f("accented triplets", 3, ">S S S >S S S >S S S >S S S", "RLL" * 4, bpm=120, sweep=(60, 160)),
    _f("floor, snare, snare", 3, "F S S F S S F S S F S S", "RLL" * 4, bpm=120, sweep=(60, 160)),
    _f("high, snare, snare", 3, "H S S H S S H S S H S S", "RLL" * 4, bpm=120, sweep=(70, 160)),
    _f("sextuplet", 6, "S S S S S S", _s(6), sweep=(60, 125)),
    _f("two sextuplets", 6, "S S S S S S " * 2, _s(12), sweep=(60, 125)),
    _f("sextuplets by drum", 6, "S S S S S S H H H H H H", _s(12), sweep=(60, 115)),
    _f("6-3-3", 6, "S S S S S S H H H F F F", _s(12), sweep=(60, 100)),
    _f("fours across sextuplets", 6, "S S S S H H H H F F F F", _s(12), sweep=(60, 105)),
    _f("twos inside sextuplets", 6, "S S H H F F S S H H F F", _s(12), sweep=(60, 90)),
    _f("threes inside sextuplets", 6, "S S S H H H", _s(6), sweep=(60, 100)),
    _f("sextuplet and landing", 6, "S S S S S S >F", "RLRLRLR", sweep=(60, 110)),
    _f("sixteenth triplet and eighth", 6, "S S S S . .", "RLRL", bpm=80, sweep=(60, 110)),
    _f(
        "six with the accents one and six",
        6,
        ">S S S S S >S >S S S S S >S",
        "RLLRRL" * 2,
        bpm=90,
        sweep=(60, 140),
    ),
    _f(
        "the same, accents on toms",
        6,
        "H S S S S F H S S S S F",
        "RLLRRL" * 2,
        "RLLRRLRLLRRL",
        "RLRLRRRLRLRR",
        bpm=80,
        sweep=(60, 90),
    ),
)

FAST = (
    _f("thirty-seconds", 8, "S S S S S S S S", _s(8), bpm=70, sweep=(60, 95)),
    _f("a thirty-second roll", 8, "S S S S S S S S " * 2, "RRLL" * 4, bpm=125, sweep=(122, 150)),
    _f(
        "four thirty-seconds and two",
        8,
        "S S S S S . S .",
        "RLRLRL",
        "RLRLRR",
        bpm=80,
        sweep=(60, 95),
    ),
    _f("fast singles", 4, "S S S S " * 4, _s(16), bpm=170, sweep=(150, 185)),
)

FEET = (
    _f("hand hand foot foot", 4, "S S K K S S K K", "RLRL", sweep=(60, 150)),
    _f("toms and feet by twos", 4, "H H K K F F K K", "RLRL", sweep=(60, 140)),
    _f("hand hand foot, triplets", 3, "S S K S S K", "RLRL", sweep=(60, 160)),
    _f("hand hand foot, sixteenths", 4, "S S K S S K S S", "RLRLRL", sweep=(60, 140)),
    _f("round the kit with the foot", 3, "S S K H H K M M K F F K", "RLRLRLRL", sweep=(60, 150)),
    _f("foot first", 4, "K S S K S S K S", "RLRLR", sweep=(60, 140)),
    _f("foot foot hand hand", 4, "K K S S K K S S", "RLRL", sweep=(60, 140)),
    _f(
        "sextuplets, four and two",
        6,
        "S S S S K K S S S S K K",
        "RLRLRLRL",
        bpm=80,
        sweep=(60, 110),
    ),
    _f("six: right left foot", 6, "H F K H F K", "LRLR", "RLRL", bpm=70, sweep=(60, 90)),
    _f("three and a foot", 4, "S S S K S S S K", "RLRRLR", "RLRLRL", sweep=(60, 140)),
    _f("one and three feet", 4, "S K K K S K K K", "RR", "RL", sweep=(60, 120)),
    _f("fives", 4, "S S S K K S S S K K", "RLRRLR", "RLRLRL", sweep=(60, 130)),
    _f("quads", 6, "S S S S K K", "RLRL", bpm=80, sweep=(60, 110)),
    _f("linear sixteenths", 4, "S K S S K S S K", "RRLRL", "RLRLR", "LRLRL", sweep=(60, 130)),
)

BETWEEN = (
    _f("paradiddle, floor and snare", 4, "F S F F S F S S", "RLRRLRLL", sweep=(60, 140)),
    _f("inverted paradiddle, floor and snare", 4, "F S S F S F F S", "RLLRLRRL", sweep=(60, 140)),
    _f("paradiddle-diddle, floor and snare", 6, "F S F F S S", "RLRRLL", bpm=80, sweep=(60, 100)),
    _f(
        "double paradiddle, floor and snare",
        3,
        "F S F S F F S F S F S S",
        "RLRLRRLRLRLL",
        sweep=(60, 150),
    ),
    _f("doubles, floor and snare", 4, "F F S S F F S S", "RRLL" * 2, "RLRLRLRL", sweep=(60, 140)),
    _f("singles, floor and snare", 4, "F S F S F S F S", "RLRLRLRL", sweep=(60, 160)),
    _f("singles, snare and high", 4, "H S H S H S H S", "RLRLRLRL", "LRLRLRLR", sweep=(60, 150)),
)

RUDIMENTS = (
    _f("single stroke roll", 4, "S S S S S S S S", _s(8), bpm=120, sweep=(60, 170)),
    _f("single stroke four", 6, "S S S >S . .", "RLRL", bpm=80, sweep=(60, 120)),
    _f("single stroke seven", 6, "S S S S S S >S", "RLRLRLR", bpm=80, sweep=(60, 115)),
    _f("multiple bounce roll", 2, "zS zS zS zS", "RLRL", sweep=(60, 180)),
    _f("triple stroke roll", 6, "S S S S S S", "RLRLRL", sweep=(60, 110), offered="RRRLLL"),
    _f("double stroke roll", 8, "S S S S S S S S", "RRLLRRLL", bpm=125, sweep=(122, 150)),
    _f("double stroke roll, slow", 4, "S S S S S S S S", _s(8), offered="RRLLRRLL"),
    _f("five stroke roll", 8, "S S S S >S", "RRLLR", bpm=125, sweep=(122, 150)),
    _f("five stroke roll, slow", 8, "S S S S >S", "RLRLR", bpm=80, sweep=(60, 95), offered="RRLLR"),
    _f("six stroke roll", 6, ">S S S S S >S", "RLLRRL", bpm=80, sweep=(60, 140)),
    _f("seven stroke roll", 8, "S S S S S S >S", "RRLLRRL", bpm=125, sweep=(122, 150)),
    _f("nine stroke roll", 8, "S S S S S S S S >S", "RRLLRRLLR", bpm=125, sweep=(122, 150)),
    _f("ten stroke roll", 8, "S S S S S S S S >S >S", "RRLLRRLLRL", bpm=125, sweep=(122, 150)),
    _f("eleven stroke roll", 8, "S S S S S S S S S S >S", "RRLLRRLLRRL", bpm=125, sweep=(122, 150)),
    _f("thirteen stroke roll", 8, "S " * 12 + ">S", "RRLLRRLLRRLLR", bpm=125, sweep=(122, 150)),
    _f("fifteen stroke roll", 8, "S " * 14 + ">S", "RRLLRRLLRRLLRRL", bpm=125, sweep=(122, 150)),
    _f(
        "seventeen stroke roll", 8, "S " * 16 + ">S", "RRLLRRLLRRLLRRLLR", bpm=125, sweep=(122, 150)
    ),
    _f("single paradiddle", 4, ">S S S S >S S S S", _s(8), "RLRRLRLL", offered="RLRRLRLL"),
    _f(
        "double paradiddle",
        3,
        ">S S S S S S >S S S S S S",
        _s(12),
        "RLRLRRLRLRLL",
        offered="RLRLRRLRLRLL",
    ),
    _f(
        "triple paradiddle",
        4,
        ">S S S S S S S S >S S S S S S S S",
        _s(16),
        "RLRLRLRRLRLRLRLL",
        offered="RLRLRLRRLRLRLRLL",
    ),
    _f(
        "single paradiddle-diddle",
        6,
        ">S S S S S S >S S S S S S",
        _s(12),
        "RLRRLL" * 2,
        bpm=80,
        sweep=(60, 110),
        offered="RLRRLLRLRRLL",
    ),
    _f("flams", 2, "fS fS fS fS", "RLRL", sweep=(60, 160)),
    _f("flam accent", 3, "fS S S fS S S", "RLRLRL", sweep=(60, 150)),
    _f("flam tap", 4, "fS S fS S fS S fS S", "RRLL" * 2, sweep=(60, 130)),
    _f("flamacue", 4, "fS >S S S fS", "RLRLR", sweep=(60, 140)),
    _f("flam paradiddle", 4, "fS S S S fS S S S", "RLRRLRLL", sweep=(60, 130)),
    _f(
        "single flammed mill",
        4,
        "fS S S S fS S S S",
        "RLRRLRLL",
        sweep=(60, 130),
        offered="RRLRLLRL",
    ),
    _f(
        "flam paradiddle-diddle",
        6,
        "fS S S S S S fS S S S S S",
        "RLRRLLLRLLRR",
        bpm=70,
        sweep=(60, 90),
    ),
    _f("pataflafla", 4, "fS S S fS fS S S fS", "RLRL" * 2, sweep=(60, 110)),
    _f("Swiss army triplet", 3, "fS S S fS S S", "RLRLRL", sweep=(60, 150), offered="RRLRRL"),
    _f(
        "inverted flam tap",
        4,
        "S fS S fS S fS",
        "LRLRLR",
        "RLRLRL",
        "RLLRRL",
        sweep=(60, 120),
        offered="",
    ),
    _f("flam drag", 3, "fS dS S fS dS S", "RLRLRL", sweep=(60, 120)),
    _f("drags", 2, "dS dS dS dS", "RLRL", sweep=(60, 140)),
    _f("single drag tap", 3, "dS S dS S", "RLLR", "RLRL", sweep=(60, 140), offered="RLLR"),
    _f(
        "double drag tap",
        3,
        "dS dS S dS dS S",
        "RRLLLR",
        "RLRLRL",
        sweep=(60, 120),
        offered="RRLLLR",
    ),
    _f("lesson twenty-five", 4, "dS S S . dS S S .", "RLRRLR", sweep=(60, 120)),
    _f("single dragadiddle", 4, "dS S S S dS S S S", "RLRRLRLL", sweep=(60, 120)),
    _f(
        "drag paradiddle 1",
        3,
        ">S dS S S S >S dS S S S",
        "RRLRRLLRLL",
        "RLRLRLRLRL",
        sweep=(60, 110),
        offered="RRLRRLLRLL",
    ),
    _f(
        "drag paradiddle 2",
        3,
        ">S dS dS S S S",
        "RRRLRR",
        "RLRLRL",
        sweep=(60, 110),
        offered="RRRLRR",
    ),
    _f("single ratamacue", 3, "dS S S >S . . dS S S >S", "RLRLRLRL", "RLRLLRLR", sweep=(60, 130)),
    _f("double ratamacue", 3, "dS . . dS S S >S", "RRLRL", "RLRLR", "LRLRL", sweep=(60, 130)),
    _f("triple ratamacue", 3, "dS . . dS . . dS S S >S", "RRRLRL", "RLRLRL", sweep=(60, 130)),
)

PATTERNS = (
    _f(
        "accents one and four, sixteenths",
        4,
        ">S S S >S S S >S S",
        _s(8),
        "RLRRLRRL",
        "RLLRLLRL",
        "RLRLRLRL",
        sweep=(60, 130),
    ),
    _f("accents on the off-beats", 4, "S S >S S S S >S S", _s(8), sweep=(60, 150)),
    _f("accents on the e", 4, "S >S S S S >S S S", _s(8), "LRLRLRLR", sweep=(60, 130)),
    _f("accent on the one", 4, ">S S S S S S S S", _s(8), sweep=(60, 160)),
    _f("accents on toms, one and and", 4, "H S F S H S F S", _s(8), sweep=(60, 130)),
    _f(
        "melody over the toms", 4, "H S S S F S S S", _s(8), "RLRRLRLL", "LRLRRLRL", sweep=(60, 130)
    ),
    _f("crescendo, ghosts to loud", 4, "S S S S S S S S >S", "RLRLRLRLR", sweep=(60, 160)),
)

CATALOGUE = (*EVERYDAY, *TRIPLETS, *FAST, *FEET, *BETWEEN, *RUDIMENTS, *PATTERNS)
