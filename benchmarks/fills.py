"""Fills: how many of composed ones are found, from where to where, and which are told to be kin.

`python -m benchmarks.fills`, part of `./orchesis bench`. From true notes: four songs of 32 bars in
feels of their own, each with eight fills and with bars that are busy but no fills. From heard
notes: the demo songs, listened to.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from orchesis.fills.describe import describe_fill
from orchesis.fills.families import families, notes_of
from orchesis.fills.find import find_fills
from orchesis.music.instruments import Instrument
from orchesis.music.json import loads
from orchesis.music.values import Fill, Transcription
from orchesis.pipeline import transcribe
from tests.composing import song

SONGS = Path(__file__).resolve().parent.parent / "demo" / "songs"
Rows = dict[Instrument, str]
BORDER = Fraction(1, 4)
"""Of a beat: a sixteenth."""

H, OPEN, S, K = Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN, Instrument.SNARE, Instrument.KICK
R, C, P = Instrument.RIDE, Instrument.CRASH, Instrument.HIHAT_FOOT
T1, T2, F = Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_FLOOR


@dataclass(frozen=True)
class Planned:
    """A fill as composed: its bars, where it begins in beats from the first of them, its kin."""

    rows: tuple[Rows, ...]
    begins: Fraction
    kin: str
    ends: Fraction | None = None
    """In beats of its last bar; None: with it."""


@dataclass(frozen=True)
class Case:
    """A song: its groove, a busier bar of it that is no fill, and its fills in order."""

    name: str
    groove: Rows
    busy: Rows
    fills: tuple[Planned, ...]
    beats: int = 4
    landing: bool = True


def one(kin: str, begins: float, rows: Rows, ends: float | None = None) -> Planned:
    """A fill of one bar."""
    end = None if ends is None else Fraction(ends)
    return Planned((rows,), Fraction(begins), kin, end)


ROCK: Rows = {H: "x.x.x.x.x.x.x.x.", S: "....X.......X...", K: "x.....x.x......."}
FUNK: Rows = {H: "xxxxxxxxxxxxxxxx", S: "....X..g.g..X..g", K: "x..x......x..x.."}
SHUFFLE: Rows = {R: "x.xx.xx.xx.x", S: "...X.....X..", K: "x....xx.....", P: "...x.....x.."}
WALTZ: Rows = {H: "x.x.x.x.x.x.", S: "....X...X...", K: "x.....x....."}

CASES: tuple[Case, ...] = (
    Case(
        "rock",
        ROCK,
        {**ROCK, K: "x.xx..x.x.xx..x.", OPEN: "......x.......x."},
        (
            one("a", 2, {**ROCK, H: "x.x.x.x.", S: "....X...xxxx....", T1: "............xxxx"}),
            one("b", 3, {**ROCK, H: "x.x.x.x.x.x.....", S: "....X.......xxxx"}),
            one("a", 2, {**ROCK, H: "x.x.x.x.", S: "....X...xxxx....", T1: "............xxxx"}),
            one("c", 0, {S: "xxxx............", T1: "....xxxx........", F: "........xxxxxxxx"}),
            one(
                "a",
                2,
                {
                    **ROCK,
                    H: "x.x.x.x.",
                    T2: "........xxxx....",
                    F: "............xxxx",
                    S: "....X...........",
                },
            ),
            one(
                "d",
                2.5,
                {**ROCK, H: "x.x.x.x.x.......", S: "....X.....xx.xx.", F: "............x..x"},
            ),
            one("b", 3, {**ROCK, H: "x.x.x.x.x.x.....", S: "....X.......xxxx"}),
            one(
                "e",
                1,
                {**ROCK, H: "x.x.............", S: "....xx.xx.xx.xx.", K: "x.....x..x..x..x"},
            ),
        ),
    ),
    Case(
        "funk in sixteenths",
        FUNK,
        {**FUNK, S: "..g.X..g.g.gX.gg", K: "x..x..x...x..x.x"},
        (
            one(
                "a",
                3,
                {**FUNK, H: "xxxxxxxxxxxx....", S: "....X..g.g..x.xx", K: "x..x......x....."},
            ),
            one(
                "b",
                2,
                {
                    **FUNK,
                    H: "xxxxxxxx........",
                    S: "....X..gx..x..x.",
                    T1: ".........x..x..x",
                    F: "..........x..x..",
                },
            ),
            one(
                "a",
                3,
                {**FUNK, H: "xxxxxxxxxxxx....", S: "....X..g.g..x.xx", K: "x..x......x....."},
            ),
            one(
                "c",
                2,
                {
                    H: "x.x.x.x." + "." * 8,
                    S: "....X...",
                    T1: "." * 12 + "xxxxxx" + "." * 6,
                    F: "." * 18 + "xxxxxx",
                    K: "x..x....",
                },
            ),
            one(
                "b",
                2,
                {
                    **FUNK,
                    H: "xxxxxxxx........",
                    S: "....X..gx..x..x.",
                    T1: ".........x..x..x",
                    F: "..........x..x..",
                },
            ),
            one(
                "d",
                1,
                {
                    **FUNK,
                    H: "xxxx.........xxx",
                    S: "....xxxx....X..g",
                    T2: "........xxxx....",
                    K: "x..x.........x..",
                },
                ends=3,
            ),
            one("e", 0, {S: "XxxXxxXxxXxxXxxX", K: "x..............."}),
            one(
                "a",
                3,
                {**FUNK, H: "xxxxxxxxxxxx....", S: "....X..g.g..x.xx", K: "x..x......x....."},
            ),
        ),
    ),
    Case(
        "shuffle",
        SHUFFLE,
        {**SHUFFLE, K: "x.x..xx.x..x", S: "...X.g.g.X.g"},
        (
            one("a", 2, {**SHUFFLE, R: "x.xx.x......", S: "...X..xxxx..", T1: "..........xx"}),
            one("b", 3, {**SHUFFLE, R: "x.xx.xx.x...", S: "...X.....xxx"}),
            one("a", 2, {**SHUFFLE, R: "x.xx.x......", S: "...X..xxxx..", T1: "..........xx"}),
            one("c", 0, {S: "xx..xx..xx..", K: "..xx..xx..xx"}),
            one("b", 3, {**SHUFFLE, R: "x.xx.xx.x...", S: "...X.....xxx"}),
            one("a", 2, {**SHUFFLE, R: "x.xx.x......", S: "...X..xxxx..", F: "..........xx"}),
            one(
                "d",
                2,
                {
                    **SHUFFLE,
                    R: "x.xx.x" + "." * 6,
                    S: "...X" + "." * 8,
                    T1: "." * 24 + "xx" * 4 + "." * 16,
                    F: "." * 32 + "xx" * 8,
                    P: "...x........",
                },
            ),
            one("c", 0, {S: "xx..xx..xx..", K: "..xx..xx..xx"}),
        ),
    ),
    Case(
        "waltz",
        WALTZ,
        {**WALTZ, S: "..g.X.g.X.gg", K: "x..x..x..x.."},
        (
            one("a", 2, {H: "x.x.x.x.....", S: "....X...xxxx", K: "x.....x....."}),
            one(
                "b", 1, {H: "x.x.........", S: "....xxxx....", F: "........xxxx", K: "x..........."}
            ),
            one("a", 2, {H: "x.x.x.x.....", S: "....X...xxxx", K: "x.....x....."}),
            one("c", 0, {S: "x.xxx.xxx.xx", K: ".x...x...x.."}),
            one(
                "b",
                1,
                {H: "x.x.........", T1: "....xxxx....", T2: "........xxxx", K: "x..........."},
            ),
            one(
                "b", 1, {H: "x.x.........", S: "....xxxx....", F: "........xxxx", K: "x..........."}
            ),
            one(
                "a",
                2,
                {
                    H: "x.x.x.x.....",
                    S: "....X...x...",
                    T1: ".........x..",
                    F: "..........xx",
                    K: "x...........",
                },
            ),
            one("c", 0, {S: "x.xxx.xxx.xx", K: ".x...x...x.."}),
        ),
        beats=3,
    ),
)


@dataclass(frozen=True)
class Found:
    """What came of a song: fills there are, found and right; borders within a sixteenth; kin."""

    name: str
    there: int
    told: int
    right: int
    borders: int
    pairs: int
    pairs_right: int

    @property
    def f(self) -> float:
        """F-measure of the fills."""
        return 2 * self.right / max(1, self.there + self.told)


def composed(case: Case) -> tuple[Transcription, list[tuple[int, Fraction, Fraction, str]]]:
    """The song of a case, and of each fill its bar, where it begins and ends in beats, its kin."""
    rows: list[Rows] = []
    truth = []
    for index, fill in enumerate(case.fills):
        grooves: list[Rows] = [case.groove] * (4 - len(fill.rows))
        if index % 2:
            grooves[1] = case.busy
        if index and case.landing:
            grooves[0] = {**grooves[0], C: "x" + "." * (len(grooves[0][K]) - 1)}
        rows += [*grooves, *fill.rows]
        ends = fill.ends if fill.ends is not None else Fraction(case.beats)
        truth.append((len(rows), fill.begins, ends, fill.kin))
    rows += [case.groove] * 2
    return song(rows, beats=case.beats), truth


def measure(case: Case) -> Found:
    """From true notes."""
    piece, truth = composed(case)
    found = find_fills(piece.bars, piece.hits, [range(len(piece.bars))])
    return compared(case.name, replace(piece, fills=found), truth)


def compared(
    name: str, piece: Transcription, truth: list[tuple[int, Fraction, Fraction, str]]
) -> Found:
    """What was found of a song against what is true of it."""
    by_bar = {fill.bar: fill for fill in piece.fills}
    right = borders = 0
    for bar, begins, ends, _ in truth:
        fill = by_bar.get(bar)
        if fill is None:
            continue
        right += 1
        count = len(piece.bar(bar).beats)
        back = (bar - fill.begins_in) * count
        near = abs(fill.at * count - back - begins) <= BORDER
        borders += near and abs(fill.until * count - ends) <= BORDER
    told = list(piece.fills)
    described = [describe_fill(fill, piece.bars, piece.hits) for fill in told]
    groups = families([notes_of(one.places, one.beats) for one in described])
    family = {told[m.index].bar: g.name for g in groups for m in g.members}
    both = [(bar, kin) for bar, _, _, kin in truth if bar in family]
    pairs = [(a, b) for i, a in enumerate(both) for b in both[i + 1 :]]
    pairs_right = sum((family[a[0]] == family[b[0]]) == (a[1] == b[1]) for a, b in pairs)
    return Found(name, len(truth), len(told), right, borders, len(pairs), pairs_right)


def heard() -> list[Found]:
    """The demo songs, listened to: fills as their scores have them."""
    results = []
    for path in sorted(SONGS.glob("*.ogg")):
        score = loads(path.with_suffix(".score.json").read_text())
        piece = transcribe(path).transcription
        results.append(compared(path.stem, piece, _truth_of(score, piece)))
    return results


def _truth_of(
    score: Transcription, piece: Transcription
) -> list[tuple[int, Fraction, Fraction, str]]:
    """The true fills on the bars that were heard; kin by their true notes."""
    told = [describe_fill(fill, score.bars, score.hits) for fill in _exact(score)]
    groups = families([notes_of(one.places, one.beats) for one in told])
    kin = {m.index: group.name for group in groups for m in group.members}
    truth = []
    for index, fill in enumerate(score.fills):
        bar = min(piece.bars, key=lambda b: abs(b.end - fill.end))
        beat = (bar.end - bar.start) / len(bar.beats)
        begins = Fraction(round(4 * (fill.start - bar.start) / beat), 4)
        truth.append((bar.number, begins, Fraction(len(bar.beats)), kin[index]))
    return truth


def _exact(score: Transcription) -> list[Fill]:
    exact = []
    for fill in score.fills:
        bar = score.bar(fill.bar)
        share = Fraction(round(48 * (fill.start - bar.start) / (bar.end - bar.start)), 48)
        exact.append(Fill(fill.start, fill.end, fill.bar, fill.bar, share, Fraction(1)))
    return exact


def table(results: list[Found]) -> str:
    """As a table."""
    lines = ["| song | fills | found | right | F | borders within a sixteenth | kin told rightly |"]
    lines.append("|---|---|---|---|---|---|---|")
    total = Found("all", *(sum(getattr(r, n) for r in results) for n in NUMBERS))
    for r in [*results, total]:
        lines.append(
            f"| {r.name} | {r.there} | {r.told} | {r.right} | {r.f:.2f} | "
            f"{r.borders} of {r.right} | {r.pairs_right} of {r.pairs} pairs |"
        )
    return "\n".join(lines)


NUMBERS = ("there", "told", "right", "borders", "pairs", "pairs_right")

if __name__ == "__main__":
    print("From true notes\n")
    print(table([measure(case) for case in CASES]))
    print("\nFrom heard notes: the demo songs\n")
    print(table(heard()))
