"""Grooves: for each style, what each drum plays in the cells of one bar.

A pattern gives each drum a loudness per cell; 0 is a rest, GHOST a soft tap as soft as the player's
ghosts are. Nothing here is in time yet: the composer plays the patterns.
"""

from __future__ import annotations

import numpy as np

from orchesis.music.instruments import Instrument as I

GHOST = -1.0
Pattern = dict[I, list[float]]

STYLES = (
    "straight8",
    "sixteenth",
    "swing16",
    "shuffle",
    "halftime",
    "halfshuffle",
    "crossstick2",
    "bossa",
    "ballad",
    "samba",
    "linear",
    "six8",
    "waltz",
    "jazzride",
    "fourfloor",
    "train",
    "tomgroove",
    "fastkick",
    "hands",
    "soup",
)
"""`soup` is random grids, what no style foresees. `hands` has more claps, shakers and bells."""

BEATS = {"six8": 2, "waltz": 3, "crossstick2": 2, "samba": 2}
CELLS = {"six8": 6, "shuffle": 3, "halfshuffle": 3, "jazzride": 3}
TEMPI = {
    "six8": (40, 80),
    "swing16": (66, 112),
    "sixteenth": (66, 126),
    "shuffle": (76, 190),
    "halfshuffle": (100, 170),
    "jazzride": (90, 220),
    "samba": (76, 124),
    "crossstick2": (60, 110),
    "bossa": (60, 90),
    "ballad": (50, 84),
    "halftime": (70, 160),
    "train": (80, 125),
    "fastkick": (80, 130),
}
TOMS = (I.TOM_HIGH, I.TOM_MID, I.TOM_FLOOR)
STEADY = (
    [I.HIHAT_CLOSED] * 20
    + [I.RIDE] * 8
    + [I.HIHAT_OPEN] * 3
    + [I.CRASH] * 2
    + [I.TOM_FLOOR, I.RIDE_BELL, I.RIDE_BELL, I.COWBELL, I.SHAKER, I.HIHAT_FOOT]
)


class Writer:
    """Writes one bar of a style."""

    def __init__(self, rng: np.random.Generator, style: str, beats: int, cells: int) -> None:
        self.rng, self.style, self.beats, self.cells = rng, style, beats, cells
        self.n = beats * cells
        self.half = cells // 2 if cells % 2 == 0 else cells
        self.rows: Pattern = {}

    def put(self, instrument: I, places: list[int], velocity: float) -> None:
        """Give a drum a loudness at these cells."""
        row = self.rows.setdefault(instrument, [0.0] * self.n)
        for place in places:
            if 0 <= place < self.n:
                row[place] = velocity

    def on_beats(self, *numbers: int) -> list[int]:
        """Cells of the given beats, all without numbers."""
        return [b * self.cells for b in (numbers or range(self.beats)) if b < self.beats]

    def write(self) -> Pattern:
        """The bar."""
        special = getattr(self, f"_{self.style}", None)
        if special is not None:
            special()
        else:
            steady = self._steady()
            back = self._backbeat()
            if back is I.SNARE:
                self._ghosts()
            self._kick()
            self._colours(steady)
        self._extras()
        return self.rows

    def _steady(self) -> I:
        rng, cells, n = self.rng, self.cells, self.n
        steady = STEADY[int(rng.integers(len(STEADY)))]
        accent = rng.uniform(0.7, 1.0)
        soft = accent * rng.uniform(0.4, 0.95)
        density = rng.random()
        if self.style in ("shuffle", "halfshuffle"):
            self.put(steady, self.on_beats(), accent)
            self.put(steady, [p + 2 for p in self.on_beats()], soft)
        elif self.style == "soup":
            share = rng.uniform(0.2, 0.9)
            for place in range(n):
                if rng.random() < share:
                    self.put(steady, [place], float(rng.uniform(0.3, 1)))
        elif density < 0.18:
            self.put(steady, self.on_beats(), accent)
        elif density < 0.62 or cells == 2:
            self.put(steady, list(range(0, n, max(1, self.half))), soft)
            self.put(steady, self.on_beats(), accent)
            if rng.random() < 0.15:
                self.rows[steady] = [
                    v if p % cells else 0.0 for p, v in enumerate(self.rows[steady])
                ]
        elif density < 0.72 and cells == 4:
            for beat in self.on_beats():
                self.put(steady, [beat, beat + 2, beat + 3], soft)
            self.put(steady, self.on_beats(), accent)
        else:
            self.put(steady, list(range(n)), soft)
            self.put(steady, self.on_beats(), accent)
        return steady

    def _backbeat(self) -> I:
        rng, cells = self.rng, self.cells
        cross = self.style in ("crossstick2", "ballad") or rng.random() < 0.24
        back = I.CROSS_STICK if cross else I.SNARE
        loud = float(rng.uniform(0.75, 1.0))
        if self.style in ("halftime", "halfshuffle") and self.beats == 4:
            self.put(back, [2 * cells], loud)
        elif self.style in ("crossstick2", "samba"):
            for place in range(self.n):
                if rng.random() < 0.35:
                    self.put(back, [place], 0.8)
        elif self.style == "six8":
            self.put(back, [cells], loud)
        elif self.style == "waltz":
            self.put(back, [cells, 2 * cells], float(rng.uniform(0.4, 0.9)))
        elif self.style == "soup":
            share = rng.uniform(0.08, 0.35)
            for place in range(self.n):
                if rng.random() < share:
                    self.put(back, [place], float(rng.uniform(0.2, 0.95)))
        else:
            self.put(back, self.on_beats(1, 3), loud)
        if cross and rng.random() < 0.25:
            # Some play the stick in the verse and the drum on the last backbeat.
            self.put(I.SNARE, [(self.beats - 1) * cells], loud)
            self.put(back, [(self.beats - 1) * cells], 0.0)
        return back

    def _ghosts(self) -> None:
        rng = self.rng
        if rng.random() < 0.6:
            chance = rng.uniform(0.08, 0.45)
            for place in range(self.n):
                if not self.rows.get(I.SNARE, [0.0] * self.n)[place] and rng.random() < chance:
                    self.put(I.SNARE, [place], GHOST)

    def _kick(self) -> None:
        rng = self.rng
        loud = float(rng.uniform(0.6, 1.0))
        if self.style == "fourfloor":
            self.put(I.KICK, self.on_beats(), loud)
            return
        if self.style == "samba":
            for place in self.on_beats():
                self.put(I.KICK, [place], loud)
                self.put(I.KICK, [place - 1], loud * 0.7)
            return
        if rng.random() < 0.92:
            self.put(I.KICK, [0], loud)
        chance = rng.uniform(0.08, 0.35)
        for place in range(1, self.n):
            strong = 1.6 if place % max(1, self.half) == 0 else 0.7
            if rng.random() < chance * strong:
                self.put(I.KICK, [place], float(rng.uniform(0.3, 1.0)))
        if rng.random() < 0.25:
            # Kick under the backbeat, where a listener easily misses one of the two.
            for place, velocity in enumerate(self.rows.get(I.SNARE, [])):
                if velocity > 0.5:
                    self.put(I.KICK, [place], loud)

    def _colours(self, steady: I) -> None:
        """Foot, open hats, bells."""
        rng = self.rng
        if steady is not I.HIHAT_CLOSED and steady is not I.HIHAT_FOOT and rng.random() < 0.55:
            every = rng.random() < 0.4
            self.put(
                I.HIHAT_FOOT,
                [p for b, p in enumerate(self.on_beats()) if every or b % 2],
                float(rng.uniform(0.4, 0.9)),
            )
        if steady is I.HIHAT_CLOSED and rng.random() < 0.5:
            chance = rng.uniform(0.05, 0.3)
            for place in range(self.n):
                if self.rows[I.HIHAT_CLOSED][place] and rng.random() < chance:
                    self.rows[I.HIHAT_CLOSED][place] = 0.0
                    self.put(I.HIHAT_OPEN, [place], 0.85)
        if steady is I.RIDE and rng.random() < 0.3:
            for place in range(self.n):
                if self.rows[I.RIDE][place] and rng.random() < 0.3:
                    self.rows[I.RIDE][place] = 0.0
                    self.put(I.RIDE_BELL, [place], 0.9)
        if rng.random() < 0.12:
            for place in range(self.n):
                if rng.random() < 0.2:
                    self.put(TOMS[int(rng.integers(3))], [place], float(rng.uniform(0.4, 0.9)))

    def _extras(self) -> None:
        """Hands beside the kit: overdubs on the record."""
        rng, cells, half = self.rng, self.cells, max(1, self.half)
        more = 3.5 if self.style == "hands" else 1.0
        if rng.random() < 0.12 * more:
            steps = list(range(0, self.n, 1 if rng.random() < 0.5 else half))
            self.put(I.SHAKER, steps, float(rng.uniform(0.4, 0.7)))
            self.put(I.SHAKER, self.on_beats(), float(rng.uniform(0.5, 0.95)))
        if rng.random() < 0.12 * more:
            step = rng.random()
            places = self.on_beats(1, 3) if step < 0.5 else list(range(0, self.n, half))
            self.put(I.TAMBOURINE, places, float(rng.uniform(0.5, 0.95)))
        if rng.random() < 0.1 * more:
            self.put(I.CLAP, self.on_beats(1, 3), float(rng.uniform(0.5, 1.0)))
            if rng.random() < 0.3:
                self.put(I.CLAP, [int(rng.integers(self.n))], 0.7)
        if rng.random() < 0.06 * more:
            self.put(I.COWBELL, list(range(0, self.n, cells if rng.random() < 0.6 else half)), 0.8)

    def _jazzride(self) -> None:
        rng, cells = self.rng, self.cells
        soft = float(rng.uniform(0.4, 0.9))
        for beat in range(self.beats):
            self.put(I.RIDE, [beat * cells], soft)
            if beat % 2 == 1:
                self.put(I.RIDE, [beat * cells + 2], soft * 0.8)
        self.put(I.HIHAT_FOOT, self.on_beats(1, 3), float(rng.uniform(0.5, 0.9)))
        if rng.random() < 0.6:
            self.put(I.KICK, self.on_beats(), float(rng.uniform(0.15, 0.4)))
        for place in range(self.n):
            if rng.random() < 0.15:
                self.put(I.SNARE, [place], float(rng.uniform(0.2, 0.8)))
            elif rng.random() < 0.07:
                self.put(I.KICK, [place], float(rng.uniform(0.5, 0.9)))

    def _linear(self) -> None:
        rng = self.rng
        steady = I.HIHAT_CLOSED if rng.random() < 0.8 else I.RIDE
        choices = [steady, I.SNARE, I.KICK, I.KICK, steady, I.HIHAT_FOOT, I.TOM_FLOOR, None]
        for place in range(self.n):
            pick = choices[int(rng.integers(len(choices)))]
            if pick is I.SNARE:
                self.put(pick, [place], GHOST if rng.random() < 0.7 else 0.9)
            elif pick is not None:
                self.put(pick, [place], float(rng.uniform(0.6, 0.95)))

    def _bossa(self) -> None:
        rng = self.rng
        steady = I.HIHAT_CLOSED if rng.random() < 0.6 else I.RIDE
        self.put(steady, list(range(0, self.n, 2 if rng.random() < 0.7 else 1)), 0.55)
        for beat in self.on_beats():
            self.put(I.KICK, [beat], 0.7)
            self.put(I.KICK, [beat + self.cells - 1], 0.5)
        clave = [0, 3, 6, 10, 12] if rng.random() < 0.5 else [2, 4, 8, 11, 14]
        self.put(I.CROSS_STICK, clave, float(rng.uniform(0.6, 0.95)))
        if rng.random() < 0.6:
            self.put(I.HIHAT_FOOT, self.on_beats(1, 3), 0.6)

    def _train(self) -> None:
        rng = self.rng
        self.put(I.SNARE, list(range(self.n)), GHOST)
        for place in self.on_beats():
            self.put(I.SNARE, [place + self.half], float(rng.uniform(0.6, 1.0)))
        if rng.random() < 0.5:
            self.put(I.SNARE, self.on_beats(1, 3), 1.0)
        self.put(I.KICK, self.on_beats(), 0.8)
        if rng.random() < 0.6:
            self.put(I.HIHAT_FOOT, [p + self.half for p in self.on_beats()], 0.6)

    def _tomgroove(self) -> None:
        rng = self.rng
        used = list(rng.permutation(3)[: int(rng.integers(1, 4))])
        share = rng.uniform(0.3, 0.9)
        for place in range(0, self.n, 1 if rng.random() < 0.5 else max(1, self.half)):
            if rng.random() < share:
                tom = TOMS[int(used[int(rng.integers(len(used)))])]
                self.put(tom, [place], float(rng.uniform(0.35, 1.0)))
        if rng.random() < 0.7:
            self.put(I.SNARE, self.on_beats(1, 3), 0.9)
        if rng.random() < 0.6:
            self.put(I.HIHAT_FOOT, self.on_beats(), 0.6)
        self._kick()

    def _fastkick(self) -> None:
        rng = self.rng
        steady = (I.RIDE, I.CRASH, I.HIHAT_OPEN, I.HIHAT_CLOSED)[int(rng.integers(4))]
        self.put(steady, self.on_beats() if rng.random() < 0.5 else list(range(0, self.n, 2)), 0.9)
        start = 0
        while start < self.n:
            run = int(rng.integers(2, 9))
            self.put(I.KICK, list(range(start, start + run)), 0.85)
            start += run + int(rng.integers(0, 4))
        self.put(I.SNARE, self.on_beats(2) if rng.random() < 0.4 else self.on_beats(1, 3), 1.0)
