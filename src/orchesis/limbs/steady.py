"""The steady hand of each section: how fast it goes, and whether one hand plays it or two."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from orchesis.limbs.kit import STANDARD, Player
from orchesis.music.instruments import CYMBALS, SPOKEN_NAMES, STRUCK_HATS, Instrument, Limb
from orchesis.music.values import Hit, Section, written

FEWEST = 12
"""Strokes: of fewer there is no steady hand."""

FAST_HZ = 4.5
"""Slower strokes are one hand's in every school: sixteenths at 68."""

SHARED = 0.25
"""Of the strokes by the other hand: from here on two hands play."""


def steady_words(
    hits: Sequence[Hit], sections: Sequence[Section], player: Player = STANDARD
) -> tuple[str, ...]:
    """Who plays fast cymbals, and why: "Sixteenths on the hat, 6.5 a second: one hand"."""
    told: dict[str, list[str]] = defaultdict(list)
    for section in sections:
        mine = [
            hit
            for hit in written(hits)
            if section.first_bar <= hit.bar < section.first_bar + section.bars
            and hit.instrument in STRUCK_HATS | CYMBALS
            and hit.limb in (Limb.RIGHT_HAND, Limb.LEFT_HAND)
        ]
        if len(mine) < FEWEST:
            continue
        gaps = np.diff([hit.time for hit in mine])
        gaps = gaps[gaps > 0.02]
        if not len(gaps):
            continue
        rate = 1.0 / float(np.median(gaps))
        if rate < FAST_HZ:
            continue
        lead = sum(hit.limb is player.hat_hand for hit in mine) / len(mine)
        shared = 1 - lead >= SHARED
        drum = max({hit.instrument for hit in mine}, key=lambda i: _count(mine, i))
        name = "hat" if drum in STRUCK_HATS else SPOKEN_NAMES[drum]
        words = (
            f"{rate:.1f} strokes a second on the {name}: "
            f"{'two hands share them' if shared else 'one hand plays them'}; "
            f"one keeps up {player.comfortable_hz:g}"
        )
        told[words].append(section.label)
    return tuple(f"{', '.join(labels)}: {words}." for words, labels in told.items())


def _count(hits: Sequence[Hit], instrument: Instrument) -> int:
    return sum(hit.instrument is instrument for hit in hits)
