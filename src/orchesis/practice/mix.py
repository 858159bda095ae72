"""Practice mixes as audio files: loops at a tempo, click, voice, kit and record, or a whole ladder.

What is played is placed to the sample, so that nothing drifts over a long file; the record is
slowed at constant pitch by ffmpeg's rubberband filter.
"""

from __future__ import annotations

import json
import wave
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import numpy.typing as npt

from orchesis.audio.programs import input_options, run_limited
from orchesis.errors import Cancelled
from orchesis.music.instruments import Instrument
from orchesis.practice.click import Click
from orchesis.practice.ladder import slowed_offset
from orchesis.practice.sounding import Sounding
from orchesis.practice.voice import Spoken

RATE = 44100
Stereo = npt.NDArray[np.float32]
Mono = npt.NDArray[np.float32]

CLICK_HZ = (1046.0, 1319.0, 1760.0)
CLICK_LEVEL = (0.25, 0.4, 0.55)
CLICK_SECONDS = 0.05
KIT_LEVEL, VOICE_LEVEL, RECORD_LEVEL = 0.55, 0.5, 0.6
LOUDNESS_POWER = 1.6
"""As on most kits: half the velocity is about 10 dB softer."""

LONGEST_SECONDS = 3600.0
ENDING_SECONDS = 2.0
LEFT = np.array([1, 0], np.float32)
RIGHT = np.array([0, 1], np.float32)
BOTH = np.array([1, 1], np.float32)
DECODE_SECONDS = 600.0
MOST_BYTES = 2**30


@dataclass(frozen=True, slots=True)
class Mix:
    """What is rendered. shares : of the record's tempo, one stretch each. loops : passes of each.

    start, end : of the loop, in seconds of the song. sides : the click left, the kit right.
    """

    start: float
    end: float
    notes: Sequence[Sounding]
    clicks: Sequence[Click]
    count_in: Sequence[Click]
    shares: Sequence[float]
    loops: int
    voice: Sequence[Spoken] = ()
    record: Path | None = None
    sides: bool = False
    with_kit: bool = True

    @property
    def seconds(self) -> float:
        """How long the file will be."""
        lead = -min((click.time for click in self.count_in), default=0.0)
        return (
            sum((self.loops * (self.end - self.start) + lead) / share for share in self.shares)
            + ENDING_SECONDS
        )


@dataclass
class Sounds:
    """The samples of kit and voice, read when they are first needed."""

    kit: Path
    voice: Path
    _read: dict[Path, Mono] = field(default_factory=dict)
    _turn: dict[str, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._kit = json.loads((self.kit / "kit.json").read_text())
        self._leads: dict[str, float] = json.loads((self.voice / "voice.json").read_text())

    def stroke(self, instrument: Instrument, velocity: int) -> Mono:
        """One stroke at its loudness, from its attack on; rows of strokes take turns."""
        layers: dict[str, int] = self._kit["velocities"]
        layer = min(layers, key=lambda name: abs(layers[name] - velocity))
        turn = self._turn[instrument] = self._turn.get(instrument, -1) + 1
        variant = turn % self._kit["variants"][instrument.value] + 1
        sound = self._samples(self.kit / f"{instrument.value}-{layer}-{variant}.ogg")
        level = min(1.6, (velocity / layers[layer]) ** LOUDNESS_POWER)
        return np.asarray(sound * np.float32(level), np.float32)

    def word(self, sample: str) -> tuple[Mono, float]:
        """A word, and where in it it is felt to fall, in seconds."""
        return self._samples(self.voice / f"{sample}.ogg"), self._leads[sample]

    def _samples(self, path: Path) -> Mono:
        if path not in self._read:
            raw = _decoded(path, ())
            self._read[path] = raw[:, 0]
        return self._read[path]


def _decoded(path: Path, filters: Sequence[str]) -> Stereo:
    wanted = ["-f", "f32le", "-ac", "2", "-ar", str(RATE), "-"]
    chain = ["-af", ",".join(filters)] if filters else []
    command = ["ffmpeg", "-v", "error", *input_options(path), *chain, *wanted]
    raw = run_limited(command, most_bytes=MOST_BYTES, timeout=DECODE_SECONDS)
    return np.frombuffer(raw, np.float32).reshape(-1, 2)


def encode_mp3(wav: Path, target: Path, cancelled: Callable[[], bool] = lambda: False) -> None:
    """The same as MP3, which every telephone plays."""
    quality = ["-c:a", "libmp3lame", "-q:a", "3", "-map_metadata", "-1", "-f", "mp3"]
    command = ["ffmpeg", "-v", "error", "-y", *input_options(wav), *quality, str(target)]
    run_limited(command, most_bytes=1, timeout=DECODE_SECONDS, cancelled=cancelled)


def render_mix(
    mix: Mix,
    sounds: Sounds,
    target: Path,
    *,
    report: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Write the mix as WAV, 44.1 kHz, stereo, a stretch at a time.

    Raises ValueError where it would last longer than an hour, Cancelled where nobody wants it now.
    """
    if mix.seconds > LONGEST_SECONDS:
        raise ValueError("a mix lasts an hour at most: take fewer loops or fewer steps")
    with wave.open(str(target), "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(RATE)
        tail = np.zeros((0, 2), np.float32)
        for index, share in enumerate(mix.shares):
            if cancelled():
                raise Cancelled("cancelled")
            block, length = _stretch_of(mix, share, sounds)
            block[: len(tail)] += tail
            file.writeframes(_sixteen(block[:length]))
            tail = block[length:]
            report((index + 1) / len(mix.shares))
        file.writeframes(_sixteen(tail))


def _sixteen(block: Stereo) -> bytes:
    # Loud places bend instead of being cut off.
    return (np.tanh(block) * 32767).astype("<i2").tobytes()


def _stretch_of(mix: Mix, share: float, sounds: Sounds) -> tuple[Stereo, int]:
    """One tempo: count-in and loops, and two seconds for what rings on; its length in samples."""
    lead = -min((click.time for click in mix.count_in), default=0.0)
    turn = mix.end - mix.start
    length = round((lead + mix.loops * turn) / share * RATE)
    block = np.zeros((length + round(ENDING_SECONDS * RATE), 2), np.float32)
    left, right = (LEFT, RIGHT) if mix.sides else (BOTH, BOTH)
    for click in mix.count_in:
        _put(block, (lead + click.time) / share, _beep(click.strength), left)
    loop = [click for click in mix.clicks if mix.start <= click.time < mix.end - 1e-6]
    record = _record_of(mix, share)
    for number in range(mix.loops):
        begin = lead + number * turn
        for click in loop:
            _put(block, (begin + click.time - mix.start) / share, _beep(click.strength), left)
        for item in mix.voice:
            if mix.start <= item.time < mix.end:
                word, centre = sounds.word(item.sample)
                at = (begin + item.time - mix.start) / share - centre
                _put(block, at, word * np.float32(VOICE_LEVEL), left)
        for note in mix.notes if mix.with_kit else ():
            if mix.start <= note.time < mix.end:
                late = slowed_offset(1000 * note.late, share) / 1000
                at = (begin + note.time - mix.start) / share + late
                stroke = sounds.stroke(note.hit.instrument, note.velocity)
                _put(block, at, stroke * np.float32(KIT_LEVEL), right)
        if record is not None:
            start = round(begin / share * RATE)
            cut = record[: len(block) - start]
            block[start : start + len(cut)] += cut
    return block, length


def _record_of(mix: Mix, share: float) -> Stereo | None:
    """One turn of the loop in the record, slowed, with short fades at its seam."""
    if mix.record is None:
        return None
    filters = [
        f"atrim={max(0.0, mix.start)}:{mix.end}",
        "asetpts=PTS-STARTPTS",
        f"rubberband=tempo={share}:transients=crisp",
    ]
    found = _decoded(mix.record, filters) * np.float32(RECORD_LEVEL)
    wanted = round((mix.end - mix.start) / share * RATE)
    found = found[:wanted].copy()
    fade = min(len(found) // 2, round(0.004 * RATE))
    if fade:
        found[:fade] *= np.linspace(0, 1, fade, dtype=np.float32)[:, None]
        found[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)[:, None]
    return found


def _beep(strength: int) -> Mono:
    time = np.arange(round(CLICK_SECONDS * RATE)) / RATE
    envelope = np.minimum(1.0, time / 0.001) * np.exp(-time / 0.008)
    tone = CLICK_LEVEL[strength] * envelope * np.sin(2 * np.pi * CLICK_HZ[strength] * time)
    return tone.astype(np.float32)


def _put(block: Stereo, seconds: float, sound: Mono, sides: npt.NDArray[np.float32]) -> None:
    start = round(seconds * RATE)
    if start < 0:
        sound, start = sound[-start:], 0
    cut = sound[: max(0, len(block) - start)]
    block[start : start + len(cut)] += cut[:, None] * sides
