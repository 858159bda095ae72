"""Which notes of a bar a chart shows: its level, its limbs, what becomes of doubts."""

from __future__ import annotations

from collections.abc import Iterable

from orchesis.chart.options import ChartOptions, Doubts, Level
from orchesis.limbs.assign import BESIDE_THE_KIT
from orchesis.music.instruments import FEET, Instrument, Status
from orchesis.music.values import Hit, Meter

SNARES = frozenset({Instrument.SNARE, Instrument.CROSS_STICK})


def at_level(hits: Iterable[Hit], meter: Meter, options: ChartOptions) -> tuple[Hit, ...]:
    """The notes of a bar that are written, in order. What was left out never is."""
    return tuple(hit for hit in hits if _is_written(hit, meter, options))


def _is_written(hit: Hit, meter: Meter, options: ChartOptions) -> bool:
    if hit.status is Status.LEFT_OUT:
        return False
    if hit.status is Status.DOUBTFUL and options.doubts is Doubts.HIDDEN:
        return False
    if options.limbs and hit.limb not in options.limbs:
        return False
    match options.level:
        case Level.NO_GHOSTS:
            return not hit.ghost
        case Level.HANDS:
            return hit.instrument not in FEET
        case Level.BACKBEAT:
            return hit.instrument is Instrument.KICK or is_backbeat(hit, meter)
        case _:
            return True


def is_backbeat(hit: Hit, meter: Meter) -> bool:
    """Whether this is a snare on a beat, as the backbeat is."""
    on_beat = (hit.position * meter.pulses).denominator == 1
    return hit.instrument in SNARES and not hit.ghost and on_beat


def is_overdub(hit: Hit) -> bool:
    """Whether it is written on a line of its own: played beside the kit, by no limb of his."""
    return hit.limb is None and hit.instrument in BESIDE_THE_KIT
