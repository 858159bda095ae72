"""Long composed scores for measuring waits: one section of 60 bars, or eight minutes."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from orchesis.limbs.assign import assign_limbs
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import Bar, Feel, Hit, Meter, Section, Transcription, in_order

BEAT = 0.5
Sections = tuple[tuple[str, int, int], ...]
"""Of each section its label, first bar and length."""
EIGHT_MINUTES: Sections = (("Verse", 1, 20), ("Jam", 21, 200), ("Outro", 221, 20))
SIXTY_BARS: Sections = (("Verse", 1, 60),)
USUAL_240: Sections = tuple(
    (f"{'Verse' if index % 2 == 0 else 'Chorus'} {index // 2 + 1}", 1 + 16 * index, 16)
    for index in range(15)
)
ROWS = {
    Instrument.HIHAT_CLOSED: "x.x.x.x.x.x.x.x.",
    Instrument.SNARE: "....x..g.g..x..g",
    Instrument.KICK: "x.....x.x.x.....",
}


def long_score(sections: Sections = EIGHT_MINUTES, seed: int = 7) -> Transcription:
    """The score: a groove whose kicks and ghosts vary from bar to bar, some of them in doubt."""
    rng = np.random.default_rng(seed)
    count = sum(length for _, _, length in sections)
    bars = tuple(
        Bar(
            number=index + 1,
            start=4 * BEAT * index,
            end=4 * BEAT * (index + 1),
            meter=Meter(4, 4),
            beats=tuple(BEAT * (4 * index + beat) for beat in range(4)),
            divisions=(4,) * 4,
        )
        for index in range(count)
    )
    hits = []
    for bar in bars:
        for instrument, row in ROWS.items():
            for cell, sign in enumerate(row):
                varies = instrument is not Instrument.HIHAT_CLOSED
                if sign == "." or (varies and rng.random() < 0.15):
                    continue
                hits.append(
                    Hit(
                        time=bar.time_at(Fraction(cell, 16)),
                        instrument=instrument,
                        velocity=30 if sign == "g" else 90,
                        bar=bar.number,
                        position=Fraction(cell, 16),
                        ghost=sign == "g",
                        confidence=0.5 if rng.random() < 0.1 else 0.95,
                        status=Status.DOUBTFUL if rng.random() < 0.1 else Status.HEARD,
                    )
                )
    return Transcription(
        tempo_bpm=60 / BEAT,
        meter=Meter(4, 4),
        beats=tuple(beat for bar in bars for beat in bar.beats),
        bars=bars,
        sections=tuple(
            Section(label, bars[first - 1].start, bars[first + n - 2].end, n, first, label[0])
            for label, first, n in sections
        ),
        hits=tuple(sorted(assign_limbs(sorted(hits, key=in_order), 4), key=in_order)),
        feel=Feel(1.0, 1.0),
        title=f"{count} bars",
        duration=bars[-1].end,
    )
