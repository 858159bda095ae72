"""The notes of a bar in MusicXML: voices, chords, rests, graces, beams and marks."""

from __future__ import annotations

import xml.etree.ElementTree as ET
from collections.abc import Sequence
from fractions import Fraction

from orchesis.chart.notation import GLYPHS, HALF_OPEN, closing_strokes, head_of, place_of
from orchesis.chart.options import Beside, ChartOptions, Swing, Voices
from orchesis.chart.ornaments import GRACES
from orchesis.chart.score import Score
from orchesis.chart.spelling import Event, beam_groups, flags, spell_voice
from orchesis.chart.swinging import in_triplets
from orchesis.groove.count import spoken
from orchesis.music.instruments import FEET, Instrument, Limb, Ornament, Status
from orchesis.music.values import Hit, Meter

TICKS_PER_QUARTER = 48
TYPES = {1: "whole", 2: "half", 4: "quarter", 8: "eighth", 16: "16th", 32: "32nd", 64: "64th"}
LETTERS = {Limb.RIGHT_HAND: "R", Limb.LEFT_HAND: "L"}


def write_voices(
    measure: ET.Element, meter: Meter, hits: Sequence[Hit], score: Score, *, part: str
) -> None:
    """Write the notes of a bar into its element: hands first, then feet."""
    one = score.options.voices is Voices.ONE
    hands = [hit for hit in hits if one or hit.instrument not in FEET]
    feet = [] if one else [hit for hit in hits if hit.instrument in FEET]
    writer = _Writer(meter, score, part, closing_strokes(hits))
    if hands or not feet:
        writer.voice(measure, hands, "1")
    if hands and feet:
        back = ET.SubElement(measure, "backup")
        ET.SubElement(back, "duration").text = str(_ticks(Fraction(meter.beats, meter.unit)))
    if feet:
        writer.voice(measure, feet, "2")


def _ticks(length: Fraction) -> int:
    return int(length * 4 * TICKS_PER_QUARTER)


class _Writer:
    def __init__(self, meter: Meter, score: Score, part: str, closing: frozenset[Fraction]) -> None:
        self.meter = meter
        self.part = part
        self.options: ChartOptions = score.options
        self.closing = closing if score.options.closing_sign else frozenset()
        triplets = score.options.swing is Swing.TRIPLETS
        self.place_of = in_triplets(meter, score.feel) if triplets else None

    def voice(self, measure: ET.Element, hits: Sequence[Hit], voice: str) -> None:
        events = spell_voice(self.meter, hits, self.place_of)
        beams = _beams(events)
        for event, marks in zip(events, beams, strict=True):
            if event.is_rest:
                _rest(measure, event, voice, whole_bar=not hits)
            for hit in event.hits:
                self._graces(measure, hit, voice)
            for index, hit in enumerate(event.hits):
                self._note(measure, hit, event, voice, marks, chord=index > 0)

    def _unpitched(self, note: ET.Element, hit: Hit) -> None:
        step, octave = place_of(hit.instrument, self.options)
        unpitched = ET.SubElement(note, "unpitched")
        ET.SubElement(unpitched, "display-step").text = step
        ET.SubElement(unpitched, "display-octave").text = str(octave)

    def _graces(self, measure: ET.Element, hit: Hit, voice: str) -> None:
        """The grace notes of a flam (one, slashed) or a drag (two, beamed)."""
        count = GRACES.get(hit.ornament, 0) if hit.ornament else 0
        for number in range(count):
            note = ET.SubElement(measure, "note")
            grace = ET.SubElement(note, "grace")
            if count == 1:
                grace.set("slash", "yes")
            self._unpitched(note, hit)
            ET.SubElement(note, "instrument", id=f"{self.part}-{hit.instrument.value}")
            ET.SubElement(note, "voice").text = voice
            ET.SubElement(note, "type").text = "eighth" if count == 1 else "16th"
            ET.SubElement(note, "stem").text = "up" if voice == "1" else "down"
            ET.SubElement(note, "notehead").text = head_of(hit.instrument, self.options)
            if count > 1:
                mark = "begin" if number == 0 else "end"
                for level in (1, 2):
                    ET.SubElement(note, "beam", number=str(level)).text = mark

    def _note(
        self,
        measure: ET.Element,
        hit: Hit,
        event: Event,
        voice: str,
        beams: Sequence[str],
        *,
        chord: bool,
    ) -> None:
        note = ET.SubElement(measure, "note", dynamics=str(round(hit.velocity / 90 * 100)))
        if chord:
            ET.SubElement(note, "chord")
        self._unpitched(note, hit)
        ET.SubElement(note, "duration").text = str(_ticks(event.value.sounding))
        ET.SubElement(note, "instrument", id=f"{self.part}-{hit.instrument.value}")
        if hit.status is Status.DOUBTFUL:
            ET.SubElement(note, "level", bracket="yes")
        ET.SubElement(note, "voice").text = voice
        _type(note, event)
        ET.SubElement(note, "stem").text = "up" if voice == "1" else "down"
        head = ET.SubElement(note, "notehead")
        head.text = head_of(hit.instrument, self.options)
        if glyph := GLYPHS.get(head.text):
            head.set("smufl", glyph)
        if hit.ghost:
            head.set("parentheses", "yes")
        if not chord:
            for level, mark in enumerate(beams, 1):
                ET.SubElement(note, "beam", number=str(level)).text = mark
        self._notations(note, event, hit, voice, chord=chord)
        if self.options.count and not chord and voice == "1":
            lyric = ET.SubElement(note, "lyric")
            ET.SubElement(lyric, "syllabic").text = "single"
            word = spoken(hit.position, self.meter, self.options.words)
            ET.SubElement(lyric, "text").text = word

    def _notations(
        self, note: ET.Element, event: Event, hit: Hit, voice: str, *, chord: bool
    ) -> None:
        notations = ET.Element("notations")
        if not chord:
            _tuplet(notations, event)
        if hit.ornament is Ornament.BUZZ:
            ornaments = ET.SubElement(notations, "ornaments")
            ET.SubElement(ornaments, "tremolo", type="unmeasured").text = "0"
        technical = ET.Element("technical")
        if hit.is_half_open:
            half = ET.SubElement(technical, "other-technical", placement="above")
            half.set("smufl", "brassMuteHalfClosed")
            half.text = HALF_OPEN
        elif hit.instrument is Instrument.HIHAT_OPEN:
            ET.SubElement(technical, "open", placement="above")
        elif hit.instrument is Instrument.HIHAT_CLOSED and hit.position in self.closing:
            ET.SubElement(technical, "stopped", placement="above")
        if self.options.sticking is not Beside.NONE and hit.limb in LETTERS:
            where = self.options.sticking.value
            ET.SubElement(technical, "fingering", placement=where).text = LETTERS[hit.limb]
        if len(technical):
            notations.append(technical)
        if hit.accent:
            accent = ET.SubElement(ET.SubElement(notations, "articulations"), "accent")
            accent.set("placement", "above" if voice == "1" else "below")
        if len(notations):
            note.append(notations)


def _tuplet(notations: ET.Element, event: Event) -> None:
    if event.tuplet_start:
        ET.SubElement(notations, "tuplet", type="start", bracket="yes", number="1")
    if event.tuplet_stop:
        ET.SubElement(notations, "tuplet", type="stop", number="1")


def _rest(measure: ET.Element, event: Event, voice: str, *, whole_bar: bool) -> None:
    note = ET.SubElement(measure, "note")
    rest = ET.SubElement(note, "rest")
    if whole_bar:
        rest.set("measure", "yes")
    ET.SubElement(note, "duration").text = str(_ticks(event.value.sounding))
    ET.SubElement(note, "voice").text = voice
    if not whole_bar:
        _type(note, event)
    notations = ET.Element("notations")
    _tuplet(notations, event)
    if len(notations):
        note.append(notations)


def _type(note: ET.Element, event: Event) -> None:
    length = event.value.written
    dotted = length.numerator == 3
    plain = length * Fraction(2, 3) if dotted else length
    ET.SubElement(note, "type").text = TYPES[plain.denominator]
    if dotted:
        ET.SubElement(note, "dot")
    if event.value.tuplet:
        actual, normal = event.value.tuplet
        change = ET.SubElement(note, "time-modification")
        ET.SubElement(change, "actual-notes").text = str(actual)
        ET.SubElement(change, "normal-notes").text = str(normal)


def _beams(events: Sequence[Event]) -> list[list[str]]:
    """For each event the beam marks of each level: notes of one beat are beamed together."""
    marks: list[list[str]] = [[] for _ in events]
    for group in beam_groups(events):
        for order, index in enumerate(group):
            for level in range(1, flags(events[index]) + 1):
                joined_left = order > 0 and flags(events[group[order - 1]]) >= level
                joined_right = order + 1 < len(group) and flags(events[group[order + 1]]) >= level
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
