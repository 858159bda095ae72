"""What a program that uses Orchesis calls; everything else is lower, and may change.

It is reached as `orchesis.transcribe` and so on (`orchesis.__all__`). Songs are `Transcription`
values: times in seconds from the start of the recording, positions as exact shares of their bar.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

from orchesis.audio.decode import decode
from orchesis.chart.files import WRITERS, write_file
from orchesis.chart.options import ChartOptions, Reading
from orchesis.errors import InvalidTranscription, Missing
from orchesis.exchange.line_up import LinedUp, line_up
from orchesis.exchange.read import read_part
from orchesis.fills.find import find_fills as _find_fills
from orchesis.form.sections import find_sections as _find_sections
from orchesis.groove.phrase import Phrase, find_phrases
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.kit import STANDARD, Player
from orchesis.limbs.sticking import strokes_of
from orchesis.limbs.ways import Way, ways
from orchesis.listening.ear import Heard, Onset
from orchesis.listening.network_ear import NetworkEar
from orchesis.music.json import dumps, loads
from orchesis.music.titles import title_of
from orchesis.music.values import Fill, Hit, Meter, Section, Transcription
from orchesis.pipeline import Report
from orchesis.pipeline import transcribe as _transcribe
from orchesis.practice.material import fill_material, groove_material
from orchesis.practice.plans import Method, Step, make_plan
from orchesis.rhythm.find import find_grid


@dataclass(frozen=True, slots=True)
class Beats:
    """The beats of a recording.

    Attributes
    ----------
    times, downbeats : seconds, ascending; every downbeat is one of the times.
    tempo_bpm : the median, in felt beats a minute.
    meter : of an ordinary bar.
    """

    times: tuple[float, ...]
    downbeats: tuple[float, ...]
    tempo_bpm: float
    meter: Meter


def transcribe(
    path: str | Path, *, title: str | None = None, report: Report | None = None
) -> Transcription:
    """Write the drum part of a recording.

    Parameters
    ----------
    path : str or Path
        An audio file of 2 s to 20 minutes that ffmpeg can read.
    title : str, optional
        Its name without ending by default.
    report : callable, optional
        Called with the name of a stage and the share of the work done, 0 to 1.

    Returns
    -------
    Transcription
        Without bars where no steady beat was found; `findings` says so.

    Raises
    ------
    orchesis.errors.RefusedAudio
        The file cannot be read, or is too short or too long.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.transcribe("demo/songs/steps-to-the-market.ogg")  # doctest: +SKIP
    >>> round(song.tempo_bpm), str(song.meter)  # doctest: +SKIP
    (96, '4/4')
    """
    file = Path(path)
    name = title_of(file) if title is None else title
    return _transcribe(file, title=name, report=report or (lambda stage, share: None)).transcription


def load(path: str | Path) -> Transcription:
    """Read a `transcription.json`, or the drum part of a MIDI or MusicXML file.

    Parameters
    ----------
    path : str or Path

    Returns
    -------
    Transcription

    Raises
    ------
    orchesis.errors.OrchesisError
        The file is damaged or of another kind; the message says which kinds are read.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> song.title, len(song.bars)
    ('Rain on the Awning', 35)
    """
    file = Path(path)
    if file.suffix.lower() == ".json":
        return loads(file.read_text(encoding="utf-8"))
    return read_part(file.read_bytes(), file.name).song


def save(song: Transcription, path: str | Path) -> None:
    """Write a song as `transcription.json`, format version 1.

    Parameters
    ----------
    song : Transcription
    path : str or Path
        Written in one step: a file that is there stays whole if this fails.

    Examples
    --------
    >>> import orchesis, tempfile, pathlib
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> copy = pathlib.Path(tempfile.mkdtemp()) / "copy.json"
    >>> orchesis.save(song, copy)
    >>> len(orchesis.load(copy).hits) == len(song.hits)
    True
    """
    write_whole(Path(path), dumps(song).encode())


def write_whole(path: Path, data: bytes) -> None:
    """Write a file in one step: whatever fails, there is the old one or the new one.

    Parameters
    ----------
    path : Path
    data : bytes
    """
    scratch = path.with_name(f".{path.name}.part")
    try:
        scratch.write_bytes(data)
        scratch.replace(path)
    finally:
        scratch.unlink(missing_ok=True)


def _hear(path: str | Path) -> Heard:
    recording = decode(Path(path))
    return NetworkEar().hear(recording.samples, recording.sample_rate, lambda share: None)


def detect_onsets(path: str | Path) -> tuple[Onset, ...]:
    """The drum strokes of a recording as first heard, before bars are known.

    Parameters
    ----------
    path : str or Path

    Returns
    -------
    tuple of Onset
        In order of time; loudness and confidence from 0 to 1.

    Raises
    ------
    orchesis.errors.RefusedAudio

    Examples
    --------
    >>> import orchesis
    >>> onsets = orchesis.detect_onsets("demo/songs/steps-to-the-market.ogg")  # doctest: +SKIP
    """
    return _hear(path).onsets


def track_beats(path: str | Path) -> Beats | None:
    """The beats and downbeats of a recording.

    Parameters
    ----------
    path : str or Path

    Returns
    -------
    Beats or None
        None where no steady beat was found.

    Raises
    ------
    orchesis.errors.RefusedAudio

    Examples
    --------
    >>> import orchesis
    >>> orchesis.track_beats("demo/songs/steps-to-the-market.ogg").tempo_bpm  # doctest: +SKIP
    96.02
    """
    grid = find_grid(_hear(path))
    if grid is None:
        return None
    reading = grid.readings[0]
    return Beats(
        tuple(beat for bar in grid.bars for beat in bar.beats),
        tuple(bar.start for bar in grid.bars),
        reading.tempo_bpm,
        reading.meter,
    )


def find_sections(song: Transcription) -> tuple[Section, ...]:
    """The form of a song by what its drums play.

    Parameters
    ----------
    song : Transcription
        With bars; its own sections are not looked at.

    Returns
    -------
    tuple of Section
        Every bar is in exactly one; the same `mark` means the same music.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/harbour-lights-out.score.json")
    >>> sum(section.bars for section in orchesis.find_sections(song)) == len(song.bars)
    True
    """
    return _find_sections(song.bars, song.hits)[0]


def find_grooves(song: Transcription) -> dict[str, tuple[Phrase, ...]]:
    """What each section plays: its phrases with core, usual and occasional notes.

    Parameters
    ----------
    song : Transcription

    Returns
    -------
    dict
        From the label of a section to its phrases, in the order of the song.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> grooves = orchesis.find_grooves(song)
    >>> list(grooves) == [section.label for section in song.sections]
    True
    """
    return {
        section.label: find_phrases(song.bars_in(section), song.hits_in(section), song.fills)
        for section in song.sections
    }


def find_fills(song: Transcription) -> tuple[Fill, ...]:
    """The fills of a song, told against the groove of their section.

    Parameters
    ----------
    song : Transcription

    Returns
    -------
    tuple of Fill
        In order; where each begins and ends, in seconds and as places of its bars.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> [fill.bar for fill in orchesis.find_fills(song)] == [fill.bar for fill in song.fills]
    True
    """
    first = song.bars[0].number if song.bars else 0
    edges = [section.first_bar - first for section in song.sections] + [len(song.bars)]
    return _find_fills(song.bars, song.hits, [range(a, b) for a, b in pairwise(edges)])


def sticking(
    hits: Sequence[Hit], beats_per_bar: int = 4, *, player: Player = STANDARD
) -> tuple[Way, ...]:
    """Ways to play a figure with two hands, the best first.

    Parameters
    ----------
    hits : sequence of Hit
        In order of time; what the feet play only says where a hand has time.
    beats_per_bar : int
        Felt beats, which the strokes lean on.
    player : Player, optional
        Which hand leads, how the kit stands, how fast the hands are.

    Returns
    -------
    tuple of Way
        Each with the hands of every stroke, its name and what it costs.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> fill = song.fills[0]
    >>> struck = [hit for hit in song.hits if fill.start <= hit.time < fill.end]
    >>> orchesis.sticking(struck)[0].letters
    'RLRLRLLR'
    """
    given = assign_limbs(list(hits), beats_per_bar, player)
    strokes = [stroke for stroke, _ in strokes_of(given, beats_per_bar)]
    return ways(strokes, player)


def render_chart(song: Transcription, name: str = "chart.pdf", *, reading: str = "full") -> bytes:
    """A song's chart as a file.

    Parameters
    ----------
    song : Transcription
    name : str
        Which file: chart.pdf, chart-letter.pdf, chart.svg, chart.png, chart.txt, chart.musicxml,
        drums.mid, drums-quantised.mid, drums.csv or transcription.json.
    reading : {'full', 'essence', 'map', 'parts'}
        How much is written.

    Returns
    -------
    bytes
        Pictures of several pages come as a ZIP file.

    Raises
    ------
    orchesis.errors.InvalidTranscription
        There is no such file or reading.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> orchesis.render_chart(song, "chart.pdf", reading="essence")[:5]
    b'%PDF-'
    """
    if name not in WRITERS:
        raise InvalidTranscription(f"there is no file {name!r}: it is one of {', '.join(WRITERS)}")
    if reading not in list(Reading):
        raise InvalidTranscription(
            f"there is no reading {reading!r}: it is one of {', '.join(Reading)}"
        )
    return write_file(song, name, ChartOptions(reading=Reading(reading)))


def practice_plan(
    song: Transcription, target: str | int, *, method: str = "backbeat_first"
) -> tuple[Step, ...]:
    """Steps from what can be played at once to a whole groove or fill.

    Parameters
    ----------
    song : Transcription
    target : str or int
        The label of a section, or the number of the bar in which a fill ends.
    method : str
        For grooves: limb_by_limb, hands_then_feet, one_note_at_a_time, backbeat_first or pairs.
        A fill has a method of its own.

    Returns
    -------
    tuple of Step
        Each with its notes, count, sticking, trap and ladder of tempos; the last is all of it.

    Raises
    ------
    orchesis.errors.Missing
        There is no such section or fill, or nothing is typical of the section.
    orchesis.errors.InvalidTranscription
        There is no such method.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> orchesis.practice_plan(song, song.sections[1].label)[-1].title
    'All of it'
    """
    if method not in list(Method):
        raise InvalidTranscription(
            f"there is no method {method!r}: it is one of {', '.join(Method)}"
        )
    if isinstance(target, int):
        fill = next((fill for fill in song.fills if fill.bar == target), None)
        if fill is None:
            raise Missing(f"no fill ends in bar {target}")
        return make_plan(fill_material(song, fill), Method.FILL)
    section = next((section for section in song.sections if section.label == target), None)
    if section is None:
        labels = ", ".join(section.label for section in song.sections)
        raise Missing(f"there is no section {target!r}: there are {labels}")
    return make_plan(groove_material(song, section), Method(method))


def compare(song: Transcription, part: Transcription) -> LinedUp:
    """Lay another part beside a song, at the shift by which most bars say the same.

    Parameters
    ----------
    song, part : Transcription

    Returns
    -------
    LinedUp
        Bars that agree and that differ, and the share of strokes that both have.

    Raises
    ------
    orchesis.errors.InvalidTranscription
        The song has no bars.

    Examples
    --------
    >>> import orchesis
    >>> song = orchesis.load("demo/songs/rain-on-the-awning.score.json")
    >>> orchesis.compare(song, song).agreement
    1.0
    """
    if not song.bars:
        raise InvalidTranscription("the song has no bars to lay a part beside")
    return line_up(song, part)
