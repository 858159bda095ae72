"""Decoding: from an untrusted file to samples, or to a refusal that says why.

Samples are float32, mono, at SAMPLE_RATE, in about -1 to 1. The ffmpeg program does the decoding
in a child process with limits on time, memory and size, so that a hostile or broken file costs
at most a refusal.
"""

from __future__ import annotations

import errno
import json
import math
import os
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt

from orchesis.audio.programs import ProgramFailed, input_options, run_limited
from orchesis.errors import RefusedAudio

Samples = npt.NDArray[np.float32]

SAMPLE_RATE = 44_100
LONGEST_SECONDS = 20 * 60
SHORTEST_SECONDS = 2.0
LARGEST_BYTES = 300 * 1024 * 1024
LOWEST_RATE, HIGHEST_RATE = 8_000, 96_000
MOST_CHANNELS = 6
SUFFIXES = (
    ".wav",
    ".flac",
    ".ogg",
    ".oga",
    ".opus",
    ".mp3",
    ".m4a",
    ".aac",
    ".mp4",
    ".aif",
    ".aiff",
)

LIMITS_TEXT = (
    f"WAV, FLAC, OGG, MP3, M4A/AAC or AIFF; {SHORTEST_SECONDS:.0f} s to "
    f"{LONGEST_SECONDS // 60} minutes; at most {LARGEST_BYTES // 1024**2} MB; mono to 5.1; "
    f"{LOWEST_RATE // 1000} to {HIGHEST_RATE // 1000} kHz"
)
"""What is taken, in one line: shown with every refusal and in the README."""

_DECODE_TIMEOUT = 180.0
_PROBE_TIMEOUT = 20.0

SPARE_SECONDS = 1.0
"""Encoders pad: a recording of just the longest length may hold so much more."""

UNKNOWN_CODECS = ("none", "unknown")
LAST_OGG_BYTES = 128 * 1024
"""More than the largest page of an Ogg file, which has 65,307 bytes: the last one is in here."""


@dataclass(frozen=True, slots=True)
class Probe:
    """What the file says of itself.

    duration : seconds; None where it does not say, or where the length is only an estimate from
        the size of the file (raw AAC, MP3 without an index, a WAV that was written to a pipe).
    container : the demuxer's name.
    """

    codec: str
    sample_rate: int
    channels: int
    duration: float | None
    container: str = ""


@dataclass(frozen=True, slots=True)
class Recording:
    """A decoded recording: mono samples at `sample_rate`, and where they came from."""

    samples: Samples
    sample_rate: int
    source: Probe

    @property
    def duration(self) -> float:
        """Length in seconds."""
        return len(self.samples) / self.sample_rate


def probe(path: Path) -> Probe:
    """Look at a file without decoding it.

    Raises
    ------
    RefusedAudio
        When it is missing, empty, too large, not audio, or outside the limits.
    """
    if not path.is_file():
        raise RefusedAudio("there is no such file")
    size = path.stat().st_size
    if size == 0:
        raise RefusedAudio("the file is empty")
    if size > LARGEST_BYTES:
        raise RefusedAudio(
            f"the file has {size // 1024**2} MB; at most {LARGEST_BYTES // 1024**2} MB are taken"
        )
    command = ["ffprobe", "-v", "warning", "-of", "json", "-show_streams", "-show_format"]
    warnings: list[str] = []
    try:
        answer = run_limited(
            [*command, *input_options(path)],
            most_bytes=1 << 20,
            timeout=_PROBE_TIMEOUT,
            warnings=warnings,
        )
        found = json.loads(answer)
    except (ProgramFailed, json.JSONDecodeError) as error:
        raise _not_audio() from error
    audio = [item for item in found.get("streams", []) if item.get("codec_type") == "audio"]
    if not audio:
        raise RefusedAudio("there is no audio in this file")
    stream, container = audio[0], str(found.get("format", {}).get("format_name", ""))
    length = stream.get("duration") or found.get("format", {}).get("duration")
    if any("Estimating duration" in warning for warning in warnings):
        length = None
    result = Probe(
        codec=str(stream.get("codec_name", "unknown")),
        sample_rate=int(stream.get("sample_rate") or 0),
        channels=int(stream.get("channels") or 0),
        duration=float(length) if length not in (None, "N/A") else None,
        container=container,
    )
    _check_probe(result)
    cut = ogg_is_cut(path) if container == "ogg" else container == "wav" and wav_is_cut(path)
    if cut:
        raise RefusedAudio(
            "the file is cut off: it ends in the middle. Export it again and import that"
        )
    return result


def _not_audio() -> RefusedAudio:
    return RefusedAudio(f"this is not audio that can be read (taken: {LIMITS_TEXT})")


def _check_probe(found: Probe) -> None:
    if found.codec in UNKNOWN_CODECS:
        raise RefusedAudio(
            "its sound is coded in a way that cannot be read: export it as WAV or FLAC"
        )
    if not found.sample_rate or not found.channels:
        # A picture or a text that happens to look like a header, not a recording.
        raise _not_audio()
    if not LOWEST_RATE <= found.sample_rate <= HIGHEST_RATE:
        raise RefusedAudio(
            f"its sample rate is {found.sample_rate} Hz; "
            f"{LOWEST_RATE // 1000} to {HIGHEST_RATE // 1000} kHz are taken"
        )
    if found.channels > MOST_CHANNELS:
        raise RefusedAudio(f"it has {found.channels} channels; 1 to {MOST_CHANNELS} are taken")
    if found.duration is not None:
        _check_longest(found.duration)


def _check_longest(seconds: float) -> None:
    if seconds > LONGEST_SECONDS + SPARE_SECONDS:
        # Rounded up: what is refused never reads as what is taken.
        minutes, rest = divmod(math.ceil(seconds), 60)
        raise RefusedAudio(
            f"it lasts {minutes}:{rest:02} minutes; "
            f"at most {LONGEST_SECONDS // 60} minutes are taken"
        )


WAV_SPARE = 0.9
"""Some programs write a length that is a little too long; what misses a tenth is cut off."""


def wav_is_cut(path: Path) -> bool:
    """Whether a RIFF header promises much more than the file holds.

    Who writes to a pipe does not know the length: all ones, or zero, stand for that.
    """
    with path.open("rb") as file:
        header = file.read(8)
    promised = int.from_bytes(header[4:8], "little")
    known = header[:4] == b"RIFF" and 0 < promised < 0x7FFFFF00
    return known and path.stat().st_size < WAV_SPARE * promised


def ogg_is_cut(path: Path) -> bool:
    """Whether the last page of an Ogg file is missing its end (RFC 3533, section 6).

    A page says by its segment table how long it is. A file that ends between two pages, as a
    recorded broadcast does, is whole as far as it goes.
    """
    size = path.stat().st_size
    with path.open("rb") as file:
        file.seek(max(0, size - LAST_OGG_BYTES))
        tail = file.read()
    start = tail.rfind(b"OggS")
    if start < 0:
        return True
    header = tail[start : start + 27]
    segments = header[26] if len(header) == 27 else 0
    table = tail[start + 27 : start + 27 + segments]
    return (
        len(header) < 27 or len(table) < segments or len(tail) < start + 27 + segments + sum(table)
    )


def decode(path: Path, *, cancelled: Callable[[], bool] = lambda: False) -> Recording:
    """Decode a file to mono samples at SAMPLE_RATE.

    Raises
    ------
    RefusedAudio
        When the file cannot be taken; the text names the reason and the limit.
    Cancelled
        When `cancelled` answers True meanwhile.
    """
    return _decoded(path, cancelled)


def _decoded(path: Path, cancelled: Callable[[], bool], *more: tuple[str, ...]) -> Recording:
    """Run the decoder; `more`: options and target of each further output of the same pass."""
    source = probe(path)
    command = ["ffmpeg", "-v", "error", "-nostdin", "-y", "-threads", "1"]
    if not _ends_anywhere(source):
        command.append("-xerror")
    command += input_options(path)
    mono = ("-ac", "1", "-f", "f32le", "-c:a", "pcm_f32le", "pipe:1")
    for output in (mono, *more):
        command += [*_THE_SOUND_ALONE, *_TO_THE_LIMIT, *output]
    try:
        raw = run_limited(
            command,
            most_bytes=4 * SAMPLE_RATE * (LONGEST_SECONDS + 4),
            timeout=_DECODE_TIMEOUT,
            cancelled=cancelled,
        )
    except ProgramFailed as error:
        if any(NO_ROOM in line for line in error.complaints):
            raise OSError(errno.ENOSPC, NO_ROOM) from error
        raise RefusedAudio(
            "the file is damaged or cut off: it could not be decoded to its end. "
            "Export it again and import that"
        ) from error
    samples = np.frombuffer(raw[: len(raw) // 4 * 4], dtype="<f4").astype(np.float32, copy=False)
    return checked(samples, source)


NO_ROOM = os.strerror(errno.ENOSPC)
"""What the decoder complains of where its copies do not fit on the disk."""

_COUNTED_BY_SAMPLES = ("-af", f"aresample={SAMPLE_RATE},asetpts=N/SR/TB")
"""Time as the samples have it, which is what the analysis goes by: files whose own time stamps go
back by a hair would stop the encoder."""

_THE_SOUND_ALONE = ("-map", "0:a:0", "-vn", "-sn", "-dn", "-ar", str(SAMPLE_RATE))
_TO_THE_LIMIT = ("-t", str(LONGEST_SECONDS + 2))
"""Nothing is decoded much beyond what is taken, whatever length a header claims."""


def _ends_anywhere(source: Probe) -> bool:
    """Whether its last packet may be short: of a WAV that was written to a pipe, whose header had
    to be written before its length was known.
    """
    return source.container == "wav" and source.duration is None


def checked(samples: Samples, source: Probe) -> Recording:
    """Refuse samples that are no sound: too few, not numbers, or cut off against the header.

    Parameters
    ----------
    samples : shape (n,), mono, at SAMPLE_RATE.
    source : what the file said of itself.

    Returns
    -------
    The samples with their source.

    Raises
    ------
    RefusedAudio
        The text says what is wrong and what is taken.
    """
    seconds = len(samples) / SAMPLE_RATE
    if seconds > LONGEST_SECONDS + SPARE_SECONDS:
        raise RefusedAudio(f"it lasts over {LONGEST_SECONDS // 60} minutes; no more are taken")
    if seconds < SHORTEST_SECONDS:
        # Rounded down, for the same reason as above.
        shown = math.floor(100 * seconds) / 100
        raise RefusedAudio(
            f"it lasts {shown:.2f} s; at least {SHORTEST_SECONDS:.0f} s are needed to find a beat"
        )
    if not np.isfinite(samples).all():
        raise RefusedAudio(
            "it holds samples that are not numbers (NaN or infinite): export it again"
        )
    promised = source.duration
    if promised is not None and seconds < 0.9 * promised - 1.0:
        raise RefusedAudio(
            f"the file is cut off: it promises {promised:.0f} s and holds {seconds:.0f} s"
        )
    return Recording(samples=samples, sample_rate=SAMPLE_RATE, source=source)


def write_listening_copy(
    path: Path, target: Path, *, cancelled: Callable[[], bool] = lambda: False
) -> Samples:
    """Write what browsers play: Ogg Vorbis, stereo, 44.1 kHz; gives back the samples, mono.

    The decoder that feeds the analysis feeds the copy, so that second 12.3 of one is second 12.3 of
    the other whatever padding the original's format has.

    Parameters
    ----------
    path : the recording; it is only read.
    target : where the copy goes, whole or not at all.
    cancelled : asked several times a second; True stops the work.

    Returns
    -------
    Shape (n,), at SAMPLE_RATE, as `decode` gives them.

    Raises
    ------
    RefusedAudio, Cancelled
        Nothing is left at the target then.
    """
    # Of its own: two that make the same copy at once, each whole, do not take it from each other.
    partial = target.with_name(f"{target.stem}-{secrets.token_hex(4)}.part")
    if probe(path).duration is None:
        # Three silent hours without a length in their header take minutes to copy: look first.
        decode(path, cancelled=cancelled)
    vorbis = [
        *_COUNTED_BY_SAMPLES,
        "-ac",
        "2",
        "-map_metadata",
        "-1",
        "-c:a",
        "libvorbis",
        "-q:a",
        "6",
        "-f",
        "ogg",
    ]
    try:
        samples = _decoded(path, cancelled, (*vorbis, str(partial))).samples
        partial.replace(target)
    finally:
        partial.unlink(missing_ok=True)
    return samples
