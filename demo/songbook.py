"""Songs for the house band of an invented rehearsal space, the Lantern Yard.

*Harbour Lights Out*: straight eighths at 112, fills, choruses on the ride.
*Rain on the Awning*: swung sixteenths at 84 with ghost notes, on a tempo that breathes by 3 %.
*Steps to the Market*: a 2/4 cross-stick groove, sixteenths on the ride, the foot on the off-beat.
*Last Train East* (`demo.dense`): fast, long and loud, as dense as records are.
"""

from __future__ import annotations

import math
from fractions import Fraction

from demo.dense import last_train_east
from demo.parts import chord, line
from demo.score import Note, PlannedBar, Song
from orchesis.music.instruments import Instrument as I
from orchesis.music.values import Meter

BASS, KEYS, GUITAR, LEAD = 0, 1, 2, 3

MAJOR = (0, 4, 7)
MINOR = (0, 3, 7)
MINOR_SEVENTH = (0, 3, 7, 10)
MAJOR_SEVENTH = (0, 4, 7, 11)


def harbour_lights_out() -> Song:
    """Straight eighths, 112 bpm: hat in the verses, ride and crash in the choruses."""
    verse = {I.HIHAT_CLOSED: "XxXxXxXx", I.SNARE: "..X...X.", I.KICK: "x...x.x."[:8]}
    verse_b = {**verse, I.KICK: "x..xx..."}
    chorus = {I.RIDE: "XxXxXxXx", I.SNARE: "..X...X.", I.KICK: "x..xx.x."}
    fill = {
        I.HIHAT_CLOSED: "X.x.X.x.........",
        I.SNARE: "....X...xxxx....",
        I.TOM_HIGH: "............xx..",
        I.TOM_FLOOR: "..............xx",
        I.KICK: "x.......x.......",
    }
    short_fill = {
        I.HIHAT_CLOSED: "X.x.X.x.X.x.....",
        I.SNARE: "....X.......xxXX",
        I.KICK: "x.......x.x.....",
    }

    progression = [(45, MINOR), (41, MAJOR), (36, MAJOR), (43, MAJOR)]
    hook: list[list[tuple[float, float, int]]] = [
        [(0, 1.5, 76), (2, 1, 74), (3, 1, 72)],
        [(0, 2, 72), (2.5, 1.5, 69)],
        [(0, 1, 67), (1, 1, 69), (2, 2, 72)],
        [(0, 3, 74)],
    ]

    def band(index: int, loud: bool, lead: bool) -> tuple[Note, ...]:
        root, kind = progression[index % 4]
        notes: list[Note] = []
        for eighth in range(8):
            notes.append(
                Note(
                    BASS,
                    eighth / 2,
                    0.45,
                    root if eighth != 7 else root + 7,
                    88 if eighth % 2 == 0 else 74,
                )
            )
        if loud:
            for start in (0, 1.5, 2.5):
                notes += chord(GUITAR, start, 0.9, root + 12, (0, 7, 12), 78)
            notes += chord(KEYS, 0, 3.9, root + 24, kind, 62)
        else:
            for start in (0, 1, 2, 3):
                notes += chord(KEYS, start, 0.5, root + 24, kind, 58)
        if lead:
            notes += line(LEAD, hook[index % 4], 84)
        return tuple(notes)

    def bars(
        groove: dict[I, str],
        other: dict[I, str],
        count: int,
        loud: bool,
        lead: bool,
        last: dict[I, str],
        fill_from: Fraction,
    ) -> list[PlannedBar]:
        made = []
        for index in range(count):
            rows = dict(groove if index % 2 == 0 else other)
            if loud and index == 0:
                rows[I.CRASH] = "X......."
                rows[I.RIDE] = "." + rows[I.RIDE][1:]
            final = index == count - 1
            made.append(
                PlannedBar(
                    last if final else rows, band(index, loud, lead), fill_from if final else None
                )
            )
        return made

    half, quarter = Fraction(1, 2), Fraction(3, 4)
    sections = [
        (
            "Intro",
            [PlannedBar({I.HIHAT_CLOSED: "X.X.X.X."}, band(i, False, False)) for i in range(4)],
        ),
        ("Verse 1", bars(verse, verse_b, 8, False, True, short_fill, quarter)),
        ("Chorus 1", bars(chorus, chorus, 8, True, True, fill, half)),
        ("Verse 2", bars(verse, verse_b, 8, False, True, fill, half)),
        ("Chorus 2", bars(chorus, chorus, 8, True, True, fill, half)),
        (
            "Outro",
            [
                *bars(verse, verse, 4, False, False, verse, quarter)[:3],
                PlannedBar(
                    {I.CRASH: "X.......", I.KICK: "x......."},
                    (*chord(KEYS, 0, 4, 57, MINOR, 66), Note(BASS, 0, 4, 45, 90)),
                ),
            ],
        ),
    ]
    return Song(
        slug="harbour-lights-out",
        title="Harbour Lights Out",
        meter=Meter(4, 4),
        bpm=lambda beat: 112 + 0.4 * math.sin(beat / 19),
        sections=sections,
        programs={BASS: (33, 96, 60), KEYS: (4, 84, 74), GUITAR: (29, 62, 40), LEAD: (65, 78, 88)},
        pocket_ms={I.SNARE: 3.0},
        seed=11,
    )


def rain_on_the_awning() -> Song:
    """Swung sixteenths, 84 bpm breathing by 3 %, ghosts around the backbeat."""
    groove_a = {
        I.HIHAT_CLOSED: "X.x.X.x.X.x.X.x.",
        I.SNARE: "....X..g.g..X...",
        I.KICK: "x.........x.....",
    }
    groove_b = {
        I.HIHAT_CLOSED: "X.x.X.x.X.x.X.o.",
        I.SNARE: "....X..g.g..X..g",
        I.KICK: "x......x..x.....",
    }
    chorus = {
        I.HIHAT_CLOSED: "X.x.X.x.X.x.X.x.",
        I.SNARE: "....X..g.g..X..g",
        I.KICK: "x.xx...x..x.....",
    }
    fill = {
        I.HIHAT_CLOSED: "X.x.X.x.........",
        I.SNARE: "....X..gX..X....",
        I.TOM_HIGH: ".........xx.....",
        I.TOM_FLOOR: "............xx.x",
        I.KICK: "x...........x...",
    }
    progression = [
        (40, MINOR_SEVENTH),
        (45, MINOR_SEVENTH),
        (38, MINOR_SEVENTH),
        (43, MAJOR_SEVENTH),
    ]

    def band(index: int, chorus_bar: bool) -> tuple[Note, ...]:
        root, kind = progression[index % 4]
        notes = [
            Note(BASS, 0, 0.9, root, 92),
            Note(BASS, 1.75, 0.2, root + 12, 76),
            Note(BASS, 2.5, 0.9, root + 7, 84),
            Note(BASS, 3.75, 0.2, root + 10, 74),
        ]
        notes += chord(KEYS, 0, 1.7, root + 24, kind, 60)
        notes += chord(KEYS, 2.75, 0.8, root + 24, kind, 54)
        if chorus_bar:
            for start in (0.5, 1.5, 2.5, 3.5):
                notes += chord(GUITAR, start, 0.2, root + 24, kind[1:], 56)
            notes += line(LEAD, [(0, 1, root + 36), (1.5, 0.5, root + 34), (2, 1.5, root + 31)], 78)
        else:
            notes += line(LEAD, [(2, 0.75, root + 31), (3, 0.9, root + 34)], 66)
        return tuple(notes)

    def bars(count: int, chorus_bars: bool, end_fill: bool) -> list[PlannedBar]:
        made = []
        for index in range(count):
            rows = dict(chorus if chorus_bars else (groove_a, groove_b)[index % 2])
            if chorus_bars and index == 0:
                rows[I.CRASH] = "X" + "." * 15
                rows[I.HIHAT_CLOSED] = "." + rows[I.HIHAT_CLOSED][1:]
            if end_fill and index == count - 1:
                made.append(PlannedBar(fill, band(index, chorus_bars), Fraction(1, 2)))
            else:
                made.append(PlannedBar(rows, band(index, chorus_bars)))
        return made

    sections = [
        ("Intro", [PlannedBar({}, band(i, False)) for i in range(2)]),
        ("Verse 1", bars(8, False, True)),
        ("Chorus 1", bars(8, True, True)),
        ("Verse 2", bars(8, False, True)),
        ("Chorus 2", bars(8, True, False)),
        (
            "Outro",
            [
                PlannedBar(
                    {I.CRASH: "X" + "." * 15, I.KICK: "x" + "." * 15},
                    tuple(chord(KEYS, 0, 4, 64, MINOR_SEVENTH, 60)),
                )
            ],
        ),
    ]
    return Song(
        slug="rain-on-the-awning",
        title="Rain on the Awning",
        meter=Meter(4, 4),
        bpm=lambda beat: 84 * (1 + 0.03 * math.sin(beat / 11)),
        sections=sections,
        programs={BASS: (33, 98, 62), KEYS: (4, 86, 46), GUITAR: (27, 66, 90), LEAD: (11, 74, 76)},
        swing_16=1.5,
        pocket_ms={I.SNARE: 8.0, I.KICK: 2.0},
        jitter_ms=4.5,
        seed=22,
    )


def steps_to_the_market() -> Song:
    """2/4, 96 quarters a minute: cross-stick over sixteenths on the ride, foot hat off the beat."""
    ride = "XxxxXxxx"
    groove_a = {
        I.RIDE: ride,
        I.CROSS_STICK: "x..x..x.",
        I.KICK: "x..xx..x",
        I.HIHAT_FOOT: "..x...x.",
    }
    groove_b = {
        I.RIDE: ride,
        I.CROSS_STICK: ".x..x..x",
        I.KICK: "x..xx..x",
        I.HIHAT_FOOT: "..x...x.",
    }
    fill = {
        I.SNARE: "X.xxX...",
        I.TOM_HIGH: ".....xx.",
        I.TOM_FLOOR: ".......X",
        I.KICK: "x...x...",
        I.HIHAT_FOOT: "..x...x.",
    }
    progression = [
        (38, MAJOR_SEVENTH),
        (38, MAJOR_SEVENTH),
        (47, MINOR_SEVENTH),
        (47, MINOR_SEVENTH),
        (40, MINOR_SEVENTH),
        (40, MINOR_SEVENTH),
        (45, (0, 4, 7, 10)),
        (45, (0, 4, 7, 10)),
    ]
    tune: list[list[tuple[float, float, int]]] = [
        [(0, 0.75, 78), (0.75, 0.75, 76)],
        [(0, 1.5, 74)],
        [(0, 0.5, 71), (0.75, 1, 74)],
        [(0.5, 1, 73)],
    ]

    def band(index: int, melody: bool) -> tuple[Note, ...]:
        root, kind = progression[index % 8]
        notes = [
            Note(BASS, 0, 0.7, root, 90),
            Note(BASS, 0.75, 0.2, root, 70),
            Note(BASS, 1, 0.7, root + 7, 86),
            Note(BASS, 1.75, 0.2, root + 7, 70),
        ]
        for start in (0, 0.75, 1.5) if index % 2 == 0 else (0.25, 1, 1.75):
            notes += chord(GUITAR, start, 0.3, root + 12, kind, 62)
        if melody:
            notes += line(LEAD, tune[index % 4], 76)
        return tuple(notes)

    def bars(count: int, melody: bool) -> list[PlannedBar]:
        made = []
        for index in range(count):
            last = index == count - 1
            rows = fill if last else (groove_a, groove_b)[index % 2]
            made.append(PlannedBar(rows, band(index, melody), Fraction(0) if last else None))
        return made

    sections = [
        ("Intro", bars(8, False)),
        ("Verse 1", bars(16, True)),
        ("Bridge", bars(8, False)),
        ("Verse 2", bars(16, True)),
        (
            "Outro",
            [
                *bars(9, False)[:7],
                PlannedBar(
                    {I.CRASH: "X.......", I.KICK: "x......."},
                    tuple(chord(GUITAR, 0, 2, 50, MAJOR_SEVENTH, 66)),
                ),
            ],
        ),
    ]
    return Song(
        slug="steps-to-the-market",
        title="Steps to the Market",
        meter=Meter(2, 4),
        bpm=lambda beat: 96 + 0.6 * math.sin(beat / 17),
        sections=sections,
        programs={BASS: (32, 98, 64), GUITAR: (24, 84, 40), LEAD: (73, 80, 84)},
        jitter_ms=3.5,
        seed=33,
    )


def all_songs() -> list[Song]:
    """The four demo songs."""
    return [harbour_lights_out(), rain_on_the_awning(), steps_to_the_market(), last_train_east()]
