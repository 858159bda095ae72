"""MusicXML, read: our own files without loss, and a drum part that another program wrote.

Bars are taken in the order in which they are played: repeats with their endings are followed, and
a sign for bars that repeat stands for them where the file has no notes under it. Of a jump that is
said in words ("D.S. al Coda") the file is read straight on, and that is said.
"""

from __future__ import annotations

import io
import re
import zipfile
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from xml.etree import ElementTree as ET

import defusedxml
import defusedxml.ElementTree

from orchesis.chart.notation import HALF_OPEN, STAFF
from orchesis.errors import InvalidTranscription
from orchesis.exchange.imported import (
    BROKEN_ZIP,
    DEFAULT_VELOCITY,
    GM_KEYS,
    LARGEST_FILE,
    MOST_BARS,
    MOST_HITS,
    BarRead,
    Imported,
    Refused,
    named,
    nearest_place,
    remarks_of,
    song_of,
)
from orchesis.music.instruments import STRUCK_HATS, Instrument, Limb, Ornament, Status
from orchesis.music.values import HALF_OPENING, Feel, Hit, Meter

FULL_VELOCITY = 90
"""What 100 % of MusicXML's dynamics are: a forte."""

HANDS = {"R": Limb.RIGHT_HAND, "L": Limb.LEFT_HAND}
BEAT_UNITS = {"whole": 4, "half": 2, "quarter": 1, "eighth": 0.5, "16th": 0.25}
JUMPS = ("dacapo", "dalsegno", "tocoda", "fine")
MOST_TURNS = 64
"""Of a repeat: more are played in no song."""

MOST_READ = 2 * MOST_HITS
"""Notes of all parts that are looked at."""

_WHOLE = re.compile(r"\s*\d{1,6}\s*")
_LENGTH = re.compile(r"\s*\d{1,9}(\.\d{1,6})?\s*")
_SWING = re.compile(r"swung (eighths|sixteenths) ([\d.]+) : 1")


def read_musicxml(data: bytes, title: str = "") -> Imported:
    """The drum part of a MusicXML file, plain or packed (.mxl). Raises Refused."""
    root = _root(_unpacked(data))
    if root.tag == "score-timewise":
        raise Refused("This MusicXML is ordered by time: save it as partwise, as most programs do.")
    if root.tag != "score-partwise":
        raise Refused("This is not MusicXML: it does not hold a score.")
    parts = _drum_parts(root)
    if not parts:
        raise Refused("There is no drum part in this file: all its parts have pitched notes.")
    if sum(1 for part, _ in parts for _ in part.iter("note")) > MOST_READ:
        raise Refused("This file has more notes than any song.")
    readers = [_PartReader(part, names) for part, names in parts]
    played = [reader.read() for reader in readers]
    longest = max(played, key=len)
    bars = [
        _joined([bars[index] for bars in played if index < len(bars)])
        for index in range(len(longest))
    ]
    own_title = root.findtext("work/work-title") or root.findtext("movement-title") or ""
    song = song_of(
        bars,
        title=own_title.strip() or title,
        tempo_bpm=readers[0].tempo_bpm,
        swing=readers[0].feel,
    )
    unmapped: Counter[str] = Counter()
    others: list[str] = []
    for reader in readers:
        unmapped.update(reader.unmapped)
        others += reader.remarks
    return Imported(song, remarks_of(song, unmapped, dict.fromkeys(others)))


def _unpacked(data: bytes) -> bytes:
    """The text of the score; of a packed file, of the score that its container names."""
    if len(data) > LARGEST_FILE:
        raise Refused("This file is larger than any score: at most 8 MB are read.")
    if not data.startswith(b"PK"):
        return data
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            container = _root(_member(archive, "META-INF/container.xml"))
            first = next((e for e in container.iter() if e.tag.endswith("rootfile")), None)
            name = first.get("full-path", "") if first is not None else ""
            return _member(archive, name)
    except BROKEN_ZIP as error:
        raise Refused("This packed MusicXML is damaged: its score cannot be found.") from error


def _member(archive: zipfile.ZipFile, name: str) -> bytes:
    info = archive.getinfo(name)
    if info.file_size > LARGEST_FILE:
        raise Refused("The score in this file is larger than any score: at most 8 MB are read.")
    with archive.open(info) as file:
        # What the directory says of its size may be a lie.
        data = file.read(LARGEST_FILE + 1)
    if len(data) > LARGEST_FILE:
        raise Refused("The score in this file is larger than any score: at most 8 MB are read.")
    return data


def _root(data: bytes) -> ET.Element:
    try:
        # Entities of a file's own can grow without end, and name files of this machine.
        root: ET.Element = defusedxml.ElementTree.fromstring(data, forbid_dtd=False)
        return root
    except defusedxml.DefusedXmlException as error:
        raise Refused("This file defines entities of its own: such files are not read.") from error
    except ET.ParseError as error:
        raise Refused("This is not MusicXML: it cannot be read as XML at all.") from error
    except (ValueError, LookupError) as error:
        raise Refused("This file is written in letters that cannot be read.") from error


@dataclass(frozen=True, slots=True)
class _Names:
    """Of each instrument of a part what it is called and which key it has."""

    words: dict[str, str]
    keys: dict[str, int]


def _drum_parts(root: ET.Element) -> list[tuple[ET.Element, _Names]]:
    found = []
    listed = {item.get("id", ""): item for item in root.iterfind("part-list/score-part")}
    for part in root.iterfind("part"):
        notes = list(part.iter("note"))
        unpitched = sum(note.find("unpitched") is not None for note in notes)
        pitched = sum(note.find("pitch") is not None for note in notes)
        item = listed.get(part.get("id", ""))
        channels = [c.text for c in item.iter("midi-channel")] if item is not None else []
        percussion = any(clef.findtext("sign") == "percussion" for clef in part.iter("clef"))
        if not (unpitched > pitched or "10" in channels or (percussion and unpitched)):
            continue
        words, keys = {}, {}
        for one in item.iter("score-instrument") if item is not None else ():
            words[one.get("id", "")] = one.findtext("instrument-name") or ""
        for one in item.iter("midi-instrument") if item is not None else ():
            key = one.findtext("midi-unpitched")
            if key and _WHOLE.fullmatch(key):
                keys[one.get("id", "")] = int(key) - 1
        found.append((part, _Names(words, keys)))
    return found


@dataclass
class _Read:
    """A bar as it is written: what it holds and the signs at its ends."""

    meter: Meter
    hits: list[Hit] = field(default_factory=list)
    label: str = ""
    opens: bool = False
    times: int = 0
    endings: tuple[int, ...] = ()
    stands_for: int = 0


class _PartReader:
    def __init__(self, part: ET.Element, names: _Names) -> None:
        self.part = part
        self.names = names
        self.unmapped: Counter[str] = Counter()
        self.remarks: list[str] = []
        self.tempo_bpm = 0.0
        self.feel = Feel()
        self.divisions = 1
        self.meter = Meter(4, 4)

    def read(self) -> list[BarRead]:
        written = []
        endings: tuple[int, ...] = ()
        repeating = 0
        for element in self.part.iterfind("measure"):
            read = self._measure(element)
            for bar in element.iterfind("barline"):
                ending = bar.find("ending")
                if ending is not None and ending.get("type") == "start":
                    endings = _turns_named(ending.get("number", "1"))
            read.endings = endings
            for bar in element.iterfind("barline"):
                ending, repeat = bar.find("ending"), bar.find("repeat")
                if ending is not None and ending.get("type") in ("stop", "discontinue"):
                    endings = ()
                if repeat is not None and repeat.get("direction") == "forward":
                    read.opens = True
                elif repeat is not None:
                    read.times = max(2, _whole(repeat.get("times"), 2))
            style = element.find("attributes/measure-style/measure-repeat")
            if style is not None:
                repeating = _whole(style.text, 1) if style.get("type") == "start" else 0
            read.stands_for = repeating
            written.append(read)
            if len(written) > MOST_BARS:
                raise Refused(f"This part has more than {MOST_BARS} bars: it cannot be read.")
        return self._played(self._with_repeats(written))

    def _with_repeats(self, written: list[_Read]) -> list[_Read]:
        """Bars under a repeat sign without notes get those of the bars before them."""
        for index, read in enumerate(written):
            if read.stands_for and not read.hits and index >= read.stands_for:
                read.hits = list(written[index - read.stands_for].hits)
        return written

    def _played(self, written: Sequence[_Read]) -> list[BarRead]:
        """The bars in the order in which they are played."""
        played: list[BarRead] = []
        start = index = 0
        turn = 1
        while index < len(written):
            read = written[index]
            if read.opens and index > start:
                start, turn = index, 1
            if read.endings and turn not in read.endings:
                index += 1
                continue
            hits = tuple(sorted(read.hits, key=lambda hit: hit.position))
            played.append(BarRead(read.meter, hits, read.label if turn == 1 else ""))
            if len(played) > MOST_BARS:
                raise Refused(f"With its repeats this part has more than {MOST_BARS} bars.")
            if read.times and turn < self._turns(written, index):
                index, turn = start, turn + 1
                continue
            index += 1
            goes_on = index < len(written) and bool(written[index].endings)
            if (read.times or read.endings) and not goes_on:
                start, turn = index, 1
        return played

    @staticmethod
    def _turns(written: Sequence[_Read], index: int) -> int:
        """How often a repeat that closes at this bar is played, as its endings say."""
        most = written[index].times
        if written[index].endings:
            for read in written[index:]:
                if not read.endings or read.opens:
                    break
                most = max(most, *read.endings)
        return min(most, MOST_TURNS)

    def _measure(self, element: ET.Element) -> _Read:
        self._attributes(element)
        read = _Read(self.meter)
        whole = Fraction(4 * self.meter.beats, self.meter.unit)
        at = Fraction(0)
        onset = Fraction(0)
        longest = Fraction(0)
        graces: Counter[Instrument] = Counter()
        for item in element:
            if item.tag == "attributes":
                continue
            if item.tag in ("backup", "forward"):
                length = self._length(item)
                at += length if item.tag == "forward" else -length
            elif item.tag == "direction":
                self._direction(item, read)
            elif item.tag == "note":
                if item.find("grace") is not None:
                    drum = self._drum(item)
                    if drum is not None:
                        graces[drum] += 1
                    continue
                if item.find("chord") is None:
                    onset = at
                    at += self._length(item)
                    longest = max(longest, at)
                self._note(item, read, onset / whole, graces)
        if element.get("implicit") == "yes" and 0 < longest < whole:
            # A pick-up: its notes end where the bar ends.
            gap = (whole - longest) / whole
            read.hits = [replace(hit, position=hit.position + gap) for hit in read.hits]
        return read

    def _attributes(self, element: ET.Element) -> None:
        for attributes in element.iterfind("attributes"):
            divisions = attributes.findtext("divisions")
            if divisions and _whole(divisions, 0) > 0:
                self.divisions = _whole(divisions, 0)
            time = attributes.find("time")
            beats = time.findtext("beats") if time is not None else None
            unit = time.findtext("beat-type") if time is not None else None
            if beats and unit:
                try:
                    count = sum(int(part[:4]) for part in beats[:40].split("+"))
                    self.meter = Meter(count, int(unit[:4]))
                except (ValueError, InvalidTranscription) as error:
                    raise Refused(f"A bar of {beats[:12]}/{unit[:12]} cannot be read.") from error

    def _length(self, item: ET.Element) -> Fraction:
        text = item.findtext("duration") or "0"
        if not _LENGTH.fullmatch(text):
            raise Refused("A note of this file has no length that can be read.")
        try:
            return Fraction(text.strip()) / self.divisions
        except (ValueError, ZeroDivisionError) as error:
            raise Refused("A note of this file has no length that can be read.") from error

    def _direction(self, item: ET.Element, read: _Read) -> None:
        rehearsal = item.findtext("direction-type/rehearsal")
        if rehearsal and rehearsal.strip():
            read.label = rehearsal.strip()[:80]
        for words in item.iterfind("direction-type/words"):
            found = _SWING.search(words.text or "")
            if found:
                ratio = float(found.group(2))
                eighths = found.group(1) == "eighths"
                self.feel = replace(self.feel, **{"swing_8" if eighths else "swing_16": ratio})  # type: ignore[arg-type]
        sound = item.find("sound")
        if sound is not None and any(sound.get(jump) for jump in JUMPS):
            self.remarks.append("Jumps to a sign or a coda are not followed: the bars are read on.")
        if self.tempo_bpm:
            return
        quarters = _number(sound.get("tempo")) if sound is not None else None
        metronome = item.find("direction-type/metronome")
        if quarters is None and metronome is not None:
            minute = _number(metronome.findtext("per-minute"))
            unit = BEAT_UNITS.get(metronome.findtext("beat-unit") or "", 1.0)
            if metronome.find("beat-unit-dot") is not None:
                unit *= 1.5
            quarters = minute * unit if minute is not None else None
        if quarters:
            self.tempo_bpm = quarters / float(self.meter.pulse * 4)

    def _drum(self, item: ET.Element) -> Instrument | None:
        """Which drum a note is: by its instrument's key, its name, or where it stands."""
        element = item.find("instrument")
        name = element.get("id", "") if element is not None else ""
        ours = name.partition("-")[2]
        if ours in list(Instrument):
            return Instrument(ours)
        if name in self.names.keys and self.names.keys[name] in GM_KEYS:
            return GM_KEYS[self.names.keys[name]]
        if name in self.names.words and (drum := named(self.names.words[name])):
            return drum
        if name:
            return None
        unpitched = item.find("unpitched")
        if unpitched is None:
            return None
        place = (unpitched.findtext("display-step"), unpitched.findtext("display-octave"))
        head = item.findtext("notehead") or "normal"
        here = [drum for drum, staff in STAFF.items() if (staff.step, str(staff.octave)) == place]
        same = [drum for drum in here if STAFF[drum].head == head]
        return next(iter(same or here), None)

    def _note(
        self, item: ET.Element, read: _Read, place: Fraction, graces: Counter[Instrument]
    ) -> None:
        if item.find("rest") is not None:
            return
        if any(tie.get("type") == "stop" for tie in item.iterfind("tie")):
            return
        drum = self._drum(item)
        if drum is None:
            self.unmapped[self._spoken(item)] += 1
            return
        if not 0 <= place < 1:
            self.remarks.append("Some notes stand beyond the end of their bar: left out.")
            return
        technical = item.find("notations/technical")
        marks = {mark.tag for mark in technical} if technical is not None else set()
        half = technical is not None and any(
            other.text == HALF_OPEN or other.get("smufl") == "brassMuteHalfClosed"
            for other in technical.iter("other-technical")
        )
        half = (half or "half-muted" in marks) and drum in STRUCK_HATS
        if drum is Instrument.HIHAT_CLOSED and (half or marks & {"open", "open-string"}):
            drum = Instrument.HIHAT_OPEN
        head = item.find("notehead")
        level = item.find("level")
        dynamics = _number(item.get("dynamics"))
        velocity = DEFAULT_VELOCITY if dynamics is None else round(dynamics / 100 * FULL_VELOCITY)
        ghost = head is not None and head.get("parentheses") == "yes"
        finger = technical.findtext("fingering") if technical is not None else None
        doubtful = level is not None and level.get("bracket") == "yes"
        position = nearest_place(place, self.meter.pulses)
        if position != place:
            self.remarks.append("Some notes are finer than can be written here: moved a hair.")
        read.hits.append(
            Hit(
                time=0.0,
                instrument=drum,
                velocity=min(127, max(1, velocity if dynamics or not ghost else 35)),
                bar=1,
                position=position,
                ghost=ghost,
                accent=item.find("notations/articulations/accent") is not None
                or item.find("notations/articulations/strong-accent") is not None,
                status=Status.DOUBTFUL if doubtful else Status.HEARD,
                limb=HANDS.get((finger or "").strip().upper()),
                ornament=self._ornament(item, drum, graces),
                opening=HALF_OPENING if half else None,
            )
        )

    @staticmethod
    def _ornament(
        item: ET.Element, drum: Instrument, graces: Counter[Instrument]
    ) -> Ornament | None:
        count = graces.pop(drum, 0)
        if count:
            return Ornament.FLAM if count == 1 else Ornament.DRAG
        tremolo = item.find("notations/ornaments/tremolo")
        if tremolo is not None and tremolo.get("type") == "unmeasured":
            return Ornament.BUZZ
        return None

    def _spoken(self, item: ET.Element) -> str:
        element = item.find("instrument")
        name = element.get("id", "") if element is not None else ""
        return (self.names.words.get(name) or name or "a pitched note")[:60]


def _whole(text: str | None, otherwise: int) -> int:
    """A whole number of a few digits; anything else is what is usual."""
    return int(text) if text and _WHOLE.fullmatch(text) else otherwise


def _turns_named(text: str) -> tuple[int, ...]:
    """The turns that an ending is for."""
    found = {int(number) for number in re.findall(r"\d{1,4}", text[:200])}
    return tuple(sorted(number for number in found if 1 <= number <= MOST_TURNS)) or (1,)


def _number(text: str | None) -> float | None:
    try:
        value = float(text or "")
    except ValueError:
        return None
    return value if 0 < value < 1e4 else None


def _joined(bars: Sequence[BarRead]) -> BarRead:
    """The same bar of several drum parts as one."""
    hits = tuple(hit for bar in bars for hit in bar.hits)
    label = next((bar.label for bar in bars if bar.label), "")
    return BarRead(bars[0].meter, hits, label)
