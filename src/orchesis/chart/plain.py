"""The limb chart as plain monospaced text, for a message: a row a limb, a column a place.

    Verse  0:12  8 bars
         1 e & a 2 e & a 3 e & a 4 e & a
    RH   x   x   x   x   x   x   x   x      hat
    LH           O     o     o   O          snare
    RF   o             o   o                kick
    x 4 | then ...

Capitals are accents, small letters in brackets would take a column: a ghost is a dot.
"""

from __future__ import annotations

from fractions import Fraction
from math import lcm

from orchesis.chart.dress import clock
from orchesis.chart.limb_lines import NAMES, ORDER, SHORT_NAMES, line_of
from orchesis.chart.options import ChartOptions, Reading
from orchesis.chart.readings import make_score
from orchesis.chart.roadmap import road_map_text
from orchesis.chart.score import Kind, Measure, Score
from orchesis.groove.count import spoken
from orchesis.music.instruments import CROSSED, Instrument, Ornament, Status
from orchesis.music.values import Hit, Transcription

FINEST = 12
NAME_WIDTH = 4


def to_text(song: Transcription, options: ChartOptions) -> str:
    """The chart in that reading, at most some 80 letters wide for bars of sixteenths."""
    if options.reading is Reading.ROAD_MAP:
        return road_map_text(song, options)
    return score_to_text(make_score(song, options))


def score_to_text(score: Score) -> str:
    """The chart's measures one below the other, each with the count over it."""
    lines = [score.title, _about(score), ""]
    for measure in score.measures:
        if measure.heading:
            bars = "1 bar" if measure.heading.bars == 1 else f"{measure.heading.bars} bars"
            lines.append(f"[{measure.heading.label}]  {clock(measure.heading.start)}  {bars}")
            lines += [f"  {words}" for words in measure.heading.words]
        lines += measure_lines(measure, score.options)
        lines.append("")
    lines.append(KEY)
    return "\n".join(line.rstrip() for line in lines) + "\n"


KEY = (
    "X x cymbal or hat, O o drum, + cross-stick; capital: accent; . ghost; @ open hat; "
    "f flam, d drag, z buzz; ? doubtful"
)


def _about(score: Score) -> str:
    words = [str(score.meter), f"{round(score.tempo_bpm)} beats a minute"]
    if score.feel_words:
        words.append(score.feel_words)
    return ", ".join(words)


def _title(measure: Measure) -> str:
    words = f"bar {measure.number}"
    if measure.opens_repeat:
        words += "  |:"
    if measure.ending:
        words += f"  ending {', '.join(map(str, measure.ending))}"
    if measure.cues:
        words += f"  ({'; '.join(measure.cues)})"
    return words


def measure_lines(measure: Measure, options: ChartOptions) -> list[str]:
    """One measure as rows of text."""
    closing = f"  :| {measure.times} times" if measure.times else ""
    if measure.kind is Kind.REST:
        return [f"{_title(measure)}: {measure.span} bars rest{closing}"]
    if measure.kind is Kind.REPEAT:
        what = "bar" if measure.span == 1 else f"{measure.span} bars"
        return [f"{_title(measure)}: the {what} before again{closing}"]
    if not measure.hits:
        return [f"{_title(measure)}: rest{closing}"]
    columns = _columns(measure)
    header = " " * (NAME_WIDTH + 1)
    for place in columns:
        header += f"{spoken(place, measure.meter, options.words) or '.':<2}"[:2]
    rows = [f"{_title(measure)}{closing}", header]
    for name, mine in _rows(measure):
        at = {hit.position: hit for hit in mine}
        cells = "".join(f"{sign_of(at[place]) if place in at else '-'} " for place in columns)
        drums = dict.fromkeys(SHORT_NAMES[hit.instrument] for hit in mine)
        rows.append(f"{NAMES[name]:<{NAME_WIDTH}}|{cells}| {', '.join(drums)}")
    return rows


def _rows(measure: Measure) -> list[tuple[str, list[Hit]]]:
    """The strokes of each limb; where one line has two at a place, a row for each drum."""
    found: list[tuple[str, list[Hit]]] = []
    for name in ORDER:
        mine = [hit for hit in measure.hits if line_of(hit) == name]
        if len({hit.position for hit in mine}) == len(mine):
            found += [(name, mine)] if mine else []
            continue
        drums = dict.fromkeys(hit.instrument for hit in mine)
        found += [(name, [hit for hit in mine if hit.instrument is drum]) for drum in drums]
    return found


def _columns(measure: Measure) -> list[Fraction]:
    """The places of the bar: each beat as finely as it is played."""
    pulses = measure.meter.pulses
    found: list[Fraction] = []
    for beat in range(pulses):
        inside = [
            hit.position * pulses - beat
            for hit in measure.hits
            if beat <= hit.position * pulses < beat + 1
        ]
        parts = min(FINEST, lcm(2, *(place.denominator for place in inside)))
        if all(place.denominator in (1, 3) for place in inside) and any(
            place.denominator == 3 for place in inside
        ):
            parts = 3
        steps = {Fraction(step, parts) for step in range(parts)} | set(inside)
        found += [(beat + step) / pulses for step in sorted(steps)]
    return found


def sign_of(hit: Hit) -> str:
    """One letter for a stroke."""
    if hit.status is Status.DOUBTFUL:
        return "?"
    if hit.ornament is not None:
        return {Ornament.FLAM: "f", Ornament.DRAG: "d", Ornament.BUZZ: "z"}[hit.ornament]
    if hit.ghost:
        return "."
    if hit.instrument is Instrument.HIHAT_OPEN:
        return "%" if hit.is_half_open else "@"
    if hit.instrument is Instrument.CROSS_STICK:
        return "+"
    letter = "x" if hit.instrument in CROSSED else "o"
    return letter.upper() if hit.accent else letter
