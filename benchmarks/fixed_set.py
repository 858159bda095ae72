"""The shipped model on the small fixed set that ships with the tests."""

from __future__ import annotations

import json
from pathlib import Path

from benchmarks.scores import HIT_TOLERANCE, match, merged
from orchesis.audio.decode import decode
from orchesis.listening.network_ear import NetworkEar
from orchesis.music.instruments import Instrument
from orchesis.rhythm.find import find_grid

FOLDER = Path(__file__).resolve().parent / "fixed_set_clips"

FIVE_CLASSES: dict[str, frozenset[Instrument]] = {
    "kick": frozenset({Instrument.KICK}),
    "snare": frozenset({Instrument.SNARE, Instrument.CROSS_STICK}),
    "hats": frozenset({Instrument.HIHAT_CLOSED, Instrument.HIHAT_OPEN, Instrument.HIHAT_FOOT}),
    "toms": frozenset({Instrument.TOM_HIGH, Instrument.TOM_MID, Instrument.TOM_FLOOR}),
    "cymbals": frozenset({Instrument.RIDE, Instrument.RIDE_BELL, Instrument.CRASH}),
}
"""The five classes in which hearing is measured."""


def figures() -> dict[str, float]:
    """F of each class and of all five together, within 50 ms, both passes done."""
    ear = NetworkEar()
    counts = {name: [0, 0, 0] for name in FIVE_CLASSES}
    for path in sorted(FOLDER.glob("*.ogg")):
        truth = json.loads(path.with_suffix(".json").read_text())["strokes"]
        recording = decode(path)
        heard = ear.hear(recording.samples, recording.sample_rate, lambda share: None)
        grid = find_grid(heard)
        lines = [*(bar.start for bar in grid.bars), grid.bars[-1].end] if grid else []
        heard = ear.second_pass(heard, lines)
        for name, family in FIVE_CLASSES.items():
            reference = merged(time for time, drum in truth if Instrument(drum) in family)
            estimate = merged(o.time for o in heard.onsets if o.instrument in family)
            counts[name][0] += len(match(reference, estimate, HIT_TOLERANCE))
            counts[name][1] += len(reference)
            counts[name][2] += len(estimate)
    result = {name: 2 * hit / max(1, ref + est) for name, (hit, ref, est) in counts.items()}
    hit, ref, est = (sum(column) for column in zip(*counts.values(), strict=True))
    return {**result, "five classes": 2 * hit / max(1, ref + est)}
