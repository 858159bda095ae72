"""*Last Train East*: the demo song that is like a dense record.

Three and a half minutes at 170 beats a minute: 20 sections, double kick, half-time passages, stops,
seven eighths in the bridge, and a middle part in which the old dotted eighth is the new quarter.
Screens are judged on it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from functools import partial

from demo.parts import chord, line
from demo.score import Note, PlannedBar, Song
from orchesis.music.instruments import Instrument as I
from orchesis.music.values import Meter

BASS, GUITAR, SECOND, LEAD = 0, 1, 2, 3
FAST, SLOWER = 170.0, 127.5
FIFTH = (0, 7, 12)
ROOTS = (40, 40, 43, 38)
BRIDGE_ROOTS = (45, 43, 41, 40)
SEVEN = Meter(7, 8)
HALF, QUARTER = Fraction(1, 2), Fraction(3, 4)
Rows = dict[I, str]

BUILD: Rows = {I.TOM_FLOOR: "XxxxXxxxXxxxXxxx", I.KICK: "x...x...x...x..."}
RIFF: Rows = {
    I.CRASH: "X...X...X...X...",
    I.SNARE: "....X.......X...",
    I.KICK: "x.xx..xxx.xx..xx",
}
RIFF_DOUBLE: Rows = {
    I.CRASH: "X...X...X...X...",
    I.SNARE: "....X.......X...",
    I.KICK: "xxxx.xxxxxxx.xxx",
}
VERSE: Rows = {
    I.HIHAT_CLOSED: "X.x.X.x.X.x.X.x.",
    I.SNARE: "....X.......X...",
    I.KICK: "x..x..x...xx..x.",
}
VERSE_GHOSTS: Rows = {
    I.HIHAT_CLOSED: "X.x.X.x.X.x.X.o.",
    I.SNARE: "....X..g.g..X..g",
    I.KICK: "x.....x.x.x.....",
}
PRE: Rows = {
    I.HIHAT_OPEN: "X...X...X...X...",
    I.SNARE: "..X...X...X...X.",
    I.KICK: "x...x...x...x...",
}
CHORUS: Rows = {
    I.RIDE: "X.x.X.x.X.x.X.x.",
    I.SNARE: "....X.......X...",
    I.KICK: "x.x.x.x.x.x.x.x.",
}
CHORUS_DOUBLE: Rows = {**CHORUS, I.KICK: "xxxxxxxxxxxxxxxx"}
HALF_TIME: Rows = {
    I.CRASH: "X...X...X...X...",
    I.SNARE: "........X.......",
    I.KICK: "x..x..x...x.xx..",
}
STOP: Rows = {I.CRASH: "X.....X.........", I.KICK: "x.....x.........", I.SNARE: "..........xxX..."}
BRIDGE: Rows = {
    I.RIDE: "X.x.X.x.X.x.x.",
    I.SNARE: "....X.....X...",
    I.KICK: "x..x....x...x.",
}
ROLL: Rows = {I.SNARE: "xxxxxxxxxxxxxxxx", I.KICK: "x...x...x...x..."}
SLOW: Rows = {
    I.HIHAT_CLOSED: "X.x.X.x.X.x.X.x.",
    I.SNARE: "........X......g",
    I.KICK: "x..x......x..x..",
}
SOLO: Rows = {
    I.RIDE: "X.x.X.xxX.x.X.xx",
    I.SNARE: "....X..g.g..X...",
    I.KICK: "x.xx..x.x.xx..x.",
}
FILL: Rows = {
    I.SNARE: "xxxxXx..........",
    I.TOM_HIGH: "......xxxx......",
    I.TOM_MID: "..........xxx...",
    I.TOM_FLOOR: ".............xxX",
    I.KICK: "x...x...x...x...",
}
SHORT_FILL: Rows = {
    I.HIHAT_CLOSED: "X.x.X.x.X.x.....",
    I.SNARE: "....X.......XxxX",
    I.KICK: "x..x..x...x.....",
}
TURNED_FILL: Rows = {
    I.SNARE: "X..xx.x.xx......",
    I.TOM_HIGH: "..........xx....",
    I.TOM_FLOOR: "............xxxx",
    I.KICK: "x.xx..x.x...x...",
}
END: Rows = {I.CRASH: "X" + "." * 15, I.KICK: "x" + "." * 15}


def band(index: int, roots: Sequence[int], *, driving: bool, lead: bool) -> tuple[Note, ...]:
    """Bass and two guitars in eighths or held, with a tune over them or not."""
    root = roots[index % len(roots)]
    notes = []
    for eighth in range(8):
        notes.append(Note(BASS, eighth / 2, 0.4, root - 12, 96 if eighth % 2 == 0 else 84))
        if driving:
            notes += chord(GUITAR, eighth / 2, 0.35, root, FIFTH[:2], 92 if eighth % 4 == 0 else 80)
    if not driving:
        notes += chord(GUITAR, 0, 1.8, root, FIFTH, 84)
        notes += chord(GUITAR, 2.5, 1.4, root, FIFTH, 80)
    notes += chord(SECOND, 0, 3.8, root + 12, FIFTH, 66)
    if lead:
        tune = [(0, 1, root + 31), (1, 0.5, root + 34), (1.5, 1.5, root + 36), (3, 1, root + 34)]
        notes += line(LEAD, tune, 86)
    return tuple(notes)


def band_of_seven(index: int) -> tuple[Note, ...]:
    """The bridge: four and three eighths."""
    root = BRIDGE_ROOTS[index % len(BRIDGE_ROOTS)]
    notes = [Note(BASS, eighth, 0.8, root - 12, 92) for eighth in (0, 2, 3, 4, 6)]
    notes += chord(GUITAR, 0, 3.6, root, FIFTH, 82) + chord(GUITAR, 4, 2.6, root + 2, FIFTH, 80)
    return (*notes, *line(LEAD, [(0, 2, root + 31), (2, 2, root + 29), (4, 3, root + 27)], 78))


def passage(
    rows: Rows,
    count: int,
    *,
    other: Rows | None = None,
    last: Rows | None = None,
    fill_from: Fraction = HALF,
    driving: bool = True,
    lead: bool = False,
) -> list[PlannedBar]:
    """Bars of a groove (in turn with another), a crash at their start, a fill at their end."""
    made = []
    for index in range(count):
        drums = dict(rows if index % 2 == 0 or other is None else other)
        if index == 0 and I.CRASH not in drums and I.TOM_FLOOR not in drums:
            drums[I.CRASH] = "X" + "." * 15
            for plate in (I.RIDE, I.HIHAT_CLOSED, I.HIHAT_OPEN):
                if plate in drums:
                    drums[plate] = "." + drums[plate][1:]
        played = band(index, ROOTS, driving=driving, lead=lead)
        if last is not None and index == count - 1:
            made.append(PlannedBar(last, played, fill_from))
        else:
            made.append(PlannedBar(drums, played))
    return made


def sections() -> list[tuple[str, list[PlannedBar]]]:
    """The form: 20 sections, 139 bars."""
    verse = partial(passage, VERSE, 8, other=VERSE_GHOSTS, driving=False)
    stops = [PlannedBar(STOP, (Note(BASS, 0, 0.4, 28, 100),)) for _ in range(2)]
    bridge = [
        PlannedBar(BRIDGE, band_of_seven(index), meter=SEVEN, loudness=0.9) for index in range(8)
    ]
    roll = [
        replace(bar, loudness=0.55 + 0.15 * index)
        for index, bar in enumerate(passage(ROLL, 4, driving=False))
    ]
    return [
        ("Intro", passage(BUILD, 4, last=FILL)),
        ("Riff 1", passage(RIFF, 8, other=RIFF_DOUBLE, last=TURNED_FILL)),
        ("Verse 1", verse()),
        ("Verse 2", verse(lead=True, last=SHORT_FILL, fill_from=QUARTER)),
        ("Pre-chorus 1", passage(PRE, 4, last=FILL)),
        ("Chorus 1", passage(CHORUS, 8, lead=True, last=TURNED_FILL)),
        ("Riff 2", passage(RIFF_DOUBLE, 4)),
        ("Verse 3", verse(lead=True, last=SHORT_FILL, fill_from=QUARTER)),
        ("Pre-chorus 2", passage(PRE, 4, last=FILL)),
        ("Chorus 2", passage(CHORUS, 8, lead=True)),
        ("Half-time", passage(HALF_TIME, 8, driving=False, last=TURNED_FILL)),
        ("Stops", stops),
        ("Bridge", bridge),
        ("Build", roll),
        ("Slow verse", passage(SLOW, 8, driving=False)),
        ("Solo", passage(SOLO, 16, lead=True, last=FILL)),
        ("Riff 3", passage(RIFF, 8, other=RIFF_DOUBLE, last=TURNED_FILL)),
        ("Chorus 3", passage(CHORUS, 8, lead=True, last=FILL)),
        ("Chorus 4", passage(CHORUS_DOUBLE, 8, lead=True, last=FILL)),
        ("Outro", [*passage(RIFF_DOUBLE, 4), PlannedBar(END, (Note(BASS, 0, 4, 28, 100),))]),
    ]


def last_train_east() -> Song:
    """The song; its middle part is a quarter slower."""
    form = sections()
    labels = [label for label, _ in form]
    starts = [0]
    for _, bars in form:
        starts.append(starts[-1] + sum((bar.meter or Meter(4, 4)).beats for bar in bars))
    slow = range(starts[labels.index("Slow verse")], starts[labels.index("Riff 3")])
    return Song(
        slug="last-train-east",
        title="Last Train East",
        meter=Meter(4, 4),
        bpm=lambda beat: SLOWER if beat in slow else FAST,
        sections=form,
        programs={
            BASS: (34, 96, 62),
            GUITAR: (30, 74, 34),
            SECOND: (29, 58, 94),
            LEAD: (80, 66, 78),
        },
        pocket_ms={I.SNARE: -2.0},
        jitter_ms=3.5,
        seed=44,
    )
