"""MusicXML 4.0: the transcription for notation programs, and for our own engraver.

Percussion clef, unpitched notes with instruments, hands in voice 1 with stems up, feet in voice
2 with stems down, ghosts in brackets, accents, open hats, tuplets, the count as lyrics if wanted.
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from orchesis.chart.notation import GLYPHS, STAFF
from orchesis.chart.ornaments import GRACES
from orchesis.chart.spelling import Event, spell_voice
from orchesis.groove.count import DEFAULT_SCHOOL, SCHOOLS, CountWords, spoken
from orchesis.music.instruments import FEET, SPOKEN_NAMES, Instrument, Ornament
from orchesis.music.values import Bar, Hit, Section, Transcription, written

TICKS_PER_QUARTER = 48
_TYPES = {1: "whole", 2: "half", 4: "quarter", 8: "eighth", 16: "16th", 32: "32nd", 64: "64th"}
BEATS_A_LINE = 16
"""Four bars of 4/4 a line: phrases of four and eight can be seen at a glance."""

STRAIGHT_UP_TO = 1.12
"""Below this ratio a feel is not marked as swung."""

_HEADER = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE score-partwise PUBLIC '
    '"-//Recordare//DTD MusicXML 4.0 Partwise//EN" "http://www.musicxml.org/dtds/partwise.dtd">\n'
)


@dataclass(frozen=True, slots=True)
class ChartOptions:
    """What is written: only these bars (all by default), the count below the notes, or other words.

    below : what stands below a place, such as the hand that plays it; by bar and position.
    bare : neither tempo nor rehearsal marks: an excerpt.
    """

    first_bar: int | None = None
    last_bar: int | None = None
    show_count: bool = False
    below: Mapping[tuple[int, Fraction], str] = field(default_factory=dict)
    bare: bool = False
    words: CountWords = SCHOOLS[DEFAULT_SCHOOL]


def to_musicxml(song: Transcription, options: ChartOptions | None = None) -> str:
    """The text of a MusicXML file. A song without bars gives one bar that is empty."""
    options = options or ChartOptions()
    root = ET.Element("score-partwise", version="4.0")
    work = ET.SubElement(root, "work")
    ET.SubElement(work, "work-title").text = _clean(song.title) or "Untitled"
    identification = ET.SubElement(root, "identification")
    encoding = ET.SubElement(identification, "encoding")
    ET.SubElement(encoding, "software").text = "Orchesis"
    used = sorted({hit.instrument for hit in song.hits}, key=list(Instrument).index)
    _part_list(root, used or [Instrument.SNARE])
    part = ET.SubElement(root, "part", id="P1")
    bars = [
        bar
        for bar in song.bars
        if (options.first_bar is None or bar.number >= options.first_bar)
        and (options.last_bar is None or bar.number <= options.last_bar)
    ]
    by_bar: dict[int, list[Hit]] = {bar.number: [] for bar in bars}
    for hit in written(song.hits):
        if hit.bar in by_bar:
            by_bar[hit.bar].append(hit)
    openings = {section.first_bar: section for section in song.sections}
    before: Bar | None = None
    on_line = 0
    for bar in bars:
        measure = ET.SubElement(part, "measure", number=str(bar.number))
        on_line = _line_break(measure, bar, on_line, opens=bar.number in openings)
        if before is None or before.meter != bar.meter:
            _attributes(measure, bar, with_clef=before is None)
        if before is None and not options.bare:
            _tempo(measure, song)
        if bar.number in openings and not options.bare:
            _rehearsal(measure, openings[bar.number])
        _voices(measure, bar, by_bar[bar.number], options)
        before = bar
    if not bars:
        measure = ET.SubElement(part, "measure", number="1")
        empty = Bar(1, 0.0, 1.0, song.meter, (0.0,) * song.meter.pulses, (1,) * song.meter.pulses)
        _attributes(measure, empty, with_clef=True)
        _voices(measure, empty, [], options)
    ET.indent(root)
    return _HEADER + ET.tostring(root, encoding="unicode") + "\n"


def _clean(text: str) -> str:
    """Without the control characters that XML forbids."""
    return "".join(sign for sign in text if sign.isprintable()).strip()


def _part_list(root: ET.Element, used: Sequence[Instrument]) -> None:
    part = ET.SubElement(ET.SubElement(root, "part-list"), "score-part", id="P1")
    name = ET.SubElement(part, "part-name")
    name.text = "Drums"
    name.set("print-object", "no")
    for instrument in used:
        item = ET.SubElement(part, "score-instrument", id=f"P1-{instrument.value}")
        ET.SubElement(item, "instrument-name").text = SPOKEN_NAMES[instrument]
    for instrument in used:
        item = ET.SubElement(part, "midi-instrument", id=f"P1-{instrument.value}")
        ET.SubElement(item, "midi-channel").text = "10"
        ET.SubElement(item, "midi-unpitched").text = str(STAFF[instrument].midi_key + 1)


def _line_break(measure: ET.Element, bar: Bar, on_line: int, *, opens: bool) -> int:
    """Begin a new line at a section and after BEATS_A_LINE; returns the beats on the line now."""
    if on_line and (opens or on_line + bar.meter.pulses > BEATS_A_LINE):
        measure.append(ET.Element("print", {"new-system": "yes"}))
        on_line = 0
    return on_line + bar.meter.pulses


def _attributes(measure: ET.Element, bar: Bar, *, with_clef: bool) -> None:
    attributes = ET.SubElement(measure, "attributes")
    if with_clef:
        ET.SubElement(attributes, "divisions").text = str(TICKS_PER_QUARTER)
    time = ET.SubElement(attributes, "time")
    ET.SubElement(time, "beats").text = str(bar.meter.beats)
    ET.SubElement(time, "beat-type").text = str(bar.meter.unit)
    if with_clef:
        ET.SubElement(ET.SubElement(attributes, "clef"), "sign").text = "percussion"


def feel_words(song: Transcription) -> str:
    """The feel as written over the first bar: "swung sixteenths 1.5 : 1", or nothing."""
    parts = []
    for ratio, name in ((song.feel.swing_8, "eighths"), (song.feel.swing_16, "sixteenths")):
        if ratio is not None and ratio > STRAIGHT_UP_TO:
            parts.append(f"swung {name} {ratio:.1f} : 1")
    return ", ".join(parts)


def _tempo(measure: ET.Element, song: Transcription) -> None:
    if song.tempo_bpm <= 0:
        return
    direction = ET.SubElement(measure, "direction", placement="above")
    kind = ET.SubElement(direction, "direction-type")
    metronome = ET.SubElement(kind, "metronome")
    compound = song.meter.is_compound
    ET.SubElement(metronome, "beat-unit").text = _TYPES[4 if compound else song.meter.unit]
    if compound:
        ET.SubElement(metronome, "beat-unit-dot")
    ET.SubElement(metronome, "per-minute").text = str(round(song.tempo_bpm))
    ET.SubElement(direction, "sound", tempo=f"{song.tempo_bpm:.2f}")
    if words := feel_words(song):
        direction = ET.SubElement(measure, "direction", placement="above")
        kind = ET.SubElement(direction, "direction-type")
        ET.SubElement(kind, "words").text = words


def _rehearsal(measure: ET.Element, section: Section) -> None:
    direction = ET.SubElement(measure, "direction", placement="above")
    kind = ET.SubElement(direction, "direction-type")
    ET.SubElement(kind, "rehearsal").text = _clean(section.label)


def _ticks(length: Fraction) -> int:
    return int(length * 4 * TICKS_PER_QUARTER)


def _voices(measure: ET.Element, bar: Bar, hits: Sequence[Hit], options: ChartOptions) -> None:
    hands = [hit for hit in hits if hit.instrument not in FEET]
    feet = [hit for hit in hits if hit.instrument in FEET]
    whole = Fraction(bar.meter.beats, bar.meter.unit)
    _voice(measure, bar, hands, "1", options)
    if feet:
        back = ET.SubElement(measure, "backup")
        ET.SubElement(back, "duration").text = str(_ticks(whole))
        _voice(measure, bar, feet, "2", options)


def _voice(
    measure: ET.Element, bar: Bar, hits: Sequence[Hit], voice: str, options: ChartOptions
) -> None:
    events = spell_voice(bar, hits)
    beams = _beams(events)
    place = Fraction(0)
    for event, marks in zip(events, beams, strict=True):
        if event.is_rest:
            _rest(measure, event, voice, whole_bar=not hits)
        word = ""
        if options.show_count and voice == "1":
            word = spoken(place * bar.meter.unit / bar.meter.beats, bar.meter, options.words)
        elif voice == "1" and event.hits:
            word = options.below.get((bar.number, event.hits[0].position), "")
        for hit in event.hits:
            _graces(measure, hit, voice)
        for index, hit in enumerate(event.hits):
            _note(
                measure, hit, event, voice, marks, chord=index > 0, lyric=word if index == 0 else ""
            )
        place += event.value.sounding


def _rest(measure: ET.Element, event: Event, voice: str, *, whole_bar: bool) -> None:
    note = ET.SubElement(measure, "note")
    rest = ET.SubElement(note, "rest")
    if whole_bar:
        rest.set("measure", "yes")
    ET.SubElement(note, "duration").text = str(_ticks(event.value.sounding))
    ET.SubElement(note, "voice").text = voice
    if not whole_bar:
        _type(note, event)
    _notations(note, event, None, voice)


def _graces(measure: ET.Element, hit: Hit, voice: str) -> None:
    """The grace notes of a flam (one, slashed) or a drag (two, beamed)."""
    count = GRACES.get(hit.ornament, 0) if hit.ornament else 0
    staff = STAFF[hit.instrument]
    for number in range(count):
        note = ET.SubElement(measure, "note")
        grace = ET.SubElement(note, "grace")
        if count == 1:
            grace.set("slash", "yes")
        unpitched = ET.SubElement(note, "unpitched")
        ET.SubElement(unpitched, "display-step").text = staff.step
        ET.SubElement(unpitched, "display-octave").text = str(staff.octave)
        ET.SubElement(note, "instrument", id=f"P1-{hit.instrument.value}")
        ET.SubElement(note, "voice").text = voice
        ET.SubElement(note, "type").text = "eighth" if count == 1 else "16th"
        ET.SubElement(note, "stem").text = "up"
        ET.SubElement(note, "notehead").text = staff.head
        if count > 1:
            mark = "begin" if number == 0 else "end"
            for level in (1, 2):
                ET.SubElement(note, "beam", number=str(level)).text = mark


def _note(
    measure: ET.Element,
    hit: Hit,
    event: Event,
    voice: str,
    beams: Sequence[str],
    *,
    chord: bool,
    lyric: str,
) -> None:
    staff = STAFF[hit.instrument]
    note = ET.SubElement(measure, "note", dynamics=str(round(hit.velocity / 90 * 100)))
    if chord:
        ET.SubElement(note, "chord")
    unpitched = ET.SubElement(note, "unpitched")
    ET.SubElement(unpitched, "display-step").text = staff.step
    ET.SubElement(unpitched, "display-octave").text = str(staff.octave)
    ET.SubElement(note, "duration").text = str(_ticks(event.value.sounding))
    ET.SubElement(note, "instrument", id=f"P1-{hit.instrument.value}")
    ET.SubElement(note, "voice").text = voice
    _type(note, event)
    ET.SubElement(note, "stem").text = "up" if voice == "1" else "down"
    head = ET.SubElement(note, "notehead")
    head.text = staff.head
    if glyph := GLYPHS.get(staff.head):
        head.set("smufl", glyph)
    if hit.ghost:
        head.set("parentheses", "yes")
    if not chord:
        for level, mark in enumerate(beams, 1):
            ET.SubElement(note, "beam", number=str(level)).text = mark
    _notations(note, event, hit, voice, chord=chord)
    if lyric:
        item = ET.SubElement(note, "lyric")
        ET.SubElement(item, "syllabic").text = "single"
        ET.SubElement(item, "text").text = lyric


def _type(note: ET.Element, event: Event) -> None:
    length = event.value.written
    dotted = length.numerator == 3
    plain = length * Fraction(2, 3) if dotted else length
    ET.SubElement(note, "type").text = _TYPES[plain.denominator]
    if dotted:
        ET.SubElement(note, "dot")
    if event.value.tuplet:
        actual, normal = event.value.tuplet
        change = ET.SubElement(note, "time-modification")
        ET.SubElement(change, "actual-notes").text = str(actual)
        ET.SubElement(change, "normal-notes").text = str(normal)


def _notations(
    note: ET.Element, event: Event, hit: Hit | None, voice: str, *, chord: bool = False
) -> None:
    notations = ET.Element("notations")
    if not chord and event.tuplet_start:
        ET.SubElement(notations, "tuplet", type="start", bracket="yes", number="1")
    if not chord and event.tuplet_stop:
        ET.SubElement(notations, "tuplet", type="stop", number="1")
    if hit is not None and hit.instrument is Instrument.HIHAT_OPEN:
        ET.SubElement(ET.SubElement(notations, "technical"), "open", placement="above")
    # The stem is shared: what is on it is written at the chord's first note, or readers drop it.
    if hit is not None and not chord and any(s.ornament is Ornament.BUZZ for s in event.hits):
        tremolo = ET.SubElement(ET.SubElement(notations, "ornaments"), "tremolo", type="unmeasured")
        tremolo.text = "0"
    # One accent serves the whole chord: stems are shared.
    if hit is not None and not chord and any(stroke.accent for stroke in event.hits):
        accent = ET.SubElement(ET.SubElement(notations, "articulations"), "accent")
        accent.set("placement", "above" if voice == "1" else "below")
    if len(notations):
        note.append(notations)


def _beams(events: Sequence[Event]) -> list[list[str]]:
    """For each event the beam marks of each level: notes of one beat are beamed together."""
    marks: list[list[str]] = [[] for _ in events]
    beats = sorted({event.beat for event in events})
    for beat in beats:
        group = [
            index
            for index, event in enumerate(events)
            if event.beat == beat and not event.is_rest and _flags(event) > 0
        ]
        if len(group) < 2:
            continue
        for order, index in enumerate(group):
            for level in range(1, _flags(events[index]) + 1):
                joined_left = order > 0 and _flags(events[group[order - 1]]) >= level
                joined_right = order + 1 < len(group) and _flags(events[group[order + 1]]) >= level
                marks[index].append(_mark(joined_left, joined_right, first=order == 0))
    return marks


def _mark(left: bool, right: bool, *, first: bool) -> str:
    if left and right:
        return "continue"
    if right:
        return "begin"
    if left:
        return "end"
    return "forward hook" if first else "backward hook"


def _flags(event: Event) -> int:
    """How many flags or beams the written value has: an eighth one, a sixteenth two."""
    length = event.value.written
    plain = length * Fraction(2, 3) if length.numerator == 3 else length
    return max(0, plain.denominator.bit_length() - 3)
