"""Drums forward, drums down, bass forward: the record as the network's masks divide it.

The masks say for each band and frame how much of the power is the drums'. Used as gains on a
short-time spectrum (Wiener's filter) they let the drums through, or what is left of the record
without them. The bass is what is left in the low bands. Everything is streamed block by block from
one decoder to the encoders, so that a long song needs no more memory than a short one.
"""

from __future__ import annotations

import io
import subprocess
import zipfile
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from enum import StrEnum
from pathlib import Path
from typing import IO

import numpy as np
import numpy.typing as npt
from scipy.fft import irfft, rfft

from orchesis.audio.decode import SAMPLE_RATE, Samples
from orchesis.audio.programs import input_options, limited
from orchesis.errors import Cancelled, OrchesisError
from orchesis.listening.ear import Bands
from orchesis.listening.features import HOP, WINDOW, band_centres


class Part(StrEnum):
    """What can be heard of a record; the value is the file's name."""

    DRUMS_FORWARD = "drums-forward"
    DRUMS_DOWN = "drums-down"
    BASS_FORWARD = "bass-forward"


FRAMES_A_STEP = 2
STEP = FRAMES_A_STEP * HOP
"""Every second frame of the masks is used: half the work, and 20 ms still follow a drum."""

BLOCK_FRAMES = 500
LEAST_GAIN = 0.05
"""-26 dB: what is left of the other side hides the holes that a mask would leave."""

BASS_HZ = 260.0
BASS_LIFT, REST_UNDER_BASS = 1.7, 0.3
SHARPNESS = 1.6
"""Masks are pushed away from one half by this power of the odds: see docs/measurements.md."""

LEAN = {Part.DRUMS_FORWARD: 0.8, Part.DRUMS_DOWN: 3.0, Part.BASS_FORWARD: 3.0}
"""Odds are multiplied by this: to take drums away, what is in doubt counts as drums. Both were
chosen on kits that were trained on."""

Block = npt.NDArray[np.float32]
"""Shape (samples, channels)."""


def spread_over_bins(sample_rate: int) -> Bands:
    """Weights that carry a gain per band to a gain per bin.

    Parameters
    ----------
    sample_rate : Hz.

    Returns
    -------
    Shape (bands, bins); each bin's weights sum to 1.
    """
    centres = band_centres(sample_rate)
    bins = np.arange(WINDOW // 2 + 1) * sample_rate / WINDOW
    place = np.interp(np.log(np.maximum(bins, 1.0)), np.log(centres), np.arange(len(centres)))
    low = np.minimum(place.astype(int), len(centres) - 2)
    weights = np.zeros((len(centres), len(bins)), np.float32)
    columns = np.arange(len(bins))
    weights[low, columns] = 1.0 - (place - low)
    weights[low + 1, columns] += place - low
    return weights


def sharpened(masks: Bands, lean: float = 1.0, power: float = SHARPNESS) -> Bands:
    """The same masks, less undecided.

    Parameters
    ----------
    masks : 0 to 1, any shape.
    lean : the odds are multiplied by this first.
    power : and raised to this.

    Returns
    -------
    Of the same shape, 0 to 1.
    """
    mine, theirs = (lean * masks) ** power, (1.0 - masks) ** power
    return np.asarray(mine / (mine + theirs + 1e-9), dtype=np.float32)


def gains(masks: Bands, part: Part, sample_rate: int) -> Bands:
    """Gain of every bin.

    Parameters
    ----------
    masks : shape (frames, bands), the drums' share of the power.
    part : what is to be heard.
    sample_rate : Hz.

    Returns
    -------
    Shape (frames, bins), LEAST_GAIN to BASS_LIFT.
    """
    share = sharpened(masks, LEAN[part]) @ spread_over_bins(sample_rate)
    if part is Part.DRUMS_FORWARD:
        return np.asarray(np.maximum(share, LEAST_GAIN), dtype=np.float32)
    rest: Bands = np.maximum(1.0 - share, LEAST_GAIN).astype(np.float32)
    if part is Part.DRUMS_DOWN:
        return rest
    low = np.arange(share.shape[1]) * sample_rate / WINDOW < BASS_HZ
    return np.where(low[None, :], BASS_LIFT * rest, REST_UNDER_BASS * rest).astype(np.float32)


def filtered(block: Block, gain_list: list[Bands]) -> list[Block]:
    """A stretch of samples under each of several gains.

    Parameters
    ----------
    block : shape (samples, channels); frame k is centred on sample k * STEP.
    gain_list : each of shape (frames, bins).
    """
    window = np.hanning(WINDOW + 1)[:-1].astype(np.float32)
    half = WINDOW // 2
    padded = np.pad(block, ((half, half + STEP), (0, 0)))
    frames = len(gain_list[0])
    pieces = np.lib.stride_tricks.sliding_window_view(padded, WINDOW, axis=0)[::STEP][:frames]
    power = np.zeros(len(padded), np.float32)
    for index in range(len(pieces)):
        power[index * STEP : index * STEP + WINDOW] += window**2
    power = np.maximum(power, 1e-3)[half : half + len(block), None]
    # The spectrum is the same for all parts: it is computed once.
    spectrum = rfft(pieces * window, axis=2)
    made = []
    for gain in gain_list:
        sounding = irfft(spectrum * gain[: len(pieces), None, :], axis=2) * window
        result = np.zeros_like(padded)
        for index in range(len(pieces)):
            result[index * STEP : index * STEP + WINDOW] += sounding[index].T
        whole = result[half : half + len(block)] / power
        made.append(np.ascontiguousarray(whole, dtype=np.float32))
    return made


def blocks(samples: Iterator[Block], masks: Bands, part_list: list[Part]) -> Iterator[list[Block]]:
    """For each stretch of the song one filtered block per part, in order, without gaps.

    Parameters
    ----------
    samples : the record, block by block, shape (samples, 2).
    masks : shape (frames, bands).
    part_list : what is to be made.

    Returns
    -------
    Yields for each stretch one block, shape (samples, 2), per part.
    """
    context = WINDOW // STEP + 2
    skip = context * STEP
    size_of_block = (BLOCK_FRAMES + 2 * context) * STEP
    held = np.zeros((0, 2), np.float32)
    first = 0  # the frame on whose centre `held` begins, counted in steps
    ended = False
    while not ended:
        while len(held) < size_of_block and not ended:
            fresh = next(samples, None)
            ended = fresh is None
            held = held if fresh is None else np.concatenate([held, fresh])
        lead = skip if first else 0
        size = len(held) if ended else size_of_block
        block = held[:size]
        count = len(block) // STEP + 1
        rows = np.clip(FRAMES_A_STEP * np.arange(first, first + count), 0, len(masks) - 1)
        tail = 0 if ended else skip
        gain_list = [gains(masks[rows], part, SAMPLE_RATE) for part in part_list]
        yield [sound[lead : len(sound) - tail] for sound in filtered(block, gain_list)]
        # The next block begins `context` steps before what it has to give.
        begin = size - tail - skip
        held, first = held[begin:], first + begin // STEP


def packed_masks(masks: Bands) -> bytes:
    """Masks as the bytes of a compressed file, for whoever takes the record apart later.

    Parameters
    ----------
    masks : shape (frames, bands), 0 to 1.
    """
    file = io.BytesIO()
    np.savez_compressed(file, masks=np.round(255 * np.clip(masks, 0, 1)).astype(np.uint8))
    return file.getvalue()


def unpacked_masks(data: bytes) -> Bands:
    """The masks that `packed_masks` wrote. Raises OrchesisError for anything else.

    Returns
    -------
    Shape (frames, bands), 0 to 1.
    """
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as held:
            return np.asarray(held["masks"], dtype=np.float32) / np.float32(255)
    except (KeyError, ValueError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise OrchesisError("what was heard is damaged: listen to this song again") from error


BLOCK_BYTES = 2 * 4 * SAMPLE_RATE * 10
"""Ten seconds of two channels of float32."""


def decoded(path: Path) -> Iterator[Block]:
    """The samples of a recording, stereo at SAMPLE_RATE, about ten seconds at a time."""
    command = [
        *limited(),
        "ffmpeg",
        "-v",
        "error",
        "-nostdin",
        "-threads",
        "1",
        *input_options(path),
    ]
    command += ["-map", "0:a:0", "-ac", "2", "-ar", str(SAMPLE_RATE), "-f", "f32le", "pipe:1"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stdin=subprocess.DEVNULL) as child:
        assert child.stdout is not None
        try:
            yield from _read_in_blocks(child.stdout)
        finally:
            if child.poll() is None:
                child.kill()


def _read_in_blocks(file: IO[bytes]) -> Iterator[Block]:
    while data := file.read(BLOCK_BYTES):
        yield np.frombuffer(data[: len(data) // 8 * 8], np.float32).reshape(-1, 2)


def write_parts(
    sound: Iterator[Block],
    masks: Bands,
    folder: Path,
    *,
    parts: tuple[Part, ...] = tuple(Part),
    report: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Write one Ogg Opus file for each part into `folder`, all or none.

    Parameters
    ----------
    sound : the record, as `decoded` gives it.
    masks : shape (frames, bands), the drums' share of the power, from the network.
    folder : where the files go. parts : which of them.
    report : told of the share done, 0 to 1. cancelled : asked at each block.

    Raises
    ------
    Cancelled, OrchesisError
        Nothing is left in the folder then.
    """
    partial = {part: folder / f"{part.value}.part" for part in parts}
    encoders = {part: _encoder(target) for part, target in partial.items()}
    done, total = 0, max(1, len(masks) * HOP)
    # A thread feeds each encoder while the next block is made: one after the other, each would
    # wait for all others.
    feeders = ThreadPoolExecutor(len(parts))
    fed: list[Future[None]] = []
    try:
        for made in blocks(sound, masks, list(parts)):
            if cancelled():
                raise Cancelled("stopped")
            for future in fed:
                future.result()
            fed = [
                feeders.submit(_feed, encoders[part], np.clip(block, -1.0, 1.0))
                for part, block in zip(parts, made, strict=True)
            ]
            done += len(made[0])
            report(min(1.0, done / total))
        for future in fed:
            future.result()
        for encoder in encoders.values():
            assert encoder.stdin is not None
            encoder.stdin.close()
            if encoder.wait(60) != 0:
                raise OrchesisError("the drums could not be taken apart: is the disk full?")
        for part, target in partial.items():
            target.replace(folder / f"{part.value}.ogg")
    finally:
        for encoder in encoders.values():
            if encoder.poll() is None:
                encoder.kill()
                encoder.wait()
        # What still feeds a killed encoder ends with an error of its own, which nobody awaits.
        feeders.shutdown()
        for target in partial.values():
            target.unlink(missing_ok=True)


def encoded_to(target: Path, sound: Iterator[Block]) -> None:
    """Write sound as Ogg Opus, whole or not at all.

    Parameters
    ----------
    target : the file.
    sound : blocks of shape (samples, 2), float32 at SAMPLE_RATE.

    Raises
    ------
    OrchesisError
        Where the encoder fails; nothing is left then.
    """
    partial = target.with_suffix(".part")
    encoder = _encoder(partial)
    try:
        for block in sound:
            _feed(encoder, np.clip(block, -1.0, 1.0))
        assert encoder.stdin is not None
        encoder.stdin.close()
        if encoder.wait(60) != 0:
            raise OrchesisError("the copy could not be written: is the disk full?")
        partial.replace(target)
    finally:
        if encoder.poll() is None:
            encoder.kill()
            encoder.wait()
        partial.unlink(missing_ok=True)


def _encoder(target: Path) -> subprocess.Popen[bytes]:
    command = ["ffmpeg", "-v", "error", "-y", "-threads", "1", "-f", "f32le", "-ac", "2"]
    command += ["-ar", str(SAMPLE_RATE), "-i", "pipe:0", "-c:a", "libopus", "-b:a", "128k"]
    # Of all stages this takes longest: Opus takes half of Vorbis's time or less, and its second
    # least effort a quarter less than its third. With the least it no longer looks for attacks.
    # It knows no 44.1 kHz.
    command += ["-compression_level", "1", "-ar", "48000"]
    return subprocess.Popen([*command, "-f", "ogg", str(target)], stdin=subprocess.PIPE)


def _feed(encoder: subprocess.Popen[bytes], block: Samples) -> None:
    assert encoder.stdin is not None
    try:
        encoder.stdin.write(block.astype("<f4").tobytes())
    except BrokenPipeError as error:
        raise OrchesisError("the drums could not be taken apart: is the disk full?") from error
