"""The composer: stretches of songs with a groove that repeats and varies, fills, and human playing.

Every stretch has a metre, a feel, a tempo that drifts, a limb-wise groove drawn from a style,
variations from bar to bar, fills at the ends of phrases, grace notes, and a player with a pocket
and a touch of his own. Nothing here is sound: the renderer gives each stroke a sample.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from orchesis.music.instruments import Instrument as I

STYLES = (
    "straight8",
    "sixteenth",
    "swing16",
    "shuffle",
    "halftime",
    "crossstick2",
    "samba",
    "linear",
    "six8",
    "waltz",
    "jazzride",
    "fourfloor",
    "soup",
)
"""`soup` is random grids: what no style foresees."""

TOMS = (I.TOM_HIGH, I.TOM_MID, I.TOM_FLOOR)


@dataclass(frozen=True)
class Stroke:
    """A stroke: seconds, drum, loudness 0 to 1."""

    time: float
    instrument: I
    velocity: float


@dataclass
class Stretch:
    """A composed stretch. `chords` are roots by bar for the band."""

    strokes: list[Stroke] = field(default_factory=list)
    beats: list[float] = field(default_factory=list)
    downbeats: list[float] = field(default_factory=list)
    bar_beats: int = 4
    duration: float = 0.0


@dataclass(frozen=True)
class _Player:
    jitter: float
    pocket: dict[I, float]
    touch: float
    ghost: float
    left_handed: bool


Pattern = dict[I, list[float]]
"""Per drum, a velocity for each cell of the bar; 0 is a rest."""


class Composer:
    """Composes stretches from a seed."""

    def __init__(self, rng: np.random.Generator, styles: tuple[str, ...] = STYLES) -> None:
        self.rng = rng
        self.styles = styles

    def compose(self, seconds: float) -> Stretch:
        """A stretch of about so many seconds."""
        rng = self.rng
        style = str(rng.choice(self.styles))
        beats_a_bar = {"six8": 2, "waltz": 3, "crossstick2": 2, "samba": 2}.get(style, 4)
        cells = {"six8": 6, "shuffle": 3, "jazzride": 3, "waltz": int(rng.choice([2, 4]))}.get(
            style, 4
        )
        if style == "straight8" and rng.random() < 0.4:
            cells = 2
        low, high = {
            "six8": (40, 80),
            "swing16": (66, 112),
            "sixteenth": (66, 126),
            "shuffle": (76, 190),
            "jazzride": (90, 220),
            "samba": (76, 124),
            "crossstick2": (60, 110),
            "halftime": (70, 160),
        }.get(style, (66, 190))
        bpm = float(np.exp(rng.uniform(np.log(low), np.log(high))))
        swing = {"swing16": rng.uniform(1.2, 2.0)}.get(style, 1.0)
        player = self._player()
        stretch = Stretch(bar_beats=beats_a_bar)
        groove = self._groove(style, beats_a_bar, cells)
        phrase = int(rng.choice([4, 4, 4, 8, 2, 5]))
        time = float(rng.uniform(0.0, 1.5))
        start_bar = int(rng.choice([0, 0, 0, 1, 2, 3]))
        drift = rng.normal(0, 0.004)
        bar = 0
        while time < seconds:
            if bar and bar % phrase == 0 and rng.random() < 0.35:
                groove = (
                    self._groove(style, beats_a_bar, cells)
                    if rng.random() < 0.6
                    else self._thinned(groove)
                )
            tempo = bpm * (1 + 0.02 * np.sin(bar / 3.1) * (abs(drift) > 0.002) + drift * bar)
            beat = 60.0 / float(np.clip(tempo, 40, 260))
            stretch.downbeats.append(time)
            edges = [time + beat * (k + rng.normal(0, 0.001)) for k in range(beats_a_bar)]
            stretch.beats += edges
            if bar >= start_bar and not (rng.random() < 0.02):
                last = (bar + 1) % phrase == 0
                rows = self._varied(groove)
                if last and rng.random() < 0.75:
                    self._fill(rows, cells, beats_a_bar, stretch, time, beat, swing, player)
                if bar % phrase == 0 and rng.random() < 0.5:
                    self._crash(rows)
                self._play(rows, cells, beats_a_bar, time, beat, swing, player, stretch)
            time += beat * beats_a_bar
            bar += 1
        stretch.duration = time
        stretch.strokes.sort(key=lambda stroke: stroke.time)
        return stretch

    def _player(self) -> _Player:
        rng = self.rng
        machine = rng.random() < 0.15
        pocket = {
            i: 0.0 if machine else float(rng.normal(0, 0.005))
            for i in (I.SNARE, I.HIHAT_CLOSED, I.KICK, I.RIDE)
        }
        return _Player(
            jitter=0.0 if machine else float(rng.uniform(0.002, 0.009)),
            pocket=pocket,
            touch=0.0 if machine else float(rng.uniform(0.03, 0.12)),
            ghost=float(rng.uniform(0.12, 0.4)),
            left_handed=bool(rng.random() < 0.1),
        )

    def _groove(self, style: str, beats: int, cells: int) -> Pattern:
        rng = self.rng
        n = beats * cells
        rows: Pattern = {}

        def put(instrument: I, places: list[int], velocity: float) -> None:
            row = rows.setdefault(instrument, [0.0] * n)
            for place in places:
                if 0 <= place < n:
                    row[place] = velocity

        steady = I(
            str(
                rng.choice(
                    ["hihat_closed"] * 6
                    + ["ride"] * 4
                    + ["hihat_open", "crash", "tom_floor", "ride_bell", "cowbell", "shaker"]
                )
            )
        )
        accent = rng.uniform(0.75, 1.0)
        soft = accent * rng.uniform(0.45, 0.95)
        half = cells // 2 if cells % 2 == 0 else cells
        density = rng.random()
        if style == "jazzride":
            steady = I.RIDE
            for beat in range(beats):
                put(steady, [beat * cells], soft)
                if beat % 2 == 1 and cells == 3:
                    put(steady, [beat * cells + 2], soft * 0.8)
            put(I.HIHAT_FOOT, [cells, 3 * cells], 0.6)
        elif style == "shuffle":
            put(steady, [b * cells for b in range(beats)], accent)
            put(steady, [b * cells + 2 for b in range(beats)], soft)
        elif style == "soup":
            for place in range(n):
                if rng.random() < rng.uniform(0.2, 0.9):
                    put(steady, [place], float(rng.uniform(0.4, 1)))
        elif style == "linear":
            choices = [steady, I.SNARE, I.KICK, I.KICK, steady, I.HIHAT_FOOT, None]
            for place in range(n):
                pick = choices[int(rng.integers(len(choices)))]
                if pick is not None:
                    put(pick, [place], 0.85 if pick is not I.SNARE else 0.3)
        elif density < 0.15:
            put(steady, [b * cells for b in range(beats)], accent)
        elif density < 0.65 or cells == 2:
            put(steady, [p for p in range(0, n, max(1, half))], soft)
            put(steady, [b * cells for b in range(beats)], accent)
            if rng.random() < 0.15:
                rows[steady] = [v if (p % cells) else 0.0 for p, v in enumerate(rows[steady])]
        else:
            put(steady, list(range(n)), soft)
            put(steady, [b * cells for b in range(beats)], accent)
        # Backbeat
        back = I.CROSS_STICK if style in ("crossstick2",) or rng.random() < 0.15 else I.SNARE
        if style == "halftime" and beats == 4:
            put(back, [2 * cells], 0.95)
        elif style in ("crossstick2", "samba"):
            for place in range(n):
                if rng.random() < 0.35:
                    put(back, [place], 0.8)
        elif style == "six8":
            put(back, [cells], 0.95)
        elif style == "waltz":
            put(back, [cells, 2 * cells], 0.6)
        elif style == "fourfloor":
            put(back, [cells, 3 * cells], 0.9)
        elif style not in ("jazzride", "linear", "soup"):
            put(back, [cells, 3 * cells], 0.95)
        elif style != "linear":
            for place in range(n):
                if rng.random() < 0.15:
                    put(back, [place], float(rng.uniform(0.3, 0.95)))
        # Ghosts
        if back is I.SNARE and rng.random() < 0.6:
            chance = rng.uniform(0.05, 0.35)
            for place in range(n):
                if rows.get(I.SNARE, [0.0] * n)[place] == 0 and rng.random() < chance:
                    put(I.SNARE, [place], -1.0)
        # Kick
        if style == "fourfloor":
            put(I.KICK, [b * cells for b in range(beats)], 0.95)
        elif style == "samba":
            for b in range(beats):
                put(I.KICK, [b * cells, b * cells - 1], 0.8)
        elif style == "jazzride":
            put(I.KICK, [b * cells for b in range(beats)], float(rng.uniform(0.2, 0.5)))
        elif style != "linear":
            put(I.KICK, [0], 0.95)
            chance = rng.uniform(0.08, 0.35)
            for place in range(1, n):
                strong = 1.6 if place % max(1, half) == 0 else 0.7
                if rng.random() < chance * strong:
                    put(I.KICK, [place], float(rng.uniform(0.35, 1.0)))
        # Foot, open hats, hands beside the kit
        if steady is not I.HIHAT_CLOSED and rng.random() < 0.5 and I.HIHAT_FOOT not in rows:
            put(I.HIHAT_FOOT, [b * cells for b in range(beats) if b % 2 or rng.random() < 0.3], 0.6)
        if steady is I.HIHAT_CLOSED and rng.random() < 0.45:
            for place in range(n):
                if rows.get(I.HIHAT_CLOSED, [0.0] * n)[place] and rng.random() < 0.12:
                    rows[I.HIHAT_CLOSED][place] = 0.0
                    put(I.HIHAT_OPEN, [place], 0.85)
        for extra, chance in (
            (I.TAMBOURINE, 0.08),
            (I.SHAKER, 0.08),
            (I.COWBELL, 0.05),
            (I.CLAP, 0.08),
        ):
            if rng.random() < chance:
                step = cells if extra in (I.CLAP, I.COWBELL) else max(1, half)
                put(
                    extra,
                    list(
                        range(
                            cells if extra is I.CLAP else 0,
                            n,
                            2 * step if extra is I.CLAP else step,
                        )
                    ),
                    float(rng.uniform(0.4, 0.9)),
                )
        if rng.random() < 0.12:
            for place in range(n):
                if rng.random() < 0.2:
                    put(TOMS[int(rng.integers(3))], [place], float(rng.uniform(0.4, 0.9)))
        return rows

    def _thinned(self, groove: Pattern) -> Pattern:
        return {i: list(row) for i, row in groove.items() if self.rng.random() < 0.8}

    def _varied(self, groove: Pattern) -> Pattern:
        rows = {i: list(row) for i, row in groove.items()}
        for i, row in rows.items():
            for place, velocity in enumerate(row):
                if velocity and self.rng.random() < 0.03:
                    row[place] = 0.0
                elif not velocity and i in (I.KICK, I.SNARE) and self.rng.random() < 0.02:
                    row[place] = -1.0 if i is I.SNARE else 0.7
        return rows

    def _crash(self, rows: Pattern) -> None:
        n = len(next(iter(rows.values()))) if rows else 0
        if not n:
            return
        rows.setdefault(I.CRASH, [0.0] * n)[0] = 0.95
        for i in (I.HIHAT_CLOSED, I.RIDE, I.HIHAT_OPEN):
            if i in rows:
                rows[i][0] = 0.0

    def _fill(
        self,
        rows: Pattern,
        cells: int,
        beats: int,
        stretch: Stretch,
        time: float,
        beat: float,
        swing: float,
        player: _Player,
    ) -> None:
        """Replace the last beats of the bar by a figure on snare and toms."""
        rng = self.rng
        length = int(rng.integers(1, beats + 1))
        first = beats - length
        for row in rows.values():
            for place in range(first * cells, beats * cells):
                row[place] = 0.0
        parts = int(rng.choice([cells, cells, 4, 3, 6, 8]))
        beat_parts = parts if beat / parts > 0.055 else max(2, parts // 2)
        drums = [I.SNARE, *TOMS]
        drum = int(rng.integers(4))
        shape = rng.random()
        for step in range(length * beat_parts):
            if rng.random() < 0.12:
                continue
            if shape < 0.4 and step % beat_parts == 0:
                drum = min(3, drum + int(rng.integers(0, 2)))
            elif shape >= 0.4 and rng.random() < 0.4:
                drum = int(rng.integers(4))
            at = time + beat * (first + step / beat_parts)
            loud = float(rng.uniform(0.5, 1.0)) * (1.0 if step % beat_parts == 0 else 0.85)
            instrument = I.KICK if rng.random() < 0.12 else drums[drum]
            self._stroke(stretch, at, instrument, loud, player)
            if rng.random() < 0.25 and step % beat_parts == 0:
                self._stroke(stretch, at, I.KICK, 0.8, player)

    def _play(
        self,
        rows: Pattern,
        cells: int,
        beats: int,
        time: float,
        beat: float,
        swing: float,
        player: _Player,
        stretch: Stretch,
    ) -> None:
        rng = self.rng
        for instrument, row in rows.items():
            for place, velocity in enumerate(row):
                if not velocity:
                    continue
                whole, within = divmod(place, cells)
                fraction = within / cells
                if swing > 1 and cells == 4 and within % 2 == 1:
                    fraction += 0.5 * swing / (1 + swing) - 0.25
                at = time + beat * (whole + fraction)
                loud = player.ghost * float(rng.uniform(0.7, 1.2)) if velocity < 0 else velocity
                if instrument is I.SNARE and velocity > 0.8 and rng.random() < 0.05:
                    self._stroke(
                        stretch, at - float(rng.uniform(0.018, 0.035)), I.SNARE, loud * 0.4, player
                    )
                if instrument is I.SNARE and velocity > 0.8 and rng.random() < 0.03:
                    for early in (0.055, 0.03):
                        self._stroke(stretch, at - early, I.SNARE, loud * 0.3, player)
                self._stroke(stretch, at, instrument, loud, player)

    def _stroke(
        self, stretch: Stretch, at: float, instrument: I, loud: float, player: _Player
    ) -> None:
        rng = self.rng
        time = at + float(rng.normal(0, player.jitter)) + player.pocket.get(instrument, 0.0)
        velocity = float(np.clip(loud * (1 + rng.normal(0, player.touch)), 0.05, 1.0))
        if time >= 0:
            stretch.strokes.append(Stroke(time, instrument, velocity))
