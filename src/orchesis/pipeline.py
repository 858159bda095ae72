"""The stages of `transcribe`, in order: each says how far it is and why it found what it found.

decode -> listen -> beats -> bar lines -> quantise -> form -> hands. Every stage is a plain
function of what came before; `transcribe` only strings them together and reports progress.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from orchesis.audio.decode import Recording, decode
from orchesis.audio.peaks import loudness_curve, waveform_peaks
from orchesis.edits.doubts import mark_doubts
from orchesis.errors import Cancelled
from orchesis.form.sections import find_sections
from orchesis.groove.dynamics import mark_accents, soft_below, velocity_of
from orchesis.groove.layers import SHAKEN, doubling_layers
from orchesis.limbs.assign import assign_limbs
from orchesis.limbs.pedals import player_for
from orchesis.listening.ear import Ear, Heard, Onset
from orchesis.listening.evidence import Evidence
from orchesis.listening.judge import Judge
from orchesis.listening.network_ear import NetworkEar
from orchesis.listening.relearn import listen_again
from orchesis.music.instruments import Instrument, Status
from orchesis.music.values import (
    UNCERTAIN_BELOW,
    Bar,
    Hit,
    Meter,
    ReadingSummary,
    Transcription,
    in_order,
)
from orchesis.rhythm.beats import tempo_of
from orchesis.rhythm.feel import measured_feel
from orchesis.rhythm.find import find_grid, fitted
from orchesis.rhythm.quantise import Placed, Quantised, quantise
from orchesis.rhythm.readings import Reading
from orchesis.rhythm.strokes import strokes_heard
from orchesis.rhythm.tapped import on_taps

STAGES: tuple[tuple[str, float], ...] = (
    ("decode", 0.15),
    ("listen", 0.45),
    ("beats", 0.30),
    ("bars", 0.05),
    ("write", 0.05),
)
"""The stages and the share of the work that each takes, measured on the demo songs."""

RIBBON_POINTS = 600
WHY = {
    ("network", False): "heard in the recording",
    ("network", True): "heard only faintly in the recording",
    ("pattern", False): "heard, and the bars like this one have it too",
    ("pattern", True): "heard faintly; the bars like this one have it too",
    ("kit", False): "heard, and it sounds like this kit",
    ("kit", True): "heard faintly; it sounds like this kit",
    ("fading", False): "heard, and named by how fast such strokes fade in this song",
    ("fading", True): "heard faintly; named by how fast such strokes fade in this song",
    ("share", False): "heard, and named by how often this and its neighbours are struck here",
    ("share", True): "heard faintly; named by how often this and its neighbours are struck here",
}
"""What a note rests on, and whether it is in doubt, in words."""

Report = Callable[[str, float], None]
"""Called with the stage's name and the share of the whole work done, 0 to 1."""


@dataclass(frozen=True, slots=True)
class Result:
    """What a run gives: the transcription, the loudness for the ribbon, all that the ear said, and
    the waveform as `waveform_peaks` gives it.
    """

    transcription: Transcription
    loudness: tuple[float, ...]
    heard: Heard | None = None
    peaks: bytes = b""


class _Progress:
    def __init__(self, report: Report, cancelled: Callable[[], bool]) -> None:
        self._report, self._cancelled = report, cancelled
        self._base = {}
        done = 0.0
        for name, share in STAGES:
            self._base[name] = (done, share)
            done += share

    def __call__(self, stage: str, share: float) -> None:
        if self._cancelled():
            raise Cancelled("stopped")
        base, size = self._base[stage]
        self._report(stage, base + size * share)


def transcribe(
    path: Path,
    *,
    title: str = "",
    ear: Ear | None = None,
    recording: Recording | None = None,
    report: Report = lambda stage, share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Result:
    """Listen to a recording and write its drum part.

    Parameters
    ----------
    path : the audio file; it is only read.
    title : goes into the transcription.
    ear : what listens; the trained network by default.
    recording : its sound, where it has been decoded already.
    report : told of progress.
    cancelled : asked often; True stops the work.

    Raises
    ------
    RefusedAudio, Cancelled
    """
    progress = _Progress(report, cancelled)
    progress("decode", 0.0)
    recording = recording or decode(path, cancelled=cancelled)
    progress("listen", 0.0)
    ear = ear or NetworkEar()
    heard = ear.hear(
        recording.samples, recording.sample_rate, lambda share: progress("listen", share)
    )
    progress("beats", 0.0)
    song = write_down(ear, heard, recording, title, progress)
    loudness = tuple(loudness_curve(recording.samples, RIBBON_POINTS))
    progress("write", 1.0)
    peaks = waveform_peaks(recording.samples, recording.sample_rate)
    return Result(song, loudness, heard, peaks)


def write_down(
    ear: Ear,
    heard: Heard,
    recording: Recording,
    title: str,
    progress: Callable[[str, float], None],
) -> Transcription:
    """From what was heard to the written part."""
    nothing = Transcription(
        tempo_bpm=0.0,
        meter=Meter(4, 4),
        beats=(),
        bars=(),
        title=title,
        duration=recording.duration,
        findings=("No steady beat was found in this recording, so no grid is drawn over it.",),
    )
    grid = find_grid(heard)
    progress("bars", 0.0)
    if grid is None:
        return nothing
    heard = ear.second_pass(heard, [*(bar.start for bar in grid.bars), grid.bars[-1].end])
    grid = fitted(grid, heard) if heard.onsets else None
    if grid is None:
        return nothing
    reading, *others = grid.readings
    bars = grid.bars
    progress("write", 0.0)
    written, hits = _strokes(bars, heard.onsets, reading.meter.pulses)
    sections, fills = find_sections(written.bars, hits, heard)
    feel = measured_feel(written.bars, hits, written.feel)
    tempo = tempo_of(reading.beats)
    findings = [f"{tempo:.1f} beats a minute in {reading.meter}: {reading.evidence[0]}."]
    if others:
        findings.append(f"It can also be counted as {others[0].words}.")
    return Transcription(
        tempo_bpm=tempo,
        meter=reading.meter,
        beats=tuple(beat for bar in written.bars for beat in bar.beats),
        bars=written.bars,
        sections=sections,
        fills=fills,
        readings=tuple(summary(one) for one in grid.readings),
        tracked_beats=tuple(float(beat) for beat in grid.tracked),
        hits=tuple(sorted(hits, key=in_order)),
        feel=replace(feel, half_time=reading.lines.half_time),
        title=title,
        duration=recording.duration,
        findings=tuple(findings),
    )


def on_tapped_grid(
    song: Transcription, evidence: Evidence, judge: Judge, taps: Sequence[float], beats_a_bar: int
) -> Transcription:
    """A song in which no steady beat was found, on the beats that somebody tapped.

    The strokes that were heard are written on that grid: without one there was no place for them.
    Raises InvalidTranscription for taps that are no pulse.
    """
    song = on_taps(song, taps, beats_a_bar, strokes=strokes_heard(evidence))
    if not song.bars:
        return song
    lines = [*(bar.start for bar in song.bars), song.bars[-1].end]
    onsets = listen_again(evidence, lines, [], [], judge)
    written, hits = _strokes(song.bars, onsets, song.meter.pulses)
    sections, fills = find_sections(written.bars, hits)
    return replace(
        song,
        bars=written.bars,
        hits=tuple(sorted(hits, key=in_order)),
        sections=sections,
        fills=fills,
        feel=measured_feel(written.bars, hits, written.feel),
        findings=(f"Counted on {len(taps)} tapped beats.",),
    )


def _strokes(
    bars: Sequence[Bar], onsets: Sequence[Onset], pulses: int
) -> tuple[Quantised, list[Hit]]:
    """Onsets on their places, soft ones told from firm ones, with limbs."""
    written = quantise(bars, onsets)
    soft = soft_below([o.loudness for o in onsets if o.instrument is Instrument.SNARE])
    hits = without_doubles([_hit(placed, soft) for placed in written.placed])
    hits = mark_doubts(hits, len(bars))
    sounding = [hit for hit in hits if hit.status is not Status.LEFT_OUT]
    # What is left out takes nobody's hand.
    away = [hit for hit in hits if hit.status is Status.LEFT_OUT]
    return written, [
        *assign_limbs(mark_accents(sounding), pulses, player_for(sounding)),
        *assign_limbs(away, pulses),
    ]


SAME_SOUND = "on every stroke of another: most likely the same sound"


def without_doubles(hits: Sequence[Hit]) -> list[Hit]:
    """What is shaken on every stroke of a cymbal left out, so that it can be brought back."""
    layers = [layer for layer in doubling_layers(hits) if layer.instrument in SHAKEN]
    doubles = {id(hit) for layer in layers for hit in layer.hits}
    return [
        replace(hit, status=Status.LEFT_OUT, reason=SAME_SOUND) if id(hit) in doubles else hit
        for hit in hits
    ]


def _hit(placed: Placed, soft: float) -> Hit:
    onset: Onset = placed.onset
    ghost = onset.instrument is Instrument.SNARE and onset.loudness < soft
    doubtful = onset.confidence < UNCERTAIN_BELOW
    return Hit(
        time=onset.time,
        instrument=onset.instrument,
        velocity=velocity_of(onset.loudness),
        bar=placed.bar,
        position=placed.position,
        ghost=ghost,
        confidence=onset.confidence,
        status=Status.DOUBTFUL if doubtful else Status.HEARD,
        reason=WHY[onset.reason, doubtful],
        ornament=onset.ornament,
        opening=onset.opening,
    )


def summary(reading: Reading) -> ReadingSummary:
    """What is kept of a reading in a transcription."""
    return ReadingSummary(
        key=reading.key,
        words=reading.words,
        tempo_bpm=reading.tempo_bpm,
        meter=reading.meter,
        evidence=reading.evidence,
        downbeats=reading.lines.downbeats,
        half_time=reading.lines.half_time,
    )
