"""One system of measures as MEI, the engraver's own language.

MEI says what MusicXML cannot make the engraver do: signs for bars that repeat, rests of many bars,
small heads, and an identity for each head (https://music-encoding.org, MEI 5).
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from collections.abc import Sequence
from fractions import Fraction

from orchesis.chart.levels import is_overdub
from orchesis.chart.notation import (
    HALF_OPEN,
    LEFT_FEET,
    OVERDUB_HEADS,
    closing_strokes,
    head_of,
    staff_line,
)
from orchesis.chart.options import ChartOptions, Ghosts, Swing, Voices
from orchesis.chart.ornaments import GRACES
from orchesis.chart.score import Kind, Measure
from orchesis.chart.spelling import Event, PlaceOf, beam_groups, spell_voice
from orchesis.chart.swinging import in_triplets
from orchesis.music.instruments import FEET, Instrument, Ornament, Status
from orchesis.music.values import Feel, Hit, Meter

XML_ID = "{http://www.w3.org/XML/1998/namespace}id"
NAMESPACE = "http://www.music-encoding.org/ns/mei"
KIT, BESIDE, LEFT_FOOT = "1", "2", "3"
"""Staves: the kit; what is played beside it, above; the left foot apart, below."""

SHAPES = {"x": "x", "circle-x": "U+E0B3", "diamond": "U+E0DB", "slash": "slash", "cross": "+"}
"""MEI's names of the heads; the engraver's font has no triangles: see `engrave.OWN_HEADS`."""


def note_id(hit: Hit) -> str:
    """The identity of a head: its bar, place and instrument. An XML name."""
    place = hit.position
    return f"n{hit.bar}-{place.numerator}_{place.denominator}-{hit.instrument.value}"


def measure_id(measure: Measure) -> str:
    """The identity of a measure."""
    ending = f"e{measure.ending[0]}" if measure.ending else ""
    return f"m{measure.number}{ending}{'s' if measure.kind is Kind.REPEAT else ''}"


def system_mei(
    measures: Sequence[Measure], feel: Feel, options: ChartOptions, *, before: Meter | None
) -> str:
    """The MEI of one system. `before`: the metre of the bar before it; None: it is the first."""
    mei = ET.Element("mei", {"xmlns": NAMESPACE, "meiversion": "5.0"})
    ET.SubElement(mei, "meiHead")
    body = ET.SubElement(ET.SubElement(mei, "music"), "body")
    score = ET.SubElement(ET.SubElement(body, "mdiv"), "score")
    _definition(score, measures, options, before)
    section = ET.SubElement(score, "section")
    # With a break that it finds, the engraver makes none of its own where a line is tight.
    ET.SubElement(section, "pb")
    meter = measures[0].meter
    led_in: tuple[Hit, ...] = ()
    for measure, following in zip(measures, [*measures[1:], None], strict=True):
        if measure.meter != meter:
            meter = measure.meter
            change = ET.SubElement(section, "scoreDef")
            _meter(change, meter)
        leading = _graced_ones(measure, following)
        _measure(section, measure, feel, options, led_in=led_in, leading=leading)
        led_in = leading
    return ET.tostring(mei, encoding="unicode")


def _graced_ones(measure: Measure, following: Measure | None) -> tuple[Hit, ...]:
    """Strokes on the next one whose grace notes, which sound before it, stand before its bar line.

    Only where that bar always follows: nothing is repeated or ends between the two.
    """
    if following is None or measure.kind != Kind.WRITTEN or following.kind != Kind.WRITTEN:
        return ()
    apart = measure.times or measure.ending_closes or following.opens_repeat
    if apart or following.ending_opens or len(measure.plays) != len(following.plays):
        return ()
    if following.meter != measure.meter or following.number != measure.number + 1:
        return ()
    # They stand among the hands of the bar: where those are silent, there is no voice for them.
    if not any(_is_of_hands(hit) for hit in measure.hits):
        return ()
    return tuple(
        hit
        for hit in following.hits
        if hit.position == 0 and hit.ornament in GRACES and _is_of_hands(hit)
    )


def _is_of_hands(hit: Hit) -> bool:
    return hit.instrument not in FEET and not is_overdub(hit)


def _meter(element: ET.Element, meter: Meter) -> None:
    element.set("meter.count", str(meter.beats))
    element.set("meter.unit", str(meter.unit))


def _definition(
    score: ET.Element, measures: Sequence[Measure], options: ChartOptions, before: Meter | None
) -> None:
    definition = ET.SubElement(score, "scoreDef")
    group = ET.SubElement(definition, "staffGrp", {"bar.thru": "false"})
    if any(is_overdub(hit) for measure in measures for hit in measure.hits):
        _line(group, BESIDE, measures[0].meter)
    staff = ET.SubElement(group, "staffDef", {"n": KIT, "lines": "5"})
    staff.set("clef.shape", "perc")
    staff.set("clef.line", "3")
    _meter(staff, measures[0].meter)
    if before == measures[0].meter:
        staff.set("meter.visible", "false")
    if _has_left_foot(measures, options):
        _line(group, LEFT_FOOT, measures[0].meter)


def _line(group: ET.Element, number: str, meter: Meter) -> None:
    line = ET.SubElement(group, "staffDef", {"n": number, "lines": "1", "scale": "65%"})
    line.set("clef.shape", "perc")
    line.set("clef.line", "1")
    line.set("clef.visible", "false")
    _meter(line, meter)
    line.set("meter.visible", "false")


def _has_left_foot(measures: Sequence[Measure], options: ChartOptions) -> bool:
    return options.voices is Voices.FOOT_APART and any(
        hit.instrument in LEFT_FEET for measure in measures for hit in measure.hits
    )


def _measure(
    section: ET.Element,
    measure: Measure,
    feel: Feel,
    options: ChartOptions,
    *,
    led_in: tuple[Hit, ...],
    leading: tuple[Hit, ...],
) -> None:
    """One measure. led_in : strokes whose grace notes stand before its bar line already.
    leading : those of the next bar whose grace notes stand at the end of this one.
    """
    # Without a number of its own: the engraver would print it where ours stands.
    element = ET.SubElement(section, "measure", {XML_ID: measure_id(measure)})
    if measure.opens_repeat:
        element.set("left", "rptstart")
    if measure.times:
        element.set("right", "rptend")
    if measure.kind is not Kind.WRITTEN:
        layer = _layer(_staff(element, KIT), "1")
        _sign(layer, measure)
        return
    beside = [hit for hit in measure.hits if is_overdub(hit)]
    kit = [hit for hit in measure.hits if not is_overdub(hit)]
    writer = _Writer(measure, feel, options, led_in)
    if beside:
        writer.voice(_layer(_staff(element, BESIDE), "1"), beside, stem="up", on_line=True)
    if options.voices is Voices.FOOT_APART:
        left = [hit for hit in kit if hit.instrument in LEFT_FEET]
        kit = [hit for hit in kit if hit.instrument not in LEFT_FEET]
        if left:
            layer = _layer(_staff(element, LEFT_FOOT), "1")
            writer.voice(layer, left, stem="down", on_line=True)
    staff = _staff(element, KIT)
    one = options.voices is Voices.ONE
    hands = [hit for hit in kit if one or hit.instrument not in FEET]
    feet = [] if one else [hit for hit in kit if hit.instrument in FEET]
    # A voice that is silent says nothing: rests under or over the other are only in the way.
    if hands or not feet:
        layer = _layer(staff, "1")
        writer.voice(layer, hands, stem="up")
        for hit in leading:
            writer.graces(layer, hit, "up")
    if feet:
        writer.voice(_layer(staff, "2" if hands else "1"), feet, stem="down")


def _staff(measure: ET.Element, number: str) -> ET.Element:
    return ET.SubElement(measure, "staff", {"n": number})


def _layer(staff: ET.Element, number: str) -> ET.Element:
    return ET.SubElement(staff, "layer", {"n": number})


def _sign(layer: ET.Element, measure: Measure) -> None:
    if measure.kind is Kind.REST:
        ET.SubElement(layer, "multiRest", {"num": str(measure.span)})
    elif measure.span == 1:
        ET.SubElement(layer, "mRpt", {"num.visible": "false"})
    else:
        ET.SubElement(layer, "multiRpt", {"num": str(measure.span)})


class _Writer:
    """Voices of one bar as MEI."""

    def __init__(
        self, measure: Measure, feel: Feel, options: ChartOptions, led_in: tuple[Hit, ...]
    ) -> None:
        self.led_in = led_in
        self.meter = meter = measure.meter
        self.options = options
        self.closing = closing_strokes(measure.hits) if options.closing_sign else frozenset()
        self.place_of: PlaceOf | None = None
        if options.swing is Swing.TRIPLETS:
            self.place_of = in_triplets(meter, feel)

    def voice(
        self, layer: ET.Element, hits: Sequence[Hit], *, stem: str, on_line: bool = False
    ) -> None:
        if not hits:
            ET.SubElement(layer, "mRest")
            return
        events = spell_voice(self.meter, hits, self.place_of)
        groups = beam_groups(events)
        first_of = {group[0]: group[-1] for group in groups}
        inside_until = -1
        tuplet: ET.Element | None = None
        beam: ET.Element | None = None
        for index, event in enumerate(events):
            if event.tuplet_start and event.value.tuplet:
                actual, normal = event.value.tuplet
                tuplet = ET.SubElement(layer, "tuplet", {"num": str(actual)})
                tuplet.set("numbase", str(normal))
                tuplet.set("num.place", "above" if stem == "up" else "below")
                tuplet.set("bracket.place", "above" if stem == "up" else "below")
                tuplet.set("bracket.visible", "false" if self._is_beamed(events, index, groups)
                           else "true")  # fmt: skip
            if index in first_of:
                beam = ET.SubElement(tuplet if tuplet is not None else layer, "beam")
                inside_until = first_of[index]
            home = beam if beam is not None else tuplet if tuplet is not None else layer
            self._event(home, event, stem, on_line)
            if index == inside_until:
                beam = None
            if event.tuplet_stop:
                tuplet = None

    @staticmethod
    def _is_beamed(events: Sequence[Event], first: int, groups: list[list[int]]) -> bool:
        """Whether a beam joins all of a tuplet, so that it needs no bracket."""
        last = first
        while not events[last].tuplet_stop:
            last += 1
        return any(group[0] == first and group[-1] == last for group in groups)

    def _event(self, home: ET.Element, event: Event, stem: str, on_line: bool) -> None:
        if event.is_rest:
            rest = ET.SubElement(home, "rest")
            _duration(rest, event.value.written)
            return
        for hit in event.hits:
            if hit not in self.led_in:
                self.graces(home, hit, stem, on_line=on_line)
        buzz = any(hit.ornament is Ornament.BUZZ for hit in event.hits)
        holder = home
        if len(event.hits) > 1:
            holder = ET.SubElement(home, "chord")
            _duration(holder, event.value.written)
            self._stem(holder, event, stem, buzz)
        for hit in event.hits:
            note = ET.SubElement(holder, "note", {XML_ID: note_id(hit)})
            if holder is home:
                _duration(note, event.value.written)
                self._stem(note, event, stem, buzz)
            self._head(note, hit, on_line)

    def _stem(self, element: ET.Element, event: Event, stem: str, buzz: bool) -> None:
        element.set("stem.dir", stem)
        if buzz:
            element.set("stem.mod", "z")
        marks = []
        if any(hit.is_half_open for hit in event.hits):
            marks.append(HALF_OPEN)
        elif any(hit.instrument is Instrument.HIHAT_OPEN for hit in event.hits):
            marks.append("open")
        elif any(
            hit.instrument is Instrument.HIHAT_CLOSED and hit.position in self.closing
            for hit in event.hits
        ):
            marks.append("stop")
        if any(hit.accent for hit in event.hits):
            marks.append("acc")
        # Where the stem is, whatever the engraver thinks of a bar with one voice.
        where = "above" if stem == "up" else "below"
        for mark in marks:
            artic = ET.SubElement(element, "artic", {"artic": mark, "place": where})
            if mark == HALF_OPEN:
                # MEI has no word for it; the glyph is the usual sign.
                artic.set("artic", "open")
                artic.set("glyph.num", "U+E5E6")

    def _head(self, note: ET.Element, hit: Hit, on_line: bool) -> None:
        shape = OVERDUB_HEADS[hit.instrument] if on_line and hit.instrument in OVERDUB_HEADS else (
            head_of(hit.instrument, self.options)
        )  # fmt: skip
        note.set("loc", "0" if on_line else str(staff_line(hit.instrument, self.options)))
        if shape in SHAPES:
            note.set("head.shape", SHAPES[shape])
        if hit.ghost:
            if self.options.ghosts is Ghosts.SMALL:
                note.set("cue", "true")
            else:
                note.set("head.mod", "paren")
        if hit.status is Status.DOUBTFUL:
            note.set("type", "doubtful")

    def graces(self, home: ET.Element, hit: Hit, stem: str, *, on_line: bool = False) -> None:
        """The grace notes of a flam (one, slashed) or a drag (two, beamed), none for others."""
        count = GRACES.get(hit.ornament, 0) if hit.ornament else 0
        parent = ET.SubElement(home, "beam") if count > 1 else home
        for _ in range(count):
            note = ET.SubElement(parent, "note", {"grace": "unacc"})
            note.set("dur", "8" if count == 1 else "16")
            note.set("stem.dir", stem)
            if count == 1:
                note.set("stem.mod", "1slash")
            note.set("loc", "0" if on_line else str(staff_line(hit.instrument, self.options)))
            shape = head_of(hit.instrument, self.options)
            if shape in SHAPES:
                note.set("head.shape", SHAPES[shape])


def _duration(element: ET.Element, length: Fraction) -> None:
    dotted = length.numerator == 3
    plain = length * Fraction(2, 3) if dotted else length
    element.set("dur", str(plain.denominator))
    if dotted:
        element.set("dots", "1")
