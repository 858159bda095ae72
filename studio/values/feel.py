"""What the Feel stage shows, as plain values: pocket, swing, pace, dynamics, the kit's sound."""

from __future__ import annotations

from typing import Any

from orchesis.feel.dynamics import (
    Dynamics,
    Middle,
    backbeat_words,
    dynamics,
    ghost_words,
    hat_words,
    swell_words,
)
from orchesis.feel.pace import pace_words, paces, pushes, ring_words
from orchesis.feel.pocket import FARTHEST_MS, Pocket, pocket_advice, pocket_words, pockets
from orchesis.listening.evidence import Evidence
from orchesis.music.values import Transcription
from orchesis.rhythm.feel import Ratio, feel_report

MOST_POINTS = 300
"""Strokes of a voice in the picture."""

NOT_MEASURED = (
    "This song was heard before loudness was measured: listen to it again, and it will be told."
)


def feel_values(score: Transcription, evidence: Evidence | None) -> dict[str, Any]:
    """All that is measured of how a song is played."""
    found = pockets(score.bars, score.hits, score.feel)
    paced, led = paces(score.bars, score.sections), pushes(score.bars, score.sections)
    levels = evidence.levels if evidence else None
    return {
        "pocket": {
            "voices": [_pocket_values(pocket) for pocket in found],
            "advice": pocket_advice(found),
            "reach": FARTHEST_MS,
        },
        "swing": [_swing_values(score, index) for index in range(len(score.sections))],
        "pace": {
            "words": pace_words(paced, led),
            "sections": [
                {"label": one.label, "bpm": round(one.bpm, 1), "spread": round(one.spread, 2)}
                for one in paced
            ],
        },
        "dynamics": (
            _dynamics_values(dynamics(score.bars, score.hits, score.sections, levels))
            if levels is not None
            else None
        ),
        "sound": (
            [
                {
                    "instrument": ring.instrument.value,
                    "seconds": round(ring.seconds, 3),
                    "low": round(ring.low, 3),
                    "high": round(ring.high, 3),
                    "strokes": ring.strokes,
                    "words": ring_words(ring),
                }
                for ring in evidence.rings
            ]
            if evidence is not None
            else []
        ),
        "missing": "" if levels is not None else NOT_MEASURED,
    }


def _pocket_values(pocket: Pocket) -> dict[str, Any]:
    step = max(1, -(-len(pocket.points) // MOST_POINTS))
    return {
        "voice": pocket.voice,
        "ms": round(pocket.ms, 1),
        "low": round(pocket.low, 1),
        "high": round(pocket.high, 1),
        "spread": round(pocket.spread, 1),
        "strokes": pocket.strokes,
        "trend": None if pocket.trend is None else round(pocket.trend, 1),
        "words": pocket_words(pocket),
        "points": [[round(time, 2), round(ms, 1)] for time, ms in pocket.points[::step]],
    }


def _swing_values(score: Transcription, index: int) -> dict[str, Any]:
    section = score.sections[index]
    report = feel_report(
        score.bars_in(section), score.hits_in(section), half_time=score.feel.half_time
    )
    return {
        "label": section.label,
        "first_bar": section.first_bar,
        "subdivision": report.subdivision,
        "eighths": _ratio_values(report.swing_8),
        "sixteenths": _ratio_values(report.swing_16),
        "words": report.words,
    }


def _ratio_values(ratio: Ratio | None) -> dict[str, Any] | None:
    if ratio is None:
        return None
    return {
        "value": round(ratio.value, 2),
        "low": round(ratio.low, 2),
        "high": round(ratio.high, 2),
        "pairs": ratio.pairs,
    }


def _dynamics_values(found: Dynamics) -> dict[str, Any]:
    return {
        "ghosts": _middle_values(found.ghosts),
        "ghost_words": ghost_words(found.ghosts),
        "hat": [{"place": name, "db": round(db, 1)} for name, db in found.hat],
        "hat_words": hat_words(found.hat),
        "backbeat": _middle_values(found.backbeat),
        "backbeat_words": backbeat_words(found.backbeat),
        "swell_words": swell_words(found.swells),
    }


def _middle_values(found: Middle | None) -> dict[str, Any] | None:
    if found is None:
        return None
    return {
        "db": round(found.db, 1),
        "low": round(found.low, 1),
        "high": round(found.high, 1),
        "strokes": found.strokes,
    }
