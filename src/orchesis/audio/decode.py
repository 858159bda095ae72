"""Decoding: from an untrusted file to samples, or to a refusal that says why.

Samples are float32, mono, at SAMPLE_RATE, in about -1 to 1. The ffmpeg program does the decoding
in a child process with limits on time, memory and size, so that a hostile or broken file costs
at most a refusal.
"""

from __future__ import annotations

import json
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


@dataclass(frozen=True, slots=True)
class Probe:
    """What the file says of itself. `duration` is None where it does not say."""

    codec: str
    sample_rate: int
    channels: int
    duration: float | None


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
    command = ["ffprobe", "-v", "error", "-of", "json", "-show_streams", "-show_format"]
    try:
        answer = run_limited(
            [*command, *input_options(path)], most_bytes=1 << 20, timeout=_PROBE_TIMEOUT
        )
        found = json.loads(answer)
    except (ProgramFailed, json.JSONDecodeError) as error:
        raise RefusedAudio(f"this is not audio that can be read (taken: {LIMITS_TEXT})") from error
    audio = [item for item in found.get("streams", []) if item.get("codec_type") == "audio"]
    if not audio:
        raise RefusedAudio("there is no audio in this file")
    stream = audio[0]
    length = stream.get("duration") or found.get("format", {}).get("duration")
    result = Probe(
        codec=str(stream.get("codec_name", "unknown")),
        sample_rate=int(stream.get("sample_rate") or 0),
        channels=int(stream.get("channels") or 0),
        duration=float(length) if length not in (None, "N/A") else None,
    )
    _check_probe(result)
    return result


def _check_probe(found: Probe) -> None:
    if not LOWEST_RATE <= found.sample_rate <= HIGHEST_RATE:
        raise RefusedAudio(
            f"its sample rate is {found.sample_rate} Hz; "
            f"{LOWEST_RATE // 1000} to {HIGHEST_RATE // 1000} kHz are taken"
        )
    if not 1 <= found.channels <= MOST_CHANNELS:
        raise RefusedAudio(f"it has {found.channels} channels; 1 to {MOST_CHANNELS} are taken")
    if found.duration is not None and found.duration > LONGEST_SECONDS:
        raise RefusedAudio(
            f"it lasts {found.duration / 60:.0f} minutes; "
            f"at most {LONGEST_SECONDS // 60} minutes are taken"
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
    source = probe(path)
    command = ["ffmpeg", "-v", "error", "-nostdin", "-xerror", "-threads", "1"]
    output = ["-map", "0:a:0", "-vn", "-sn", "-dn", "-ac", "1", "-ar", str(SAMPLE_RATE)]
    output += ["-f", "f32le", "-c:a", "pcm_f32le", "pipe:1"]
    try:
        raw = run_limited(
            [*command, *input_options(path), *output],
            most_bytes=4 * SAMPLE_RATE * (LONGEST_SECONDS + 1),
            timeout=_DECODE_TIMEOUT,
            cancelled=cancelled,
        )
    except ProgramFailed as error:
        if "more audio" in str(error):
            raise RefusedAudio(f"it lasts over {LONGEST_SECONDS // 60} minutes") from error
        raise RefusedAudio(
            "the file is damaged or cut off: it could not be decoded to its end. "
            "Export it again and import that"
        ) from error
    samples = np.frombuffer(raw[: len(raw) // 4 * 4], dtype="<f4").astype(np.float32, copy=False)
    return checked(samples, source)


def checked(samples: Samples, source: Probe) -> Recording:
    """Refuse samples that are no sound: too few, not numbers, or cut off against the header."""
    seconds = len(samples) / SAMPLE_RATE
    if seconds < SHORTEST_SECONDS:
        raise RefusedAudio(
            f"it lasts {seconds:.1f} s; at least {SHORTEST_SECONDS:.0f} s are needed to find a beat"
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
) -> None:
    """Write the copy that browsers play: Ogg Vorbis, stereo, sample-exact in time.

    The same decoder as `decode` is used, so that second 12.3 of the copy is second 12.3 of the
    analysis whatever padding the original's format has. Raises RefusedAudio or Cancelled; on
    either nothing is left at `target`.
    """
    partial = target.with_suffix(".part")
    output = ["-map", "0:a:0", "-vn", "-sn", "-dn", "-ac", "2", "-ar", str(SAMPLE_RATE)]
    output += ["-map_metadata", "-1", "-c:a", "libvorbis", "-q:a", "6", "-f", "ogg", str(partial)]
    command = ["ffmpeg", "-v", "error", "-nostdin", "-y", "-threads", "1"]
    try:
        run_limited(
            [*command, *input_options(path), *output],
            most_bytes=1 << 20,
            timeout=_DECODE_TIMEOUT,
            cancelled=cancelled,
        )
        partial.replace(target)
    except ProgramFailed as error:
        raise RefusedAudio(f"the listening copy could not be made: {error}") from error
    finally:
        partial.unlink(missing_ok=True)
