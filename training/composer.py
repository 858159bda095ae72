"""The composer: stretches of songs with a groove that repeats and varies, fills, and human playing.

Every stretch has a metre, a feel, a tempo that drifts, a limb-wise groove drawn from a style,
variations from bar to bar, fills at the ends of phrases, grace notes, and a player with a pocket
and a touch of his own. Nothing here is sound: the renderer gives each stroke a sample.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from orchesis.music.instruments import Instrument as I
from training.chance import log_uniform
from training.styles import BEATS, CELLS, STYLES, TEMPI, TOMS, Pattern, Writer

FEWEST_SECONDS = 0.055
"""Nobody's hands alternate faster than this between two strokes of a fill."""

WITHOUT_DRUMS = 0.06
"""Share of stretches in which nobody drums: what must not be heard as drums."""


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
    ornaments: float


class Composer:
    """Composes stretches from a seed."""

    def __init__(self, rng: np.random.Generator, styles: tuple[str, ...] = STYLES) -> None:
        self.rng = rng
        self.styles = styles

    def compose(self, seconds: float) -> Stretch:
        """A stretch of about so many seconds."""
        rng = self.rng
        style = str(rng.choice(self.styles))
        beats_a_bar = BEATS.get(style, 4)
        cells = CELLS.get(style, 4)
        if style == "waltz":
            cells = int(rng.choice([2, 3, 4]))
        if style == "straight8" and rng.random() < 0.4:
            cells = 2
        low, high = TEMPI.get(style, (66, 190))
        bpm = log_uniform(rng, low, high)
        swing = rng.uniform(1.2, 2.0) if style == "swing16" else 1.0
        player = self._player()
        stretch = Stretch(bar_beats=beats_a_bar)
        groove = self._groove(style, beats_a_bar, cells)
        phrase = int(rng.choice([4, 4, 4, 8, 2, 5]))
        time = float(rng.uniform(0.0, 1.5))
        start_bar = int(rng.choice([0, 0, 0, 0, 1, 2, 3]))
        if rng.random() < WITHOUT_DRUMS:
            start_bar = 10_000
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
            ornaments=float(rng.choice([0.0, 0.02, 0.06])),
        )

    def _groove(self, style: str, beats: int, cells: int) -> Pattern:
        return Writer(self.rng, style, beats, cells).write()

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
        beat_parts = parts if beat / parts > FEWEST_SECONDS else max(2, parts // 2)
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
                self._ornament(stretch, at, instrument, loud, player)
                self._stroke(stretch, at, instrument, loud, player)

    def _ornament(
        self, stretch: Stretch, at: float, instrument: I, loud: float, player: _Player
    ) -> None:
        """Now and then a flam, a drag, a ruff or a buzz."""
        rng = self.rng
        if instrument not in (I.SNARE, *TOMS) or loud < 0.5:
            return
        chance = rng.random()
        if chance < player.ornaments:
            self._stroke(stretch, at - rng.uniform(0.02, 0.04), instrument, loud * 0.4, player)
        elif chance < 1.6 * player.ornaments and instrument is I.SNARE:
            gap = rng.uniform(0.03, 0.05)
            for early in (2 * gap, gap):
                self._stroke(stretch, at - early, instrument, loud * 0.35, player)
        elif chance < 1.9 * player.ornaments and instrument is I.SNARE:
            gap = rng.uniform(0.035, 0.05)
            for late in range(1, int(rng.integers(3, 6))):
                self._stroke(stretch, at + late * gap, instrument, loud * 0.5**late, player)

    def _stroke(
        self, stretch: Stretch, at: float, instrument: I, loud: float, player: _Player
    ) -> None:
        rng = self.rng
        time = at + float(rng.normal(0, player.jitter)) + player.pocket.get(instrument, 0.0)
        velocity = float(np.clip(loud * (1 + rng.normal(0, player.touch)), 0.05, 1.0))
        if time >= 0:
            stretch.strokes.append(Stroke(time, instrument, velocity))
