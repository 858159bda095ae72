"""MusicXML 4.0: the chart for notation programs.

Percussion clef, unpitched notes with instruments, hands in voice 1 with stems up, feet in voice 2
with stems down, ghosts in brackets, accents, open hats, tuplets, repeats with endings, signs for
bars that repeat (their notes are in the file all the same, so that every reader plays them), the
count as lyrics and the hands as fingerings if wanted. What is played beside the kit is a part of
its own.
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from orchesis.chart.layout import plan_lines
from orchesis.chart.lettering import printable
from orchesis.chart.levels import is_overdub
from orchesis.chart.musicxml_notes import TICKS_PER_QUARTER, TYPES, write_voices
from orchesis.chart.notation import STAFF
from orchesis.chart.options import ChartOptions, Reading
from orchesis.chart.readings import make_score
from orchesis.chart.score import Credits, Kind, Measure, Score
from orchesis.music.instruments import SPOKEN_NAMES, Instrument
from orchesis.music.values import Hit, Meter, Transcription

PAGE_WIDTH = 18400.0
"""For line breaks: what an A4 sheet has between its margins, in hundredths of a millimetre."""

HEADER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE score-partwise PUBLIC '
    '"-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">\n'
)
KIT_PART, BESIDE_PART = "P1", "P2"


def to_musicxml(
    song: Transcription, options: ChartOptions | None = None, signature: Credits | None = None
) -> str:
    """The text of a MusicXML file of a song in one of its readings."""
    options = options or ChartOptions()
    if options.reading is Reading.ROAD_MAP:
        options = replace(options, reading=Reading.ESSENCE)
    return score_to_musicxml(make_score(song, options, signature))


def score_to_musicxml(score: Score) -> str:
    """The text of a MusicXML file. A chart without measures gives one bar that is empty."""
    root = ET.Element("score-partwise", version="4.0")
    work = ET.SubElement(root, "work")
    ET.SubElement(work, "work-title").text = printable(score.title) or "Untitled"
    identification = ET.SubElement(root, "identification")
    if score.credits.transcriber:
        creator = ET.SubElement(identification, "creator", type="transcriber")
        creator.text = printable(score.credits.transcriber)
    encoding = ET.SubElement(identification, "encoding")
    ET.SubElement(encoding, "software").text = "Orchesis"
    measures = unfolded(score.measures) or [(Measure(1, score.meter), None)]
    hits = [hit for measure, _ in measures for hit in measure.hits]
    kit = [hit for hit in hits if not is_overdub(hit)]
    beside = [hit for hit in hits if is_overdub(hit)]
    parts = ET.SubElement(root, "part-list")
    _part(parts, KIT_PART, "Drums", kit or [_snare()])
    if beside:
        _part(parts, BESIDE_PART, "Beside the kit", beside)
    _write_part(root, KIT_PART, measures, score)
    if beside:
        _write_part(root, BESIDE_PART, measures, score)
    ET.indent(root)
    return HEADER + ET.tostring(root, encoding="unicode") + "\n"


def _snare() -> Hit:
    return Hit(0.0, Instrument.SNARE, 80, 1, Fraction(0))


Unfolded = list[tuple[Measure, Measure | None]]
"""Measures with their notes, and the sign that stands for each, if one begins there."""


def unfolded(measures: Sequence[Measure]) -> Unfolded:
    """One measure for each bar that signs and rests stand for; repeats are left as they are."""
    found: Unfolded = []
    for measure in measures:
        if measure.kind is Kind.WRITTEN:
            found.append((measure, None))
            continue
        sources = [m for m, _ in found[-measure.span :]] if measure.kind is Kind.REPEAT else []
        for step in range(measure.span):
            first, last = step == 0, step + 1 == measure.span
            found.append(
                (
                    Measure(
                        number=measure.number + step,
                        meter=measure.meter,
                        hits=sources[step].hits if sources else (),
                        plays=tuple(number + step for number in measure.plays),
                        opens_repeat=measure.opens_repeat and first,
                        times=measure.times if last else 0,
                        ending=measure.ending,
                        ending_opens=measure.ending_opens and first,
                        ending_closes=measure.ending_closes and last,
                        heading=measure.heading if first else None,
                        cues=measure.cues if first else (),
                        divisions=measure.divisions,
                    ),
                    measure if first else None,
                )
            )
    return found


def _part(parts: ET.Element, name: str, words: str, hits: Sequence[Hit]) -> None:
    part = ET.SubElement(parts, "score-part", id=name)
    label = ET.SubElement(part, "part-name")
    label.text = words
    if name == KIT_PART:
        label.set("print-object", "no")
    used = sorted({hit.instrument for hit in hits}, key=list(Instrument).index)
    for instrument in used:
        item = ET.SubElement(part, "score-instrument", id=f"{name}-{instrument.value}")
        ET.SubElement(item, "instrument-name").text = SPOKEN_NAMES[instrument]
    for instrument in used:
        item = ET.SubElement(part, "midi-instrument", id=f"{name}-{instrument.value}")
        ET.SubElement(item, "midi-channel").text = "10"
        ET.SubElement(item, "midi-unpitched").text = str(STAFF[instrument].midi_key + 1)


def _write_part(root: ET.Element, name: str, measures: Unfolded, score: Score) -> None:
    part = ET.SubElement(root, "part", id=name)
    lines = plan_lines(score.measures, score.options, width=PAGE_WIDTH)
    breaks = {(line.measures[0].number, line.measures[0].ending) for line in lines[1:]}
    before: Meter | None = None
    repeating = 0
    for measure, sign in measures:
        element = ET.SubElement(part, "measure", number=str(measure.number))
        opens_line = sign is not None or measure.kind is Kind.WRITTEN
        if opens_line and (measure.number, measure.ending) in breaks:
            ET.SubElement(element, "print", {"new-system": "yes"})
        _left_bar(element, measure)
        # A sign holds until one says that it does not: at the first bar that has its own notes.
        repeating = max(0, repeating - 1)
        stops = repeating == 1 and (sign is None or sign.kind is Kind.REST)
        if sign is not None and sign.kind is Kind.REPEAT:
            repeating = sign.span + 1
        _attributes(element, measure, before, sign, stops=stops)
        if name == KIT_PART:
            if before is None:
                _tempo(element, score)
            _words(element, measure, score.options)
        hits = [hit for hit in measure.hits if is_overdub(hit) == (name == BESIDE_PART)]
        write_voices(element, measure.meter, hits, score, part=name)
        _right_bar(element, measure)
        before = measure.meter


def _left_bar(element: ET.Element, measure: Measure) -> None:
    if not (measure.opens_repeat or measure.ending_opens):
        return
    bar = ET.SubElement(element, "barline", location="left")
    if measure.opens_repeat:
        ET.SubElement(bar, "bar-style").text = "heavy-light"
    if measure.ending_opens:
        numbers = ",".join(map(str, measure.ending))
        ET.SubElement(bar, "ending", number=numbers, type="start")
    if measure.opens_repeat:
        ET.SubElement(bar, "repeat", direction="forward")


def _right_bar(element: ET.Element, measure: Measure) -> None:
    if not (measure.times or measure.ending_closes):
        return
    bar = ET.SubElement(element, "barline", location="right")
    if measure.times:
        ET.SubElement(bar, "bar-style").text = "light-heavy"
    if measure.ending_closes:
        numbers = ",".join(map(str, measure.ending))
        kind = "stop" if measure.times else "discontinue"
        ET.SubElement(bar, "ending", number=numbers, type=kind)
    if measure.times:
        ET.SubElement(bar, "repeat", direction="backward", times=str(measure.times))


def _attributes(
    element: ET.Element,
    measure: Measure,
    before: Meter | None,
    sign: Measure | None,
    *,
    stops: bool,
) -> None:
    if before == measure.meter and sign is None and not stops:
        return
    attributes = ET.SubElement(element, "attributes")
    if before is None:
        ET.SubElement(attributes, "divisions").text = str(TICKS_PER_QUARTER)
    if before != measure.meter:
        time = ET.SubElement(attributes, "time")
        ET.SubElement(time, "beats").text = str(measure.meter.beats)
        ET.SubElement(time, "beat-type").text = str(measure.meter.unit)
    if before is None:
        ET.SubElement(ET.SubElement(attributes, "clef"), "sign").text = "percussion"
    if stops:
        style = ET.SubElement(attributes, "measure-style")
        ET.SubElement(style, "measure-repeat", type="stop")
    if sign is not None:
        style = ET.SubElement(attributes, "measure-style")
        if sign.kind is Kind.REST:
            ET.SubElement(style, "multiple-rest").text = str(sign.span)
        else:
            repeat = ET.SubElement(style, "measure-repeat", type="start")
            repeat.text = str(sign.span)
            if sign.span > 1:
                repeat.set("slashes", "2")


def _tempo(element: ET.Element, score: Score) -> None:
    if score.tempo_bpm <= 0:
        return
    direction = ET.SubElement(element, "direction", placement="above")
    kind = ET.SubElement(direction, "direction-type")
    metronome = ET.SubElement(kind, "metronome")
    compound = score.meter.is_compound
    ET.SubElement(metronome, "beat-unit").text = TYPES[4 if compound else score.meter.unit]
    if compound:
        ET.SubElement(metronome, "beat-unit-dot")
    ET.SubElement(metronome, "per-minute").text = str(round(score.tempo_bpm))
    ET.SubElement(direction, "sound", tempo=f"{_quarters(score):.2f}")
    if score.feel_words:
        _direction(element, score.feel_words)


def _quarters(score: Score) -> float:
    """Quarter notes a minute: what MusicXML means by a tempo, whatever the felt beat."""
    return score.tempo_bpm * float(score.meter.pulse * 4)


def _direction(element: ET.Element, words: str) -> None:
    direction = ET.SubElement(element, "direction", placement="above")
    kind = ET.SubElement(direction, "direction-type")
    ET.SubElement(kind, "words").text = words


def _words(element: ET.Element, measure: Measure, options: ChartOptions) -> None:
    if measure.heading:
        direction = ET.SubElement(element, "direction", placement="above")
        kind = ET.SubElement(direction, "direction-type")
        ET.SubElement(kind, "rehearsal").text = printable(measure.heading.label)
        for words in measure.heading.words:
            _direction(element, printable(words))
    for cue in measure.cues:
        _direction(element, printable(cue))
    if measure.times > 2 and not measure.ending:
        _direction(element, f"play {measure.times} times")
